"""The budget's arithmetic: the worked examples of its definition, and what holds for any history."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.month import MOST_AHEAD, CategoryPlan, budget_month, carry, category_month, expected_by_month
from bolsa.core.months import Month, months_between

JAN = Month(2026, 1)
AMOUNTS = st.dictionaries(st.integers(0, 23).map(lambda i: JAN + i), st.integers(-50_000, 50_000), max_size=12)
GAINS = st.dictionaries(st.integers(0, 23).map(lambda i: JAN + i), st.integers(0, 50_000), max_size=12)
PLANS = st.builds(
    CategoryPlan,
    st.integers(1, 9),
    carries=st.booleans(),
    carries_minus=st.booleans(),
    expected=GAINS,
    placed=AMOUNTS,
    spent=AMOUNTS,
)


class ExpectedAmounts(unittest.TestCase):
    def test_six_hundred_in_june_and_december_is_three_figures(self):
        expected = {Month(2026, 6): 600, Month(2026, 7): 0, Month(2026, 12): 600}
        months = months_between(Month(2026, 5), Month(2027, 1))
        self.assertEqual([expected_by_month(expected)(m)[0] for m in months], [0, 600, 0, 0, 0, 0, 0, 600, 600])

    @given(GAINS, st.integers(0, 23))
    def test_a_figure_carries_on_until_the_next_one_set_by_hand(self, expected, i):
        month = JAN + i
        amount, since = expected_by_month(expected)(month)
        if since is None:
            self.assertEqual(amount, 0)
            self.assertFalse([m for m in expected if m <= month])
        else:
            self.assertEqual(amount, expected[since])
            self.assertFalse([m for m in expected if since < m <= month])


class OneCategory(unittest.TestCase):
    def test_what_is_left_carries_and_lessens_the_need(self):
        plan = CategoryPlan(1, expected={JAN: 8000}, placed={JAN: 8000}, spent={JAN: 1834})
        row = category_month(plan, JAN + 1)
        self.assertEqual((row.carried_minor, row.need_minor, row.left_minor), (6166, 1834, 6166))

    def test_without_carrying_the_rest_returns_and_the_need_is_what_is_expected(self):
        plan = CategoryPlan(1, carries=False, expected={JAN: 8000}, placed={JAN: 8000}, spent={JAN: 1834})
        row = category_month(plan, JAN + 1)
        self.assertEqual((row.carried_minor, row.returned_minor, row.need_minor), (0, 6166, 8000))

    def test_a_shortfall_is_met_from_unplaced_unless_the_minus_is_carried(self):
        for carries_minus, carried, need in ((False, 0, 8000), (True, -2000, 10_000)):
            plan = CategoryPlan(1, carries_minus=carries_minus, expected={JAN: 8000}, placed={JAN: 8000}, spent={JAN: 10_000})
            row = category_month(plan, JAN + 1)
            self.assertEqual((row.carried_minor, row.need_minor), (carried, need))
            self.assertEqual(category_month(plan, JAN).over_minor, 2000)

    @given(PLANS)
    def test_left_is_carried_in_and_placed_less_spent_month_after_month(self, plan):
        left = 0
        for month in months_between(JAN, JAN + 26):
            row = category_month(plan, month)
            self.assertEqual(row.carried_minor, carry(plan, left))
            left = row.carried_minor + plan.placed.get(month, 0) - plan.spent.get(month, 0)
            self.assertEqual(row.left_minor, left)
            self.assertGreaterEqual(row.need_minor, 0)


class TheWhole(unittest.TestCase):
    @given(st.lists(PLANS, max_size=5), st.integers(0, 23), st.integers(-(10**6), 10**6))
    def test_unplaced_and_lefts_and_later_make_the_balance(self, plans, i, balance):
        month = JAN + i
        later = sum(a for plan in plans for m, a in plan.placed.items() if m > month)
        view = budget_month(plans, month, balance, later)
        self.assertEqual(view.unplaced_minor + view.lefts_minor + later, balance)

    def test_covered_until_stops_at_the_first_unmet_need_and_after_two_years(self):
        def covered(placed_months, spent=100):
            placed, spends = ({JAN + i: amount for i in range(placed_months)} for amount in (100, spent))
            return budget_month([CategoryPlan(1, expected={JAN: 100}, placed=placed, spent=spends)], JAN, 0, 0).covered_until

        self.assertEqual([covered(n) for n in (0, 1, 3, 24, 25, 26, 40)], [None, JAN, JAN + 2, JAN + 23, *[JAN + MOST_AHEAD] * 3])
        self.assertIsNone(budget_month([CategoryPlan(1)], JAN, 0, 0).covered_until, "nothing is planned, nothing covered")
        self.assertEqual(covered(1, spent=40), JAN, "what is left meets a part of the next need")
        self.assertEqual(covered(1, spent=0), JAN + MOST_AHEAD, "what is left meets all of them")


if __name__ == "__main__":
    unittest.main()
