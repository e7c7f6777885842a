"""Days that come each month, and the use of a card's limit."""

import unittest
from datetime import date

from bolsa.core.accounts.terms import next_day_of_month, used_of_limit


class CardTerms(unittest.TestCase):
    def test_days_of_the_month_clamp(self):
        for number, after, day in (
            (31, date(2026, 2, 10), date(2026, 2, 28)), (31, date(2026, 2, 28), date(2026, 3, 31)),
            (5, date(2026, 5, 5), date(2026, 6, 5)),
        ):  # fmt: skip
            with self.subTest(number=number, after=after):
                self.assertEqual(next_day_of_month(number, after), day)

    def test_the_use_of_a_limit(self):
        self.assertEqual(used_of_limit(-50_000, 200_000), (50_000, 0.25))
        self.assertEqual(used_of_limit(1_000, 200_000), (0, 0.0))


if __name__ == "__main__":
    unittest.main()
