"""Money, amounts, months: known answers and identities."""

import doctest
import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core import amounts, money, months
from bolsa.core.amounts import find_decimal_mark, parse_amount, read_decimal
from bolsa.core.ledger import payees
from bolsa.core.money import convert_minor, split_minor
from bolsa.errors import InvalidInput


def load_tests(loader, tests, pattern):
    for module in (money, amounts, months, payees):
        tests.addTests(doctest.DocTestSuite(module))
    return tests


class Splitting(unittest.TestCase):
    @given(st.integers(-(10**9), 10**9), st.lists(st.integers(0, 50), min_size=1, max_size=9).filter(any))
    def test_every_unit_goes_to_someone_and_a_refund_mirrors_its_payment(self, total, weights):
        parts = split_minor(total, weights)
        self.assertEqual(sum(parts), total)
        self.assertEqual(split_minor(-total, weights), [-part for part in parts])
        for part, weight in zip(parts, weights, strict=True):
            self.assertLess(abs(part * sum(weights) - total * weight), sum(weights))

    def test_no_weight_is_a_bug(self):
        for weights in ([], [0, 0], [1, -1]):
            with self.assertRaises(ValueError):
                split_minor(100, weights)


class Amounts(unittest.TestCase):
    def test_amounts_as_banks_write_them(self):
        known = [
            ("1.006,60", ",", "1006.60"), ("+1 006,60", ",", "1006.60"), ("500,", ",", "500"), (".02", ".", "0.02"),
            ("000012.50", ".", "12.50"), ("-1,234", ".", "-1234"), ("12,50 S", ",", "-12.50"), ("12,50H", ",", "12.50"),
            ("12.50-", ".", "-12.50"), ("(3.20)", ".", "-3.20"), ("€ −84.35", ".", "-84.35"), ("1'234.50 CHF", ".", "1234.50"),
            ("D12.00", ".", "-12.00"), ("kr 99,90", ",", "99.90"), ("SEK1 234,00-", ",", "-1234.00"),
        ]  # fmt: skip
        for text, mark, expected in known:
            with self.subTest(text):
                self.assertEqual(read_decimal(text, mark), Decimal(expected))

    def test_what_is_no_amount(self):
        for text in ("", "abc", "12/05/2026", "1.2.3,4,5", "12:30", "A1B2", "€"):
            with self.subTest(text):
                self.assertIsNone(read_decimal(text, ","))

    def test_the_decimal_mark_is_told_by_all_samples_together(self):
        self.assertEqual(find_decimal_mark(["1.234", "12,5"]), (",", True))
        self.assertEqual(find_decimal_mark(["1,234.00", "7"]), (".", True))
        self.assertEqual(find_decimal_mark(["1,234"]), (".", False))

    @given(st.integers(-(10**11), 10**11))
    def test_what_is_shown_can_be_typed_again(self, amount_minor):
        self.assertEqual(parse_amount(money.decimal_text(amount_minor, "EUR"), "EUR"), amount_minor)

    def test_typed_nonsense_names_the_field(self):
        for text in ("", "lots", "1.234.5", "0.005", "9" * 20):
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                parse_amount(text, "EUR", field="opening")
            self.assertEqual(caught.exception.field, "opening")

    @given(st.integers(-(10**9), 10**9), st.integers(1, 10**10))
    def test_conversion_is_within_half_a_unit(self, amount, rate):
        self.assertLessEqual(abs(convert_minor(amount, rate, "SEK", "EUR") * 10**8 - amount * rate), 10**8 // 2)


class Months(unittest.TestCase):
    @given(st.dates(date(1950, 1, 1), date(2150, 1, 1)), st.integers(-400, 400))
    def test_months_are_counted_from_the_anchor_and_clamped(self, day, count):
        moved = months.add_months(day, count)
        self.assertEqual(months.Month.of(moved) - months.Month.of(day), count)
        self.assertIn(moved.day, (day.day, months.Month.of(moved).last_day.day))


if __name__ == "__main__":
    unittest.main()
