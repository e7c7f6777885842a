"""The rate of a day."""

import unittest
from datetime import date, timedelta

from bolsa.core.units import Money, Rate
from bolsa.core.worth.rates import rate_on

DAY = date(2026, 5, 14)
RATES = {"SEK": [(DAY, 9_150_000), (DAY + timedelta(days=5), 9_000_000)]}


class RateOfADay(unittest.TestCase):
    def test_the_latest_not_after_the_day_else_the_first(self):
        for days, e8 in ((-9, 9_150_000), (0, 9_150_000), (4, 9_150_000), (5, 9_000_000), (90, 9_000_000)):
            with self.subTest(days):
                self.assertEqual(rate_on("SEK", DAY + timedelta(days=days), "EUR", RATES), Rate("SEK", "EUR", e8))

    def test_home_is_worth_itself_and_nothing_is_known_of_others(self):
        self.assertEqual(rate_on("EUR", DAY, "EUR", {}).convert(Money(123, "EUR")), Money(123, "EUR"))
        self.assertIsNone(rate_on("USD", DAY, "EUR", RATES))


if __name__ == "__main__":
    unittest.main()
