"""A trial laid over a plan."""

import unittest

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan, expected_by_month
from bolsa.core.budget.trial import Trial, TrialCell, tried
from bolsa.core.months import Month

JAN = Month(2026, 1)
PLAN = CategoryPlan(1, expected={JAN: 100, JAN + 6: 120}, every={JAN + 6: 3}, placed={JAN: 7})


def figures(plan):
    return [expected_by_month(plan.expected, plan.every)(JAN + n)[0] for n in (0, 3, 5, 6, 7, 9)]


class Trying(unittest.TestCase):
    def test_cells_are_set_cleared_and_given_a_rhythm(self):
        self.assertEqual(figures(tried(PLAN, Trial(1, cells={(1, JAN + 3): TrialCell(150)}))), [100, 150, 150, 120, 0, 120])
        self.assertEqual(figures(tried(PLAN, Trial(1, cells={(1, JAN + 6): TrialCell(None)}))), [100] * 6)
        self.assertEqual(figures(tried(PLAN, Trial(1, cells={(1, JAN + 3): TrialCell(50, 0)}))), [100, 50, 100, 120, 0, 120])
        self.assertEqual(figures(tried(PLAN, Trial(1, cells={(1, JAN + 6): TrialCell(9)}))), [100, 100, 100, 9, 9, 9])

    def test_without_a_category_nothing_is_expected_from_then_on(self):
        self.assertEqual(figures(tried(PLAN, Trial(1, dropped={1: JAN + 3}))), [100, 0, 0, 0, 0, 0])

    def test_another_category_stays_as_it_is_and_so_does_what_was_placed(self):
        trial = Trial(1, dropped={2: JAN}, aims={2: Aim("keep", 5)})
        self.assertIs(tried(PLAN, trial), PLAN)
        other = tried(PLAN, Trial(1, aims={1: Aim("keep", 5)}))
        self.assertEqual((other.aim, other.placed), (Aim("keep", 5), PLAN.placed))
        self.assertEqual((Trial(1).is_empty, trial.is_empty, trial.category_ids), (True, False, {2}))


if __name__ == "__main__":
    unittest.main()
