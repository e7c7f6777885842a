"""The days ahead: where balances go, floors crossed, and what mends it."""

import unittest
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.ahead import CurvePoint, Lane, find_mending, money_curve

DAY = date(2026, 5, 14)


def a_lane(account_id, *balances, floor=None, side="asset"):
    account = Account(account_id, f"Account {account_id}", "current", side, True, "EUR", "", "", "Everyday", DAY, True, "")
    curve = tuple(CurvePoint(DAY + timedelta(days=n), balance) for n, balance in enumerate(balances))
    return Lane(account, balances[0], curve, (), (), floor)


class Curve(unittest.TestCase):
    def test_the_curve_steps_at_each_days_end(self):
        curve = money_curve(1000, DAY, 3, [(DAY + timedelta(days=1), -400), (DAY + timedelta(days=3), 50)])
        self.assertEqual([p.balance_minor for p in curve], [1000, 600, 600, 650])


class Floors(unittest.TestCase):
    def test_the_last_balance_that_holds_the_floor_and_the_first_that_does_not(self):
        for low, floor, crossed in (
            (100, 100, None),
            (99, 100, DAY + timedelta(days=1)),
            (0, None, None),
            (-1, None, DAY + timedelta(days=1)),
        ):
            with self.subTest(low=low, floor=floor):
                crossing = a_lane(1, 500, low, floor=floor).crossing
                self.assertEqual(crossing.day if crossing else None, crossed)
        self.assertIsNone(a_lane(1, -500, -900, side="liability").crossing, "a card is below zero by its nature")
        self.assertIsNotNone(a_lane(1, -500, -900, floor=-800, side="liability").crossing)

    def test_what_mends_comes_from_who_can_spare_most_and_only_if_all_of_it(self):
        short = a_lane(1, 500, 40, 60, floor=100)
        for spare, amount in ((60, 60), (59, None)):
            mending = find_mending([short, a_lane(2, 300, 200, floor=200 - spare), a_lane(3, 900, 10)], short)
            with self.subTest(spare):
                self.assertEqual(
                    (mending.source.id, mending.amount_minor, mending.by_day) if mending else None,
                    (2, 60, DAY + timedelta(days=1)) if amount else None,
                )
        self.assertIsNone(find_mending([short], short))


if __name__ == "__main__":
    unittest.main()
