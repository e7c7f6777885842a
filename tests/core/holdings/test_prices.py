"""Prices: what shares are worth at one, the newest there is, and when it is old."""

import unittest
from datetime import date, timedelta

from bolsa.core.holdings.prices import DAYS_FRESH, Priced, latest_of
from bolsa.core.money import E8

DAY = date(2026, 5, 14)


def priced(days_before, price, source="market"):
    return Priced(DAY - timedelta(days=days_before), round(price * E8), source)


class Prices(unittest.TestCase):
    def test_what_shares_are_worth(self):
        price = priced(0, 12.345)
        self.assertEqual((price.value_of(2 * E8, "EUR"), price.value_of(-2 * E8, "EUR")), (2469, -2469))
        self.assertEqual(priced(0, 1234.5).value_of(E8, "JPY"), 1235)
        self.assertEqual(priced(0, 0.0005).value_of(10 * E8, "KWD"), 5)

    def test_the_newest_counts_and_of_one_day_not_the_trades(self):
        trades = [priced(30, 8, "trade"), priced(5, 9, "trade")]
        self.assertEqual(latest_of(priced(10, 7), trades, DAY).price_e8, 9 * E8)
        self.assertEqual(latest_of(priced(5, 7), trades, DAY).price_e8, 7 * E8)
        self.assertEqual(latest_of(priced(2, 7), trades, DAY).price_e8, 7 * E8)
        self.assertEqual(latest_of(None, trades, DAY - timedelta(days=60)).price_e8, 8 * E8, "before anything: the first trade's")
        self.assertIsNone(latest_of(None, [], DAY))

    def test_it_is_old_after_a_fortnight(self):
        self.assertFalse(priced(DAYS_FRESH, 1).is_old(DAY))
        self.assertTrue(priced(DAYS_FRESH + 1, 1).is_old(DAY))


if __name__ == "__main__":
    unittest.main()
