"""Filling needs in order, and where a shortfall could come from."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.filling import fill_needs, shift_sources
from bolsa.core.budget.month import CategoryPlan, category_month
from tests.core.budget.test_month import JAN, PLANS


class Filling(unittest.TestCase):
    @given(st.lists(PLANS, max_size=6), st.integers(0, 23), st.integers(-1000, 200_000))
    def test_filling_goes_in_order_and_never_beyond_the_money(self, plans, i, there):
        rows = [category_month(replace(plan, category_id=n), JAN + i) for n, plan in enumerate(plans)]
        filling = fill_needs(rows, there)
        self.assertLessEqual(filling.placed_minor, max(0, there))
        if filling.is_short:
            self.assertEqual(filling.placed_minor, max(0, there))

    def test_the_last_one_reached_gets_a_part(self):
        rows = [category_month(CategoryPlan(n, expected={JAN: 100}), JAN) for n in (1, 2, 3)]
        for there, amounts in (
            (0, {}), (-5, {}), (1, {1: 1}), (100, {1: 100}), (101, {1: 100, 2: 1}), (300, {1: 100, 2: 100, 3: 100}),
            (999, {1: 100, 2: 100, 3: 100}),
        ):  # fmt: skip
            with self.subTest(there):
                filling = fill_needs(rows, there)
                self.assertEqual((filling.amounts, filling.needed_minor), (amounts, 300))
                self.assertEqual((filling.is_short, filling.remains_minor), (there < 300, there - sum(amounts.values())))

    def test_a_shortfall_comes_from_the_last_in_priority_and_never_from_what_is_awaited(self):
        rows = [
            category_month(CategoryPlan(1, expected={JAN: 5000}, placed={JAN: 5000}, spent={JAN: 1000}), JAN),
            category_month(CategoryPlan(2, placed={JAN: 7000}), JAN),
            category_month(CategoryPlan(3, spent={JAN: 2500}), JAN),
            category_month(CategoryPlan(4, placed={JAN: 900}), JAN),
        ]
        self.assertEqual(shift_sources(rows, 3), [(4, 900), (2, 7000)])

    def test_what_is_still_awaited_cannot_be_spared(self):
        def spare(placed, spent):
            rows = [category_month(CategoryPlan(1, expected={JAN: 500}, placed={JAN: placed}, spent={JAN: spent}), JAN)]
            return shift_sources(rows, 9)

        for placed, spent, found in (
            (500, 0, []), (501, 0, [(1, 1)]), (500, 500, []), (600, 500, [(1, 100)]), (600, 400, [(1, 100)]), (600, 700, []),
        ):  # fmt: skip
            with self.subTest(placed=placed, spent=spent):
                self.assertEqual(spare(placed, spent), found)


if __name__ == "__main__":
    unittest.main()
