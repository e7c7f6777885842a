"""An amount in three currencies: at its day's rate, and divided without losing a unit."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.exchange import NOTHING, Amounts, Exchange

MAY, JUNE = date(2026, 5, 1), date(2026, 6, 1)
RATES = {"SEK": [(MAY, 9_000_000), (JUNE, 10_000_000)], "USD": [(MAY, 90_000_000)], "JPY": [(MAY, 600_000)]}


class Rates(unittest.TestCase):
    def test_of_the_accounts_currency(self):
        self.assertEqual(Exchange("SEK", "SEK", "EUR", RATES).amounts(10000, MAY), Amounts(10000, 10000, 900))
        self.assertEqual(Exchange("SEK", "SEK", "EUR", RATES).amounts(10000, JUNE), Amounts(10000, 10000, 1000))
        self.assertEqual(Exchange("EUR", "EUR", "EUR", {}).amounts(5, MAY), Amounts(5, 5, 5))

    def test_of_a_security_in_another(self):
        self.assertEqual(Exchange("EUR", "USD", "EUR", RATES).amounts(900, MAY), Amounts(900, 1000, 900))
        self.assertEqual(Exchange("SEK", "EUR", "EUR", RATES).amounts(10000, MAY), Amounts(10000, 900, 900))
        self.assertEqual(Exchange("SEK", "USD", "EUR", RATES).amounts(10000, MAY), Amounts(10000, 1000, 900))
        self.assertEqual(
            Exchange("EUR", "JPY", "EUR", RATES).amounts(600, MAY), Amounts(600, 1000, 600), "yen have no minor unit"
        )

    def test_back(self):
        exchange = Exchange("SEK", "USD", "EUR", RATES)
        self.assertEqual((exchange.own_at_home(1000, MAY), exchange.own_in_account(1000, MAY)), (900, 10000))

    def test_without_a_rate_nothing_is_made_up(self):
        bare = Exchange("SEK", "CHF", "EUR", RATES)
        self.assertEqual(bare.amounts(100, MAY), Amounts(100, None, 9))
        self.assertIsNone(bare.own_at_home(100, MAY))
        self.assertIsNone(bare.own_in_account(100, MAY))
        self.assertEqual((NOTHING + bare.amounts(100, MAY)).own_minor, None)

    @given(st.integers(-(10**9), 10**9), st.lists(st.integers(0, 10**6), min_size=1).filter(sum))
    def test_parts_sum_to_the_whole_in_every_currency(self, minor, weights):
        whole = Exchange("SEK", "USD", "EUR", RATES).amounts(minor, MAY)
        self.assertEqual(sum(whole.parts(weights), NOTHING), whole)


if __name__ == "__main__":
    unittest.main()
