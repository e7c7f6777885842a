"""Filling in order, and where a shortfall, or money promised that is not there, could come from."""

import unittest
from dataclasses import replace
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.filling import (
    Proposal,
    fill_needs,
    fill_up,
    propose_sources,
    share_of_paydays,
    small_change,
    take_back_promised,
)
from bolsa.core.budget.month import CategoryPlan, category_month
from tests.core.budget.test_month import JAN, PLANS


def row(id_, **plan):
    return category_month(CategoryPlan(id_, **plan), JAN)


class Filling(unittest.TestCase):
    @given(st.lists(PLANS, max_size=6), st.integers(0, 23), st.integers(-1000, 200_000))
    def test_filling_goes_in_order_and_never_beyond_the_money_nor_the_need(self, plans, i, there):
        rows = [category_month(replace(plan, category_id=n), JAN + i) for n, plan in enumerate(plans)]
        filling = fill_needs(rows, there)
        self.assertLessEqual(filling.placed_minor, max(0, there))
        for one in rows:
            self.assertLessEqual(filling.amounts.get(one.category_id, 0), one.still_needs_minor)
        if filling.is_short:
            self.assertEqual(filling.placed_minor, max(0, there))

    def test_the_last_one_reached_gets_a_part(self):
        rows = [row(n, expected={JAN: 100}) for n in (1, 2, 3)]
        for there, amounts in (
            (0, {}), (-5, {}), (1, {1: 1}), (100, {1: 100}), (101, {1: 100, 2: 1}), (300, {1: 100, 2: 100, 3: 100}),
            (999, {1: 100, 2: 100, 3: 100}),
        ):  # fmt: skip
            with self.subTest(there):
                filling = fill_needs(rows, there)
                self.assertEqual((filling.amounts, filling.needed_minor), (amounts, 300))
                self.assertEqual((filling.is_short, filling.remains_minor), (there < 300, there - sum(amounts.values())))

    def test_up_to_an_amount_nothing_is_placed_twice_nor_taken_back(self):
        rows = [row(1, placed={JAN: 40}), row(2, placed={JAN: 90}), row(3)]
        self.assertEqual(fill_up(rows, {1: 100, 2: 50}, 500).amounts, {1: 60})

    def test_each_payday_brings_an_equal_share_rounded_up(self):
        rows = [row(1, expected={JAN: 101})]
        days = [date(2026, 1, 9), date(2026, 1, 23)]
        for today, share in ((8, 0), (9, 51), (22, 51), (23, 101)):
            with self.subTest(today):
                self.assertEqual(share_of_paydays(rows, days, date(2026, 1, today)), {1: share})
        self.assertEqual(share_of_paydays(rows, [], date(2026, 1, 1)), {1: 101})

    def test_small_change_is_what_lies_beyond_whole_units(self):
        rows = [row(n, placed={JAN: left}) for n, left in enumerate((1_237, 1_200, 99, 0, -37))]
        self.assertEqual(small_change(rows, "EUR"), {0: 37, 2: 99})
        self.assertEqual(small_change(rows, "JPY"), {0: 37, 2: 99})
        self.assertEqual(small_change(rows, "BHD"), {0: 237, 1: 200, 2: 99})


class Sources(unittest.TestCase):
    ROWS = (
        row(1, expected={JAN: 5000}, placed={JAN: 5000}, spent={JAN: 1000}),
        row(2, placed={JAN: 7000}),
        row(3, spent={JAN: 2500}),
        row(4, placed={JAN: 900}),
    )

    def test_one_that_suffices_is_offered_the_last_in_priority_first(self):
        for short, parts in (
            (900, [((4, 900),), ((2, 900),)]), (901, [((2, 901),)]), (7000, [((2, 7000),)]), (0, [((4, 900),), ((2, 7000),)]),
        ):  # fmt: skip
            with self.subTest(short):
                self.assertEqual(propose_sources(self.ROWS, 3, short), [Proposal(one, is_enough=True) for one in parts])

    def test_several_together_where_none_suffices_as_far_as_they_go(self):
        self.assertEqual(propose_sources(self.ROWS, 3, 7900), [Proposal(((4, 900), (2, 7000)), is_enough=True)])
        self.assertEqual(propose_sources(self.ROWS, 3, 7500), [Proposal(((4, 900), (2, 6600)), is_enough=True)])
        short = propose_sources(self.ROWS, 3, 9000)
        self.assertEqual((short, short[0].amount_minor), ([Proposal(((4, 900), (2, 7000)), is_enough=False)], 7900))
        self.assertEqual(propose_sources([row(1, placed={JAN: 5})], 1, 5), [])

    def test_what_is_awaited_or_due_cannot_be_spared(self):
        for placed, spent, due, spare in (
            (500, 0, 0, 0), (501, 0, 0, 1), (500, 500, 0, 0), (600, 500, 0, 100), (600, 400, 0, 100), (600, 700, 0, 0),
            (900, 0, 700, 200), (900, 0, 400, 400), (900, 0, 900, 0),
        ):  # fmt: skip
            with self.subTest(placed=placed, spent=spent, due=due):
                rows = [row(1, expected={JAN: 500}, placed={JAN: placed}, spent={JAN: spent})]
                found = propose_sources(rows, 9, 0, {1: due})
                self.assertEqual(sum(one.amount_minor for one in found), spare)


class Promised(unittest.TestCase):
    def test_what_lies_farthest_ahead_and_last_in_priority_is_taken_back_first(self):
        plans = [
            CategoryPlan(1, placed={JAN: 500, JAN + 1: 100}), CategoryPlan(2, placed={JAN + 1: 70, JAN + 2: 30}),
            CategoryPlan(3, placed={JAN: 40}, spent={JAN: 40}),
        ]  # fmt: skip
        rows = [category_month(plan, JAN) for plan in plans]
        for promised, found in (
            (30, [(2, JAN + 2, 30)]), (31, [(2, JAN + 2, 30), (2, JAN + 1, 1)]),
            (201, [(2, JAN + 2, 30), (2, JAN + 1, 70), (1, JAN + 1, 100), (1, JAN, 1)]),
        ):  # fmt: skip
            with self.subTest(promised):
                self.assertEqual(take_back_promised(plans, rows, promised), found)
        self.assertEqual(sum(amount for _, _, amount in take_back_promised(plans, rows, 9_999, {1: 450})), 250)
        self.assertEqual(take_back_promised([], [], 50), [])


if __name__ == "__main__":
    unittest.main()
