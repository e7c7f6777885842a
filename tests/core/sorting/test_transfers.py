"""Entries of different accounts that are likely one transfer."""

import unittest
from datetime import date, timedelta

from bolsa.core.sorting.transfers import DAYS_APART, MOST_FEE, RATE_OFF, Side, propose_transfers

DAY = date(2026, 5, 14)


def side(entry_id, account, amount, days=0, text="", currency="EUR", before=None):
    return Side(entry_id, account, f"Account {account}", DAY + timedelta(days=days), amount, currency, text, before or {})


class Transfers(unittest.TestCase):
    def ids(self, sides, **more):
        return [(p.out.entry_id, p.into.entry_id, *(one.entry_id for one in p.more)) for p in propose_transfers(sides, **more)]

    def test_opposite_entries_near_each_other_are_one_transfer(self):
        found = propose_transfers([side(1, 1, -25000, text="TRANSFER 0093"), side(2, 2, 25000, 2), side(3, 3, 25000, 9)])
        self.assertEqual([(p.out.entry_id, p.into.entry_id) for p in found], [(1, 2)])
        self.assertIn("2 days apart", found[0].reason)

    def test_each_side_is_used_once_and_rivals_lower_the_certainty(self):
        found = propose_transfers([side(1, 1, -500), side(2, 2, 500), side(3, 3, 500, 1)])
        self.assertEqual(len(found), 1)
        self.assertLess(found[0].certainty, 0.6)

    def test_one_account_makes_no_transfer_nor_what_was_refused(self):
        self.assertEqual(self.ids([side(1, 1, -500), side(2, 1, 500)]), [])
        self.assertEqual(self.ids([side(2, 1, -500), side(1, 2, 500)], refused={(1, 2)}), [])

    def test_the_last_day_apart_and_the_first_too_far(self):
        for days, pairs in ((DAYS_APART, 1), (DAYS_APART + 1, 0), (-DAYS_APART, 1), (-DAYS_APART - 1, 0)):
            with self.subTest(days):
                self.assertEqual(len(propose_transfers([side(1, 1, -500), side(2, 2, 500, days)])), pairs)

    def test_certainty_by_its_formula_and_without_a_telling_word_at_most_three_quarters(self):
        for days, text, before, certainty in (
            (0, "", {}, 0.75), (1, "", {}, 0.71), (7, "", {}, 0.47), (1, "to own account", {}, 0.93), (0, "transfer", {}, 0.97),
            (0, "", {2: 15}, 0.97), (0, "Account 2", {}, 0.97), (0, "", {3: 15}, 0.75),
        ):  # fmt: skip
            with self.subTest(days=days, text=text, before=before):
                (pair,) = propose_transfers([side(1, 1, -500, text=text, before=before), side(2, 2, 500, days)])
                self.assertAlmostEqual(pair.certainty, certainty)
        self.assertIn("15 times before", propose_transfers([side(1, 1, -500, before={2: 15}), side(2, 2, 500)])[0].reason)

    def test_a_small_fee_is_allowed_where_a_text_speaks_of_a_transfer(self):
        most = 10_000 * MOST_FEE // 100
        for fee, text, pairs in ((most, "transfer", 1), (most + 1, "transfer", 0), (1, "", 0), (-1, "transfer", 0)):
            with self.subTest(fee=fee, text=text):
                found = propose_transfers([side(1, 1, -10_000 - fee, text=text), side(2, 2, 10_000)])
                self.assertEqual([p.fee_minor for p in found], [fee] * pairs)
                self.assertTrue(all(p.certainty < 0.6 for p in found))

    def test_one_that_came_in_two_parts(self):
        whole = side(1, 1, -300, text="transfer")
        self.assertEqual(self.ids([whole, side(2, 2, 100), side(3, 2, 200, 3)]), [(1, 2, 3)])
        self.assertEqual(self.ids([whole, side(2, 2, 100), side(3, 2, 200, 4)]), [])
        self.assertEqual(self.ids([whole, side(2, 2, 100), side(3, 3, 200)]), [])  # in two accounts
        self.assertEqual(self.ids([side(1, 1, 300, text="transfer"), side(2, 2, -100), side(3, 2, -200)]), [(2, 1, 3)])

    def test_two_currencies_at_the_rate_of_the_day(self):
        def worth(amount, currency, other, day):
            return amount * 11 if (currency, other) == ("EUR", "SEK") else None

        exact = 11_000
        for arrived, pairs in (
            (exact, 1), (exact + exact * RATE_OFF // 100, 1), (exact + exact * RATE_OFF // 100 + 1, 0), (exact - 331, 0),
        ):  # fmt: skip
            with self.subTest(arrived):
                sides = [side(1, 1, -1000, text="transfer"), side(2, 2, arrived, currency="SEK")]
                self.assertEqual(len(propose_transfers(sides, worth=worth)), pairs)
        self.assertEqual(propose_transfers([side(1, 1, -1000, text="transfer"), side(2, 2, 1000, currency="SEK")]), [])

    def test_the_same_amounts_go_before_a_fee_or_parts(self):
        sides = [side(1, 1, -1000, text="transfer"), side(2, 2, 990), side(3, 3, 1000)]
        self.assertEqual(self.ids(sides), [(1, 3)])


if __name__ == "__main__":
    unittest.main()
