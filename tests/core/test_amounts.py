"""Amounts as banks write them and people type them."""

import re
import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core import money
from bolsa.core.amounts import MOST_UNITS, find_decimal_mark, parse_amount, parse_exact, read_decimal, read_marked, read_sum
from bolsa.errors import InvalidInput


class Exact(unittest.TestCase):
    def test_a_number_is_read_the_readers_way_and_the_other_where_no_other_is_left(self):
        for text, mark, number in (
            ("12,5", ",", "12.5"), ("12,5", ".", "12.5"), ("12.5", ",", "12.5"), ("2.375", ".", "2.375"), ("2,375", ",", "2.375"),
            ("1.234,50", ",", "1234.50"), ("1.234,50", ".", "1234.50"), ("1,234.50", ".", "1234.50"),
            ("1,234.50", ",", "1234.50"), ("1.234.567", ",", "1234567"),
            ("1 200", ".", "1200"), ("0,125", ".", "0.125"), ("1,2345", ".", "1.2345"), ("−3", ".", "-3"),
        ):  # fmt: skip
            with self.subTest(text, mark=mark):
                self.assertEqual(parse_exact(text, mark, "a price", "price"), Decimal(number))

    def test_what_may_group_or_not_is_never_guessed(self):
        for text, mark in (("1,234", "."), ("1.234", ","), ("12,500", "."), ("999.000", ",")):
            with self.subTest(text):
                with self.assertRaises(InvalidInput) as refused:
                    parse_exact(text, mark, "a price", "price")
                said = re.search(r"can mean (\S+) or (\S+)\. Type", refused.exception.sentence)
                readings = [parse_exact(one, mark, "a price", "price") for one in said.groups()]
                self.assertEqual(readings[0], 1_000 * readings[1], "both can be typed as they are proposed")

    def test_what_is_no_number_is_refused_in_words(self):
        for text in ("", "x", "1,2,3.4.5", "12 EUR", "1/3", "1e5", "NaN"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_exact(text, ".", "a price", "price")


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

    def test_the_largest_amount_and_one_more(self):
        self.assertEqual(parse_amount(str(MOST_UNITS), "EUR"), MOST_UNITS * 100)
        for text in (str(MOST_UNITS + 1), f"{MOST_UNITS}+1"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_amount(text, "EUR")

    def test_the_last_decimals_a_currency_has_and_one_more(self):
        for currency, last, more in (("EUR", "0.05", "0.005"), ("JPY", "5", "0.5"), ("KWD", "0.005", "0.0005")):
            with self.subTest(currency):
                self.assertEqual(parse_amount(last, currency), 5)
                with self.assertRaises(InvalidInput):
                    parse_amount(more, currency)

    def test_a_fast_way_reads_what_the_long_way_reads(self):
        for text, mark, number in (
            ("-12.50", ".", "-12.50"), ("-12.50", ",", "-12.50"), ("1.234", ".", "1.234"), ("1.234", ",", "1234"),
            ("1234567890123456", ".", None), ("٣.50", ".", "3.50"), ("12", ",", "12"),
        ):  # fmt: skip
            with self.subTest(text=text, mark=mark):
                self.assertEqual(read_marked(text, mark), None if number is None else Decimal(number))

    def test_a_sum_is_worked_out_and_a_division_by_nothing_is_none(self):
        for text, result in (("120/2", 60), ("10+4*2", 18), ("-5+2", -3), ("5/0", None), ("5+", None), ("5", None)):
            with self.subTest(text):
                self.assertEqual(read_sum(text, "."), None if result is None else Decimal(result))


if __name__ == "__main__":
    unittest.main()
