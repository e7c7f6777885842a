"""The first plan: who works to when, whose income it is, in which order money is drawn."""

import unittest
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.account import Account
from bolsa.core.ahead.beginning import GROWN_UP, WORKS_UNTIL, first_plan
from bolsa.core.house.kept import Member
from bolsa.core.months import Month


def account(id_, kind):
    return Account(id_, kind.title(), kind, "asset", False, "EUR", "", "", "Invested", date(2020, 1, 1), True, "")


class Beginning(unittest.TestCase):
    def test_it_follows_from_the_books(self):
        members = [
            Member(1, "Noor", 1984),
            Member(2, "Mika", 2026 - GROWN_UP + 1),
            Member(3, "Ola", 2026 - GROWN_UP),
            Member(4, "Bo"),
        ]
        held = [(account(9, "pension"), None), (account(5, "brokerage"), None), (account(7, "savings"), Decimal("0.011"))]
        plan = first_plan(members, [(3, "Studio", 50), (4, "Noor’s pay", 90)], held, {5}, 2026)
        self.assertEqual([one.name for one in plan.people], ["Noor", "Ola"], "eighteen is grown up, seventeen is not")
        self.assertEqual(plan.people[0].works_until, Month(1984 + WORKS_UNTIL, 12))
        self.assertEqual([(one.name, one.member_id) for one in plan.incomes], [("Noor’s pay", 1), ("Studio", None)])
        self.assertEqual([(one.account_id, one.is_taxed) for one in plan.pots], [(0, False), (7, False), (5, True), (9, True)])
        self.assertEqual([one.return_percent for one in plan.pots], [0, Decimal("1.1"), 5, 4])


if __name__ == "__main__":
    unittest.main()
