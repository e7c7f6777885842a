"""Kinds of account and what follows from a kind."""

import unittest
from dataclasses import replace
from datetime import date

from bolsa.core.accounts.account import KIND_BY_KEY, KINDS, Account, AccountState

CURRENT = Account(1, "Current", "current", "asset", True, "EUR", "Halden Mutual", "", "Everyday", date(2026, 1, 1), True, "")


class Kinds(unittest.TestCase):
    def test_what_no_bank_counts_is_valued_and_kept_apart(self):
        self.assertTrue(KINDS)
        for kind in KINDS:
            with self.subTest(kind.key):
                self.assertFalse(kind.everyday and kind.is_valued)
                self.assertEqual(KIND_BY_KEY[kind.key], kind)

    def test_a_savings_account_kept_apart_leaves_the_everyday_group(self):
        savings, loan = KIND_BY_KEY["savings"], KIND_BY_KEY["loan"]
        self.assertEqual((savings.group_for(True), savings.group_for(False)), ("Everyday", "Savings"))
        self.assertEqual(loan.group_for(False), "Debts")

    def test_only_an_apart_account_of_such_a_kind_is_valued(self):
        pension = replace(CURRENT, kind="pension", everyday=False)
        self.assertEqual([a.is_valued for a in (CURRENT, pension, replace(pension, everyday=True))], [False, True, False])

    def test_cleared_is_the_balance_less_what_is_pending(self):
        self.assertEqual(AccountState(CURRENT, 500, -200, None, None, None, None, None).cleared_minor, 700)


if __name__ == "__main__":
    unittest.main()
