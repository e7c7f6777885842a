"""Trades: what each kind needs and which way it goes; two of shares, price and total give the third."""

import unittest
from datetime import date
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.trades import (
    KIND_BY_KEY,
    KINDS,
    MOST_RATIO,
    Trade,
    check_trade,
    in_order,
    parse_price,
    price_of,
    shares_for,
    split_shares,
    total_of,
)
from bolsa.core.money import E8
from bolsa.errors import InvalidInput

DAY = date(2026, 4, 30)


class Kinds(unittest.TestCase):
    def refused(self, trade, field):
        with self.subTest(trade), self.assertRaises(InvalidInput) as caught:
            check_trade(trade)
        self.assertEqual(caught.exception.field, field)

    def test_shares_never_appear_without_a_cost_or_a_reason(self):
        for kind in ("opening", "in"):
            self.refused(Trade(DAY, kind, E8), "total")
            check_trade(Trade(DAY, kind, E8, reason="a gift"))
            check_trade(Trade(DAY, kind, E8, total_minor=100))
        self.refused(Trade(DAY, "out", E8), "reason")

    def test_what_lacks_is_named_where_it_belongs(self):
        self.refused(Trade(DAY, "found", E8), "kind")
        for kind in ("buy", "sell", "reinvest", "lieu"):
            self.refused(Trade(DAY, kind, 0, total_minor=5), "shares")
            self.refused(Trade(DAY, kind, E8), "total")
        for kind in ("dividend", "return", "fee"):
            self.refused(Trade(DAY, kind, 0), "total")
        self.refused(Trade(DAY, "buy", E8, total_minor=100, fee_minor=101), "fee")
        self.refused(Trade(DAY, "in", E8, total_minor=100, basis_day=date(2026, 5, 1)), "basis_day")

    def test_signs_follow_from_what_happened(self):
        for kind in KINDS:
            if kind.key == "split":
                continue
            done = check_trade(Trade(DAY, kind.key, 5 * E8, total_minor=700, reason="so"))
            self.assertEqual(done.shares_e8, 5 * E8 * kind.shares_way)
            self.assertEqual(done.cash_minor, 700 * kind.cash_way)
        self.assertEqual(check_trade(Trade(DAY, "opening", E8, total_minor=700)).total_minor, -700)

    def test_a_split_is_of_a_ratio_with_a_limit(self):
        for new, old in ((MOST_RATIO, 1), (1, MOST_RATIO), (3, 2)):
            check_trade(Trade(DAY, "split", ratio_new=new, ratio_old=old))
        for new, old in ((MOST_RATIO + 1, 1), (1, MOST_RATIO + 1), (2, 2), (0, 1), (2, None), (None, None)):
            self.refused(Trade(DAY, "split", ratio_new=new, ratio_old=old), "ratio")

    def test_a_distributions_parts_make_what_was_received(self):
        parts = {"taxed_minor": 800, "untaxed_minor": 350, "withheld_minor": 150}
        self.assertEqual(check_trade(Trade(DAY, "dividend", total_minor=1000, **parts)).income_minor, 1000)
        self.refused(Trade(DAY, "dividend", total_minor=1001, **parts), "taxed")

    def test_of_one_day_the_split_is_first_and_what_leaves_is_last(self):
        day = [Trade(DAY, kind, id=i) for i, kind in enumerate(("sell", "dividend", "buy", "split"))]
        self.assertEqual([trade.kind for trade in in_order(day)], ["split", "buy", "dividend", "sell"])


class Completing(unittest.TestCase):
    def test_worked_figures(self):
        self.assertEqual(total_of("buy", 12 * E8, round(81.2 * E8), 500, "EUR"), 97940)
        self.assertEqual(total_of("sell", 12 * E8, round(81.2 * E8), 500, "EUR"), 96940)
        self.assertEqual(total_of("buy", 10 * E8, 50 * E8, 0, "SEK", Fraction(11)), 550000, "50 EUR at 11 SEK")
        self.assertEqual(total_of("buy", 3 * E8, 100 * E8, 0, "JPY"), 300, "a yen has no minor unit")
        self.assertEqual(shares_for(97940, round(81.2 * E8), 500, "buy", "EUR"), 12 * E8)
        self.assertEqual(price_of(Trade(DAY, "buy", 12 * E8, total_minor=-97940, fee_minor=500), "EUR"), round(81.2 * E8))
        self.assertIsNone(
            price_of(Trade(DAY, "opening", 12 * E8, total_minor=-97940), "EUR"), "what it cost is no price of the day"
        )
        with self.assertRaises(InvalidInput):
            shares_for(100, 0, 0, "buy", "EUR")

    @given(st.sampled_from(["buy", "sell"]), st.integers(1, 10**6), st.integers(10**6, 10**11), st.integers(0, 999))
    def test_put_back_they_agree(self, kind, shares, price, fee):
        shares_e8 = shares * E8
        total = total_of(kind, shares_e8, price, fee, "EUR")
        if total > 0:
            back = price_of(Trade(DAY, kind, shares_e8 * KIND_BY_KEY[kind].shares_way, total_minor=total, fee_minor=fee), "EUR")
            self.assertLessEqual(abs((back or 0) - price) * shares, E8 // 100, "to the cent the total was rounded to")

    @given(st.integers(1, 10**14), st.integers(1, 40), st.integers(1, 40))
    def test_a_split_and_its_reverse_are_inverse_but_for_what_is_cut(self, held, new, old):
        there = held + split_shares(held, new, old)
        back = there + split_shares(there, old, new)
        self.assertLessEqual(held - back, -(-old // new))
        self.assertGreaterEqual(held - back, 0)

    def test_prices_are_read_as_people_write_them(self):
        for text, price in (("81.20", 81.2), ("81,20", 81.2), ("1 200", 1200), ("1,200.5", 1200.5), ("0.0915", 0.0915)):
            self.assertEqual(parse_price(text), round(price * E8))
        for text in ("", "dear", "0", "-3", "1e30", "nan"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_price(text)


if __name__ == "__main__":
    unittest.main()
