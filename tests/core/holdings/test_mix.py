"""The mix: parts that add up, drift, a contribution divided, months without selling, sales within a treatment."""

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.mix import (
    UNSAID,
    AssetClass,
    Exposure,
    divide,
    mix_lines,
    months_needed,
    moves_with_sales,
    needed_minor,
    share_contribution,
    target_percent,
    values_by_class,
    wanted_minor,
    weights_of,
)
from bolsa.errors import InvalidInput

CLASSES = [
    AssetClass(1, "Shares", 1, "far", "60"),
    AssetClass(2, "Bonds", 2, "middle", "30"),
    AssetClass(3, "Cash", 3, "near", "10"),
]
WEIGHTS = weights_of(CLASSES, None)


def held(shares, bonds, cash, treatment=""):
    return [Exposure("a", 1, shares, treatment), Exposure("b", 2, bonds, treatment), Exposure("c", 3, cash, treatment)]


class Targets(unittest.TestCase):
    def test_per_cent_and_formulas_of_age(self):
        for text, value in (("62.5", "62.5"), ("110 - age", "68"), ("age", "42"), ("Age - 10", "32"), ("100 - age + 5", "63"),
                            ("20 - age", "0"), ("age + 99", "100")):  # fmt: skip
            self.assertEqual(target_percent(text, 42), Decimal(value), text)
        self.assertIsNone(target_percent("", 42))
        self.assertIsNone(target_percent("110 - age", None))
        for text in ("many", "101", "-1", "age * 2", "1.23456", "110 − years of age"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                target_percent(text, 42)

    def test_targets_that_make_no_hundred_are_none(self):
        self.assertIsNone(weights_of(CLASSES[:2], None))
        self.assertIsNone(wanted_minor(CLASSES[:2], {1: 5, 2: 5}, None))


class Mix(unittest.TestCase):
    def test_worked_figures(self):
        """70,000 of shares, 20,000 of bonds and 10,000 of cash against 60, 30 and 10 per cent."""
        lines = mix_lines(CLASSES, held(70_000, 20_000, 10_000), None)
        self.assertEqual([line.drift_minor for line in lines], [10_000, -10_000, 0])
        self.assertEqual([line.drift_points for line in lines], [10, -10, 0])
        values = values_by_class(CLASSES, held(70_000, 20_000, 10_000))
        self.assertEqual(share_contribution(values, WEIGHTS, 1_000), {1: 0, 2: 990, 3: 10})
        self.assertEqual(needed_minor(values, WEIGHTS), 16_667, "70,000 are 60 per cent of 116,666.67")
        self.assertEqual(
            (months_needed(16_667, 480), months_needed(0, 0), months_needed(5, 0), months_needed(None, 480)), (35, 0, None, None)
        )

    def test_a_class_without_a_target_that_holds_something_only_a_sale_mends(self):
        classes = [*CLASSES, AssetClass(4, "Houses", 4, "far")]
        values = values_by_class(classes, [*held(60, 30, 10), Exposure("d", 4, 5)])
        self.assertIsNone(needed_minor(values, weights_of(classes, None)))

    def test_a_mixed_fund_is_looked_through_and_what_nobody_said_is_said(self):
        found = divide("a", 1001, {1: Decimal(55), 2: Decimal(35)})
        self.assertEqual([(one.class_id, one.minor) for one in found], [(1, 551), (2, 350), (UNSAID, 100)])
        self.assertEqual(sum(one.minor for one in found), 1001)

    def test_sales_stay_within_a_treatment_and_the_taxed_come_last(self):
        there = [*held(30_000, 0, 0, "Taxed"), *held(40_000, 20_000, 10_000, "Taxed when drawn")]
        values = values_by_class(CLASSES, there)
        wanted = wanted_minor(CLASSES, values, None)
        moves = moves_with_sales(there, wanted, ("Taxed",))
        self.assertEqual([(m.treatment, m.from_id, m.to_id, m.minor) for m in moves], [("Taxed when drawn", 1, 2, 10_000)])

    @given(st.lists(st.integers(0, 10**7), min_size=3, max_size=3).filter(sum), st.integers(1, 10**6))
    def test_a_contribution_is_divided_whole_and_oversteps_no_target(self, amounts, put_in):
        values = dict(zip((1, 2, 3), amounts, strict=True))
        parts = share_contribution(values, WEIGHTS, put_in)
        self.assertEqual(sum(parts.values()), put_in)
        whole = sum(amounts) + put_in
        for class_id, part in parts.items():
            if part:
                self.assertLessEqual((values[class_id] + part) * 10**6, whole * WEIGHTS[class_id] + 10**6)

    @given(st.lists(st.integers(0, 10**7), min_size=6, max_size=6).filter(sum))
    def test_sales_bring_every_class_to_its_target_exactly(self, amounts):
        there = [*held(*amounts[:3], "Taxed"), *held(*amounts[3:], "Never taxed")]
        values = values_by_class(CLASSES, there)
        wanted = wanted_minor(CLASSES, values, None)
        for move in moves_with_sales(there, wanted, ("Taxed",)):
            values[move.from_id] -= move.minor
            values[move.to_id] += move.minor
        self.assertEqual(values, wanted)

    @given(st.lists(st.integers(0, 10**7), min_size=3, max_size=3).filter(sum))
    def test_what_is_needed_is_the_least_that_sells_nothing(self, amounts):
        values = dict(zip((1, 2, 3), amounts, strict=True))
        needed = needed_minor(values, WEIGHTS)
        for put_in, is_enough in ((needed, True), (needed - 1, False)):
            if put_in >= 0:
                fits = all(values[id_] * 10**6 <= (sum(amounts) + put_in) * WEIGHTS[id_] for id_ in WEIGHTS)
                self.assertEqual(fits, is_enough or needed == 0, put_in)


if __name__ == "__main__":
    unittest.main()
