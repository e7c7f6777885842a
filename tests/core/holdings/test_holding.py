"""Rows of holdings: value, cost and gain in price, currency and income, which add up."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.holding import PARTS, held_of, places_of_row, sums_of, value_row
from bolsa.core.holdings.lots import find_lots
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import Trade
from bolsa.core.money import E8

THEN, NOW = date(2025, 1, 1), date(2026, 1, 1)
DEPOT = Account(4, "Depot", "brokerage", "asset", False, "USD", "Halcyon", "", "Invested", THEN, True, "", counts_shares=True)
TERN = Security(3, "Tern Robotics", "", currency="USD", kind="share")
EXCHANGE = Exchange("USD", "USD", "EUR", {"USD": [(THEN, 90_000_000), (NOW, 80_000_000)]})


def row(shares=10, cost=100000, price=120, income=500):
    lots = find_lots([Trade(THEN, "buy", shares * E8, 3, -cost, id=1)], "first", EXCHANGE).held
    return value_row(DEPOT, TERN, held_of(lots), Priced(NOW, price * E8, "market") if price else None, EXCHANGE, NOW, income)


class Rows(unittest.TestCase):
    def test_worked_figures(self):
        """1,000 USD at 0.90 are 900 EUR; 1,200 USD at 0.80 are 960: the rate lost 100, the price made 160."""
        found = row()
        self.assertEqual((found.home_minor, found.cost_minor), (96000, 90000))
        self.assertEqual((found.price_minor, found.currency_minor, found.income_minor), (16000, -10000, 500))
        self.assertEqual(found.gain_minor, 6500)
        self.assertEqual((found.key, found.is_sold_out), ("4-3", False))

    def test_without_a_price_nothing_is_gained_and_it_is_said(self):
        found = row(price=0)
        self.assertEqual((found.is_valued, found.home_minor, found.price_minor), (False, 0, 0))

    def test_its_places(self):
        places = places_of_row(row(), {"owner": "Noor"})
        self.assertEqual((places["owner"], places["sort"], places["money"], places["account"]), ("Noor", "Share", "USD", "Depot"))

    @given(st.integers(1, 500), st.integers(1, 10**7), st.integers(1, 500), st.integers(0, 9999))
    def test_the_parts_make_the_gain_and_the_gain_the_value(self, shares, cost, price, income):
        found = row(shares, cost, price, income)
        self.assertEqual(sum(found.part(name) for name in PARTS), found.gain_minor)
        self.assertEqual(found.cost_minor + found.gain_minor - income, found.home_minor)
        self.assertEqual(sums_of([found, found]).gain_minor, 2 * found.gain_minor)


if __name__ == "__main__":
    unittest.main()
