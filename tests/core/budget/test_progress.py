"""How far an aim has come: what should be there, the pace, and when it is reached."""

import unittest

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.budget.progress import MOST_REACHED, PACE_OVER, progress_in, progress_of
from bolsa.core.months import Month

JAN = Month(2026, 1)
YEAR = Aim("build", 120_000, by=JAN + 11, since=JAN)


class Progressing(unittest.TestCase):
    def test_what_should_be_there_grows_evenly_from_where_it_began(self):
        for month, begun, should in ((JAN, 0, 10_000), (JAN + 5, 0, 60_000), (JAN + 11, 0, 120_000), (JAN + 5, 60_000, 90_000)):
            with self.subTest(month=month, begun=begun):
                self.assertEqual(progress_of(YEAR, month, 0, begun, [0]).should_minor, should)
        self.assertIsNone(progress_of(YEAR, JAN + 12, 0, 0, [0]).should_minor, "its month is past")
        self.assertEqual(progress_of(Aim("keep", 500), JAN, 1, 0, [0]).should_minor, 500)
        each = Aim("build", 1_000, each_minor=300, since=JAN)
        self.assertEqual([progress_of(each, JAN + n, 0, 0, [0]).should_minor for n in (0, 2, 3)], [300, 900, 1_000])

    def test_on_course_to_the_cent(self):
        self.assertTrue(progress_of(YEAR, JAN + 5, 60_000, 0, [0]).is_on_course)
        behind = progress_of(YEAR, JAN + 5, 59_999, 0, [0])
        self.assertEqual((behind.is_on_course, behind.lacks_minor), (False, 1))
        self.assertTrue(progress_of(YEAR, JAN + 5, 120_000, 0, [0]).is_reached)

    def test_the_pace_is_the_mean_of_lately_without_a_month_in_which_nothing_is_placed_yet(self):
        for placed, pace in (
            ([100, 200, 300], 200), ([100, 300, 0], 200), ([0], 0), ([], 0), ([900, *[100] * PACE_OVER], 100),
            ([900, *[100] * (PACE_OVER - 1)], (900 + 100 * (PACE_OVER - 1)) // PACE_OVER), ([100, -300], 100),
        ):  # fmt: skip
            with self.subTest(placed):
                self.assertEqual(progress_of(YEAR, JAN + 5, 0, 0, placed).pace_minor, pace)

    def test_reached_when_the_pace_has_brought_what_is_missing(self):
        for there, reached in ((120_000, JAN), (119_999, JAN + 1), (110_000, JAN + 1), (109_999, JAN + 2), (0, JAN + 12)):
            with self.subTest(there):
                self.assertEqual(progress_of(YEAR, JAN, there, 0, [10_000]).reached_in, reached)
        self.assertIsNone(progress_of(YEAR, JAN, 0, 0, [0]).reached_in)
        for months, is_said in ((MOST_REACHED, True), (MOST_REACHED + 1, False)):
            found = progress_of(Aim("build", months, each_minor=1), JAN, 0, 0, [1])
            self.assertEqual(found.reached_in, JAN + months if is_said else None)

    def test_the_share_of_a_debt_is_the_way_from_where_it_stood(self):
        owed = progress_of(Aim("build", 0, by=JAN + 9, since=JAN), JAN, -750, -1_000, [0])
        self.assertEqual((owed.share(-750), owed.share(-1_000), owed.share(0)), (0.25, 0, 1))
        half = progress_of(YEAR, JAN, 60_000, 30_000, [0])
        self.assertEqual((half.share(60_000), half.share(999_999), half.share(-5)), (0.5, 1, 0))

    def test_it_is_read_from_a_plan_with_its_accounts(self):
        plan = CategoryPlan(1, placed={JAN: 5_000, JAN + 1: 7_000}, spent={JAN + 1: 2_000}, aim=YEAR, held={JAN + -1: 20_000})
        found = progress_in(plan, JAN + 1)
        self.assertEqual((found.there_minor, found.from_minor, found.pace_minor), (30_000, 20_000, 6_000))
        self.assertIsNone(progress_in(CategoryPlan(1, aim=Aim("spread")), JAN))


if __name__ == "__main__":
    unittest.main()
