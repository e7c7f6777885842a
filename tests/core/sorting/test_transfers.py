"""Two opposite entries that are likely one transfer."""

import unittest
from datetime import date, timedelta

from bolsa.core.sorting.transfers import DAYS_APART, Side, propose_transfers

DAY = date(2026, 5, 14)


class Transfers(unittest.TestCase):
    def side(self, entry_id, account, amount, days=0, text=""):
        return Side(entry_id, account, f"Account {account}", DAY + timedelta(days=days), amount, "EUR", text)

    def test_opposite_entries_near_each_other_are_one_transfer(self):
        found = propose_transfers(
            [self.side(1, 1, -25000, text="TRANSFER 0093"), self.side(2, 2, 25000, 2), self.side(3, 3, 25000, 9)]
        )
        self.assertEqual([(p.out.entry_id, p.into.entry_id) for p in found], [(1, 2)])
        self.assertIn("2 days apart", found[0].reason)

    def test_each_side_is_used_once_and_rivals_lower_the_certainty(self):
        found = propose_transfers([self.side(1, 1, -500), self.side(2, 2, 500), self.side(3, 3, 500, 1)])
        self.assertEqual(len(found), 1)
        self.assertLess(found[0].certainty, 0.8)

    def test_one_account_or_two_currencies_make_no_transfer(self):
        self.assertEqual(propose_transfers([self.side(1, 1, -500), self.side(2, 1, 500)]), [])

    def test_the_last_day_apart_and_the_first_too_far(self):
        self.assertEqual(DAYS_APART, 5)
        for days, pairs in ((5, 1), (6, 0), (-5, 1), (-6, 0)):
            with self.subTest(days):
                self.assertEqual(len(propose_transfers([self.side(1, 1, -500), self.side(2, 2, 500, days)])), pairs)

    def test_certainty_by_its_formula(self):
        for days, text, certainty in (
            (0, "", 0.95),
            (1, "", 0.87),
            (5, "", 0.55),
            (1, "to own account", 0.91),
            (0, "transfer", 0.99),
        ):
            with self.subTest(days=days, text=text):
                (pair,) = propose_transfers([self.side(1, 1, -500, text=text), self.side(2, 2, 500, days)])
                self.assertAlmostEqual(pair.certainty, certainty)


if __name__ == "__main__":
    unittest.main()
