"""Twelve months of the plan: what is left over, dips, usual amounts."""

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.budget.year import MONTHS, MOST_FULL, usual_amount, year_of
from bolsa.core.due.rhythm import Rhythm, extra_months
from bolsa.core.months import Month, full_months, months_between

JAN, MAY = Month(2026, 1), Month(2026, 5)


class TheYear(unittest.TestCase):
    def a_year(self, first=JAN, outside=None):
        pay = CategoryPlan(1, expected={JAN: 2000}, spent={JAN: 1900, JAN + 1: 2100, MAY: 500})
        rent = CategoryPlan(2, expected={JAN: 900}, spent={JAN: 900, JAN + 1: 950})
        lease = CategoryPlan(3, expected={Month(2026, 6): 5000}, every={Month(2026, 6): 6})
        return year_of(first, MAY, [pay], [rent, lease], outside or {}, [])

    def test_months_that_are_over_go_as_they_came_and_the_rest_as_expected(self):
        year = self.a_year(outside={JAN: 30, MAY: 99})
        self.assertEqual(year.left_over, (970, 1150, 0, 0, 1100, -3900, *[1100] * 5, -3900))
        self.assertEqual(year.added_up[:6], (970, 2120, 2120, 2120, 3220, -680))
        self.assertEqual(year.dips, (5, 11))
        self.assertEqual([cell.actual_minor for cell in year.row_of(1).cells][3:7], [0, 500, None, None])
        self.assertEqual((year.total_of("in"), year.total_of("out")), (sum(year.came_in), sum(year.went_out)))

    def test_a_year_behind_is_as_it_came_and_one_ahead_as_expected(self):
        self.assertEqual(self.a_year(Month(2025, 1)).over_months, 12)
        self.assertEqual(self.a_year(Month(2027, 1)).left_over[0], 1100)

    def test_what_makes_a_month_dip_is_what_goes_beyond_its_mean_or_comes_below_it(self):
        year = self.a_year()
        self.assertEqual(year.causes_of(5), (3,))
        self.assertEqual(year.causes_of(2), (1,), "no pay came, and no rent went")
        self.assertEqual(year_of(JAN, MAY, [], [CategoryPlan(9, expected={JAN: 5})], {}, []).causes_of(6), (9,))

    def test_what_is_put_by_for_an_aim_counts_from_the_present_month_on(self):
        kiln = CategoryPlan(1, placed={JAN: 3_000}, aim=Aim("build", 9_000, by=Month(2026, 8), since=JAN))
        by_hand = CategoryPlan(2, expected={Month(2026, 6): 70}, aim=Aim("steady", 50))
        year = year_of(JAN, MAY, [], [kiln, by_hand], {}, [])
        self.assertEqual([cell.aimed_minor for cell in year.row_of(1).cells], [0, 0, 0, 0, *[1_500] * 4, 0, 0, 0, 0])
        self.assertEqual(year.row_of(2).goes_minor, 7 * 70)
        self.assertEqual(year_of(Month(2025, 1), MAY, [], [kiln], {}, []).row_of(1).goes_minor, 0)

    def test_sums_by_type_are_expected_and_actual(self):
        year = self.a_year(outside={JAN: 30, MAY: 99})
        self.assertEqual((year.expected_of("in")[0], year.expected_of("out")[5]), (2000, 5900))
        self.assertEqual(
            (year.actual_of("in")[:5], year.actual_of("out")[:6]), ((1900, 2100, 0, 0, 500), (930, 950, 0, 0, 99, 0))
        )
        self.assertEqual((year.row_of(2).mean_minor, self.a_year(Month(2027, 1)).row_of(2).mean_minor), (463, None))

    @given(st.lists(st.integers(-10_000, 10_000), min_size=MONTHS, max_size=MONTHS))
    def test_what_is_left_over_is_in_less_out_and_adds_up(self, spent):
        plan = CategoryPlan(1, spent={JAN + i: amount for i, amount in enumerate(spent)})
        year = year_of(JAN, Month(2027, 1), [], [plan], {}, [])
        self.assertEqual(year.added_up[-1], year.total_of("in") - year.total_of("out"))
        self.assertEqual(year.row_of(1).goes_minor, sum(spent))

    def test_usual_amounts_are_offered_to_empty_rows_of_full_months_only(self):
        full = months_between(Month(2024, 1), Month(2026, 4))
        spent = {m: 1200 if m >= Month(2025, 5) else 9_000_000 for m in full} | {MAY: 1}
        empty, planned = CategoryPlan(1, spent=spent), CategoryPlan(2, spent=spent, expected={MAY: 0})
        year = year_of(JAN, MAY, [], [empty, planned], {}, full)
        self.assertEqual([row.usual_minor for row in year.spendings], [1200, 0])  # the last MOST_FULL months, no half one
        self.assertEqual(MOST_FULL, 12)
        self.assertEqual(year_of(Month(2025, 1), MAY, [], [empty], {}, full).row_of(1).usual_minor, 0)

    def test_the_mean_rounds_half_up_and_never_below_nothing(self):
        for amounts, mean in (([1, 2], 2), ([1, 1, 2], 1), ([-900, 100], 0), ([], 0), ([0, 0, 1], 0)):
            self.assertEqual(usual_amount(amounts), mean)
            if amounts and sum(amounts) >= 0:
                self.assertLessEqual(abs(Decimal(sum(amounts)) / len(amounts) - mean), Decimal("0.5"))

    def test_a_month_is_full_from_its_first_day_on(self):
        for began, first in ((date(2026, 1, 1), JAN), (date(2026, 1, 2), Month(2026, 2)), (date(2025, 12, 31), JAN)):
            self.assertEqual(full_months(began, MAY)[0], first)
        self.assertEqual(full_months(date(2026, 4, 2), MAY), [])
        self.assertEqual(full_months(None, MAY), [])

    def test_months_with_more_of_it_than_usual(self):
        year = months_between(JAN, Month(2026, 12))
        for rule, start, found in (
            ("FREQ=WEEKLY;INTERVAL=2", date(2026, 1, 2), {JAN: 3, Month(2026, 7): 3}),
            ("FREQ=WEEKLY;INTERVAL=4", date(2026, 1, 2), {JAN: 2}),
            ("FREQ=MONTHLY;BYMONTHDAY=31", date(2026, 1, 31), {}),
            ("FREQ=YEARLY", date(2026, 3, 5), {}),
        ):
            with self.subTest(rule):
                self.assertEqual(extra_months(Rhythm(rule, start, weekend="before"), year), found)


if __name__ == "__main__":
    unittest.main()
