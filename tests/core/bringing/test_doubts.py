"""Rows that a bank's own balances speak against."""

import unittest
from datetime import date, timedelta

from bolsa.core.bringing.doubts import find_doubtful
from bolsa.core.bringing.rows import BroughtRow

DAY = date(2026, 5, 14)


def row(amount, text="QUAYSIDE DIESEL 0440", ref="", days=0):
    return BroughtRow(DAY + timedelta(days=days), amount, text, bank_ref=ref)


class SpokenAgainstByTheBalance(unittest.TestCase):
    def doubtful(self, rows, off):
        found = find_doubtful(rows, off)
        return found[0] if found else None

    def test_a_row_sent_twice_that_the_balance_counts_once(self):
        twice = [row(-500, ref="A"), row(-200), row(-500, ref="A-R")]
        self.assertEqual(self.doubtful(twice, -500), 2)
        self.assertIsNone(self.doubtful(twice, 0), "two true purchases")

    def test_a_row_whose_sign_the_balance_turns(self):
        self.assertEqual(self.doubtful([row(500), row(-200)], 1_000), 0)
        self.assertIsNone(self.doubtful([row(500), row(500, days=1)], 1_000), "either could be meant")

    def test_a_difference_no_row_explains_is_left_to_check(self):
        self.assertIsNone(self.doubtful([row(500), row(-200)], 301))


if __name__ == "__main__":
    unittest.main()
