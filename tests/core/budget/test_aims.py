"""Aims: worked needs of each kind from their definition, and that what is spread is there when it falls due."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.aims import KINDS, MOST_REPEAT, SPREAD_OVER, Aim, check_aim, need_of
from bolsa.core.budget.month import CategoryPlan, category_month, filled_ahead
from bolsa.core.months import Month, months_between
from bolsa.errors import InvalidInput

JAN = Month(2026, 1)
SPREAD = Aim("spread", since=JAN)
AMOUNTS = st.dictionaries(st.integers(0, 30).map(lambda i: JAN + i), st.integers(0, 200_000), min_size=1, max_size=6)


def need(aim, month=JAN, there=0, **plan):
    made = CategoryPlan(1, aim=aim, **plan)
    return category_month(replace(made, placed={month + -1: there} if there else {}), month).need_minor


def spread(lumps, month=JAN, there=0):
    """The need of what is spread, of amounts expected once each."""
    return need(SPREAD, month, there, expected=lumps, every=dict.fromkeys(lumps, 0))


class Needs(unittest.TestCase):
    def test_a_half_yearly_bill_of_1290_needs_215_a_month_and_no_cent_less(self):
        for months_before, amount in ((5, 21_500), (4, 25_800), (1, 64_500), (0, 129_000)):
            with self.subTest(months_before):
                self.assertEqual(spread({JAN + months_before: 129_000}), amount)
        self.assertEqual(spread({JAN + 2: 100_000}), 33_334, "rounded up")
        self.assertEqual(spread({JAN + 2: 100_000}, there=99_999), 1)
        self.assertEqual(spread({JAN + 2: 100_000}, there=100_000), 0)

    def test_the_dearest_stretch_counts_and_none_beyond_two_years(self):
        self.assertEqual(spread({JAN + 1: 10_000, JAN + 11: 120_000}), 10_834, "130,000 over twelve months")
        self.assertEqual(spread({JAN + 1: 90_000, JAN + 11: 120_000}), 45_000, "90,000 over two")
        self.assertEqual(spread({JAN + SPREAD_OVER: 25_000}), 1_000)
        self.assertEqual(spread({JAN + SPREAD_OVER + 1: 25_000}), 0)

    @given(AMOUNTS)
    def test_what_is_spread_is_there_when_it_falls_due_if_every_need_is_filled(self, lumps):
        plan = CategoryPlan(1, expected=lumps, every=dict.fromkeys(lumps, 0), aim=SPREAD)
        for row in filled_ahead(plan, JAN, 32):
            self.assertGreaterEqual(row.carried_minor + row.need_minor, row.expected_minor)
            self.assertEqual(row.need.amount_minor, row.need_minor)

    def test_a_build_by_a_month_shares_what_is_missing_among_the_months_left(self):
        aim = Aim("build", 120_000, by=JAN + 11, since=JAN)
        for month, there, amount in (
            (JAN, 0, 10_000), (JAN + 6, 60_000, 10_000), (JAN + 6, 30_000, 15_000), (JAN + 11, 119_999, 1),
            (JAN + 11, 120_000, 0), (JAN + 11, 130_000, 0), (JAN + 12, 0, 0), (JAN + 1, 0, 10_910),
        ):  # fmt: skip
            with self.subTest(month=month, there=there):
                self.assertEqual(need(aim, month, there), amount)

    def test_a_build_that_repeats_begins_anew_the_month_after(self):
        aim = Aim("build", 120_000, by=JAN + 11, repeat=12, since=JAN)
        self.assertEqual(need(aim, JAN + 12), 10_000)
        self.assertEqual(aim.due_after(JAN + 11), JAN + 11)
        self.assertEqual([aim.due_after(JAN + n) for n in (12, 23, 24)], [JAN + 23, JAN + 23, JAN + 35])
        self.assertEqual([aim.begins(JAN + n) for n in (0, 11, 12, 24)], [JAN, JAN, JAN + 12, JAN + 24])

    def test_so_much_a_month_until_it_is_there(self):
        aim = Aim("build", 100_000, each_minor=30_000)
        self.assertEqual([need(aim, there=there) for there in (0, 70_000, 70_001, 100_000)], [30_000, 30_000, 29_999, 0])

    def test_keep_fills_up_and_steady_asks_for_the_same_whatever_is_there(self):
        self.assertEqual([need(Aim("keep", 50_000), there=n) for n in (0, 49_999, 50_000, 60_000)], [50_000, 1, 0, 0])
        self.assertEqual([need(Aim("steady", 4_000), there=n) for n in (0, 99_999)], [4_000, 4_000])

    def test_a_minus_that_is_carried_adds_to_the_need(self):
        for kind, amount in (("keep", 60_000), ("build", 30_000)):
            aim = Aim(kind, 50_000, by=JAN + 1 if kind == "build" else None)
            plan = CategoryPlan(1, carries_minus=True, spent={JAN + -1: 10_000}, aim=aim)
            self.assertEqual(category_month(plan, JAN).need_minor, amount)

    def test_an_aim_on_accounts_counts_what_they_held_when_the_month_began(self):
        grows = Aim("build", 600_000, by=JAN + 5)
        self.assertEqual(need(grows, held={JAN + -3: 300_000, JAN: 999_999}), 50_000)
        debt = Aim("build", 0, by=JAN + 9)
        self.assertEqual(need(debt, held={JAN + -1: -1_000_000}), 100_000)
        self.assertEqual(need(debt, there=100_000, held={JAN + -1: -1_000_000}), 90_000, "put by and not paid yet")

    @given(st.sampled_from(KINDS), st.integers(-50_000, 200_000), AMOUNTS, st.integers(0, 30))
    def test_a_need_is_the_sum_of_its_parts_and_never_below_zero(self, kind, there, expected, at):
        aim = Aim(kind, 80_000, by=JAN + 12 if kind == "build" else None, repeat=6 if kind == "build" else 0, since=JAN)
        months = [expected.get(JAN + at + n, 0) for n in range(SPREAD_OVER + 1 if kind == "spread" else 1)]
        found = need_of(aim, JAN + at, months, there)
        self.assertGreaterEqual(found.amount_minor, 0)
        self.assertLessEqual(found.later_part_minor, 0)
        self.assertEqual(found.amount_minor, found.aimed_minor + found.there_part_minor + found.later_part_minor)

    def test_what_is_not_carried_begins_each_month_with_nothing(self):
        plan = CategoryPlan(1, carries=False, placed={JAN + -1: 90_000}, aim=Aim("steady", 4_000))
        self.assertEqual(category_month(plan, JAN).need_minor, 4_000)


class WhatCanBeAimed(unittest.TestCase):
    def test_what_can_be_kept(self):
        for aim in (
            Aim(), Aim("spread"), Aim("keep", 1), Aim("steady", 1), Aim("build", 1, by=JAN), Aim("build", 1, each_minor=1),
            Aim("build", 1, by=JAN, repeat=MOST_REPEAT),
        ):  # fmt: skip
            self.assertIs(check_aim(aim), aim)
        self.assertEqual(check_aim(Aim("build", 0, by=JAN), on_accounts=True).amount_minor, 0)

    def test_what_cannot_names_its_field(self):
        for aim, field in (
            (Aim("save"), "aim"), (Aim("keep", 0), "amount"), (Aim("steady", -1), "amount"), (Aim("build", 1), "by"),
            (Aim("build", 1, by=JAN, each_minor=1), "by"), (Aim("build", 1, each_minor=0), "each"),
            (Aim("build", 1, by=JAN, repeat=MOST_REPEAT + 1), "repeat"), (Aim("build", 1, by=JAN, repeat=-1), "repeat"),
            (Aim("build", 1, each_minor=1, repeat=3), "by"),
        ):  # fmt: skip
            with self.subTest(aim), self.assertRaises(InvalidInput) as caught:
                check_aim(aim)
            self.assertEqual(caught.exception.field, field)


class FilledAhead(unittest.TestCase):
    def test_each_month_gets_its_need_and_gives_what_is_expected(self):
        lease = CategoryPlan(1, expected={JAN + 5: 129_000}, every={JAN + 5: 6}, aim=SPREAD)
        self.assertEqual([row.need_minor for row in filled_ahead(lease, JAN, 13)], [21_500] * 13)
        months = [row.month for row in filled_ahead(lease, JAN, 3)]
        self.assertEqual(months, months_between(JAN, JAN + 2))


if __name__ == "__main__":
    unittest.main()
