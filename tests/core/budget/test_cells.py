"""Rows that are pasted, and figures changed by a percentage: which cells they set."""

import unittest
from dataclasses import replace
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.cells import cells_for, raised_by
from bolsa.core.budget.month import CategoryPlan, expected_by_month
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

JAN = Month(2026, 1)
CELLS = st.dictionaries(st.integers(-3, 14).map(lambda i: JAN + i), st.integers(0, 9), max_size=6)
RHYTHMS = st.dictionaries(st.integers(-3, 14).map(lambda i: JAN + i), st.sampled_from([0, 3]), max_size=2)


def figures(plan, months=12):
    return [expected_by_month(plan.expected, plan.every)(JAN + n)[0] for n in range(months)]


def with_cells(plan, cells):
    expected = {**plan.expected, **{m: a for m, a in cells.items() if a is not None}}
    expected = {m: a for m, a in expected.items() if cells.get(m, 0) is not None}
    return replace(plan, expected=expected, every={m: n for m, n in plan.every.items() if m in expected and m not in cells})


class ARow(unittest.TestCase):
    @given(CELLS, RHYTHMS, st.lists(st.none() | st.integers(0, 3), min_size=12, max_size=12))
    def test_every_month_is_as_it_was_pasted(self, expected, rhythms, amounts):
        plan = CategoryPlan(1, expected=expected, every={m: n for m, n in rhythms.items() if m in expected})
        found = figures(with_cells(plan, cells_for(plan, JAN, amounts)))
        for at, amount in enumerate(amounts):
            if amount is not None:
                self.assertEqual(found[at], amount)

    def test_no_cell_is_set_where_the_figure_carries_on(self):
        self.assertEqual(cells_for(CategoryPlan(1), JAN, [5] * 12), {JAN: 5})
        self.assertEqual(cells_for(CategoryPlan(1, expected={JAN: 5}), JAN, [5] * 12), {})
        twice = CategoryPlan(1, expected={JAN: 5, JAN + 3: 8})
        self.assertEqual(cells_for(twice, JAN, [5] * 12), {JAN + 3: None})


class Raised(unittest.TestCase):
    def test_the_figure_that_holds_and_every_later_one_changes(self):
        plan = CategoryPlan(1, expected={JAN + -4: 1_000, JAN + 6: 2_000})
        self.assertEqual(raised_by(plan, JAN, Decimal(3)), {JAN: (1_030, 1), JAN + 6: (2_060, 1)})
        self.assertEqual(raised_by(plan, JAN + 6, Decimal(-50)), {JAN + 6: (1_000, 1)})

    def test_it_rounds_half_up_once(self):
        for amount, percent, raised in ((1_000, "2.5", 1_025), (50, "1", 51), (49, "1", 49), (150, "-1", 149), (10, "-100", 0)):
            with self.subTest(amount=amount, percent=percent):
                self.assertEqual(raised_by(CategoryPlan(1, expected={JAN: amount}), JAN, Decimal(percent))[JAN][0], raised)

    def test_a_rhythm_goes_on_from_its_next_month(self):
        lease = CategoryPlan(1, expected={JAN + -4: 1_000}, every={JAN + -4: 6})
        self.assertEqual(raised_by(lease, JAN, Decimal(10)), {JAN + 2: (1_100, 6)})
        after = replace(lease, expected={**lease.expected, JAN + 2: 1_100}, every={**lease.every, JAN + 2: 6})
        self.assertEqual(figures(after), [0, 0, 1_100, 0, 0, 0, 0, 0, 1_100, 0, 0, 0])
        self.assertEqual(raised_by(lease, JAN + 2, Decimal(10)), {JAN + 2: (1_100, 6)})

    def test_a_figure_that_ends_before_the_rhythm_comes_again_stands_alone(self):
        plan = CategoryPlan(1, expected={JAN + -4: 1_000, JAN + 1: 300}, every={JAN + -4: 6})
        self.assertEqual(raised_by(plan, JAN, Decimal(10)), {JAN + 1: (330, 1)})

    def test_nothing_expected_cannot_be_raised(self):
        for plan in (CategoryPlan(1), CategoryPlan(1, expected={JAN + -1: 5}, every={JAN + -1: 0})):
            with self.assertRaises(InvalidInput):
                raised_by(plan, JAN, Decimal(3))


if __name__ == "__main__":
    unittest.main()
