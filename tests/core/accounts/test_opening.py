"""An opening balance is reckoned backwards from what an account is known to have held."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.accounts.opening import KnownBalance, known_after

KNOWN = KnownBalance(1, date(2026, 5, 14), 100_000)


class Openings(unittest.TestCase):
    def test_without_lines_before_it_is_what_is_known(self):
        self.assertEqual(KNOWN.opening(None, 0), (date(2026, 5, 14), 100_000))

    @given(st.dates(max_value=date(2026, 5, 13)), st.lists(st.integers(-(10**9), 10**9), min_size=1))
    def test_opening_and_the_lines_before_give_what_is_known(self, first, moved):
        day, amount = KNOWN.opening(first, sum(moved))
        self.assertLessEqual(day, first)
        self.assertEqual(amount + sum(moved), KNOWN.amount_minor)

    def test_the_first_and_the_last_day_there_are(self):
        self.assertEqual(KNOWN.opening(date.min, -500), (date.min, 100_500))
        self.assertEqual((known_after(date(2026, 5, 31)), known_after(date.max)), (date(2026, 6, 1), date.max))
