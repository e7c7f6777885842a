"""A trade's form: two of shares, price and total give the third; the close of the day is taken; what does not agree is said."""

import unittest
from datetime import date
from fractions import Fraction

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.completing import PARTS_OFF, Offer, TypedAmounts, complete, parse_rate_text
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.security import Security
from bolsa.core.money import E8
from bolsa.errors import InvalidInput

DAY = date(2026, 5, 14)


def offer(account="EUR", own="EUR", price=50, rate=1):
    depot = Account(4, "Depot", "brokerage", "asset", False, account, "", "", "Invested", DAY, True, "")
    return Offer(
        depot,
        Security(3, "Tern", "", currency=own),
        Priced(DAY, price * E8, "market") if price else None,
        rate and Fraction(rate),
    )


class Completing(unittest.TestCase):
    def refused(self, field, offered, typed):
        with self.subTest(typed), self.assertRaises(InvalidInput) as caught:
            complete(offered, "buy", typed)
        self.assertEqual(caught.exception.field, field)

    def test_two_give_the_third(self):
        for typed, made in (
            (TypedAmounts(10 * E8), (10 * E8, 50000, 0)),
            (TypedAmounts(None, None, 50500, 500), (10 * E8, 50500, 500)),
            (TypedAmounts(10 * E8, 49 * E8), (10 * E8, 49000, 0)),
            (TypedAmounts(None, 49 * E8, 49000), (10 * E8, 49000, 0)),
            (TypedAmounts(10 * E8, None, 47000), (10 * E8, 47000, 0)),
        ):
            with self.subTest(typed):
                self.assertEqual(complete(offer(), "buy", typed), made)

    def test_what_is_lacking_is_said_at_its_field(self):
        self.refused("price", offer(price=0), TypedAmounts(10 * E8))
        self.refused("shares", offer(), TypedAmounts(None, 49 * E8))
        self.refused("rate", offer(own="USD", rate=None), TypedAmounts(10 * E8))

    def test_three_that_do_not_agree_by_more_than_a_two_hundredth(self):
        total = 100000
        off = total // PARTS_OFF + 1
        self.assertEqual(complete(offer(), "buy", TypedAmounts(20 * E8, 50 * E8, total + off - 1))[1], total + off - 1)
        self.refused("total", offer(), TypedAmounts(20 * E8, 50 * E8, total + 2 * off))

    def test_a_fee_in_the_securitys_currency_and_a_typed_rate(self):
        offered = offer(own="USD", rate=Fraction(9, 10))
        self.assertEqual(complete(offered, "buy", TypedAmounts(10 * E8, 50 * E8, None, 1000, True)), (10 * E8, 45900, 900))
        self.assertEqual(
            complete(offered, "sell", TypedAmounts(10 * E8, 50 * E8, None, 1000, True, Fraction(1))), (10 * E8, 49000, 1000)
        )

    def test_kinds_without_a_price_ask_for_none(self):
        self.assertEqual(complete(offer(price=0), "opening", TypedAmounts(10 * E8, None, 4000)), (10 * E8, 4000, 0))

    def test_a_rate_is_read(self):
        self.assertEqual((parse_rate_text("0,0915"), parse_rate_text(" ")), (Fraction(915, 10000), None))
        for text in ("dear", "0", "-1", "1/0"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_rate_text(text)


if __name__ == "__main__":
    unittest.main()
