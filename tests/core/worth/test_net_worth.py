"""Net worth: what is owned and what is owed, each account on its own side."""

import unittest

from bolsa.core.months import Month
from bolsa.core.worth.net_worth import WorthRow, worth_point


class NetWorth(unittest.TestCase):
    def test_an_account_counts_on_its_side_whichever_sign_it_has(self):
        rows = [
            WorthRow(1, "Current", "current", "asset", True, "EUR", -500, -500),
            WorthRow(2, "Kronor", "savings", "asset", True, "SEK", 10_000, 915),
            WorthRow(3, "Barge loan", "loan", "liability", True, "EUR", -7_000, -7_000),
            WorthRow(4, "Card", "card", "liability", False, "EUR", 300, 300),
        ]
        point = worth_point(Month(2026, 5), rows)
        self.assertEqual((point.owned_minor, point.owed_minor, point.net_minor), (415, -6_700, -6_285))
        self.assertEqual(worth_point(Month(2026, 5), []).net_minor, 0)


if __name__ == "__main__":
    unittest.main()
