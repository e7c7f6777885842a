"""Months and days counted from an anchor."""

import copy
import pickle
import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core import months
from bolsa.core.months import Month, months_between
from bolsa.errors import InvalidInput


class Months(unittest.TestCase):
    @given(st.dates(date(1950, 1, 1), date(2150, 1, 1)), st.integers(-400, 400))
    def test_months_are_counted_from_the_anchor_and_clamped(self, day, count):
        moved = months.add_months(day, count)
        self.assertEqual(months.Month.of(moved) - months.Month.of(day), count)
        self.assertIn(moved.day, (day.day, months.Month.of(moved).last_day.day))

    def test_a_month_prints_reads_orders_and_survives_a_copy(self):
        for text in ("1900-01", "2026-05", "2200-12"):
            month = Month.parse(text)
            self.assertEqual((str(month), f"{month}", f"{month:>9}"), (text, text, "  " + text))
            self.assertEqual({month, copy.deepcopy(month), pickle.loads(pickle.dumps(month))}, {month})
        self.assertEqual(Month(2025, 12) + 1, Month(2026, 1))
        self.assertEqual(Month(2026, 1) + -1, Month(2025, 12))
        self.assertLess(Month(2025, 12), Month(2026, 1))

    def test_the_first_and_last_year_there_is_and_what_is_no_month(self):
        for text in ("1899-12", "2201-01", "9999-12", "2026-00", "2026-13", "2026-5", "26-05", "", "٢٠٢٦-٠٥-"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                Month.parse(text)

    def test_months_between_hold_both_ends(self):
        self.assertEqual(months_between(Month(2025, 12), Month(2026, 2)), [Month(2025, 12), Month(2026, 1), Month(2026, 2)])
        self.assertEqual(months_between(Month(2026, 2), Month(2026, 1)), [])


if __name__ == "__main__":
    unittest.main()
