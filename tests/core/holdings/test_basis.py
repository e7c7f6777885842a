"""Suspects for basis: each is found, its repair mends it, and what is right is left alone."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.basis import (
    DAYS_AFTER_SPLIT,
    DAYS_OF_SPLIT,
    DAYS_TOGETHER,
    expect_income,
    find_basis_suspects,
    likely_between,
    may_be_far,
    repaired,
)
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.prices import MarketEvent, Priced
from bolsa.core.holdings.security import Declared
from bolsa.core.holdings.shares import position_on
from bolsa.core.holdings.trades import Trade
from bolsa.core.money import E8

HOME = Exchange("EUR", "EUR", "EUR", {})
DAY = date(2026, 3, 10)
SPLIT = MarketEvent(3, "split", DAY, ratio_new=3, ratio_old=1)


def trade(day, kind, shares=0, total=None, id_=1, **more):
    return Trade(DAY + timedelta(days=day), kind, round(shares * E8), 3, total, account_id=7, id=id_, **more)


def suspects(trades, price=40, events=(), today=DAY + timedelta(days=60), listed=None):
    declared = Declared(3, DAY + timedelta(days=30), listed * E8) if listed is not None else None
    return find_basis_suspects(trades, lambda day: Priced(day, round(price * E8), "market"), events, HOME, today, declared)


class Costs(unittest.TestCase):
    def test_a_cost_far_from_the_market_is_found_and_likely_what_it_should_be(self):
        for cost, found, words in (
            (-4000, -120000, "price of one share"), (-1200, -120000, "100 times"), (-12000, -120000, "10 times"),
            (-12000000, -120000, "part in 100"), (-400, -120000, "market’s price"),
        ):  # fmt: skip
            with self.subTest(cost):
                (one,) = suspects([trade(0, "opening", 30, cost)])
                self.assertIn(words, one.repair)
                self.assertAlmostEqual(one.puts[0].total_minor, found, delta=1)
                self.assertEqual(suspects(repaired([trade(0, "opening", 30, cost)], one)), [])

    def test_three_times_is_likely_and_more_is_not(self):
        for cost, is_found in ((-360000, False), (-360030, True), (-40000, False), (-39990, True)):
            with self.subTest(cost):
                self.assertEqual(bool(suspects([trade(0, "buy", 30, cost)])), is_found)

    def test_a_quarter_off_is_like_and_more_is_not(self):
        """The price of one share typed as the total: 40 within a quarter is 30 to 50."""
        for cost, is_like in ((-5000, True), (-5001, False), (-3000, True), (-2999, False)):
            with self.subTest(cost):
                (one,) = suspects([trade(0, "opening", 30, cost)])
                self.assertEqual("price of one share" in one.repair, is_like)

    def test_shares_without_a_cost_take_the_markets_price_of_their_day(self):
        (one,) = suspects([trade(0, "in", 12, None, reason="a gift", basis_day=DAY - timedelta(days=90))])
        self.assertEqual((one.puts[0].total_minor, one.puts[0].basis_day), (-48000, DAY - timedelta(days=90)))
        self.assertIn("a gift", one.reason)


class Splits(unittest.TestCase):
    def test_a_split_of_the_market_that_is_not_entered(self):
        there = [trade(-50, "buy", 40, -160000)]
        (one,) = suspects(there, events=[SPLIT])
        self.assertEqual((one.puts[0].shares_e8, one.puts[0].day), (80 * E8, DAY))
        after = [replace(t, id=t.id or 9) for t in repaired(there, one)]
        self.assertEqual((position_on(after, DAY), suspects(after, events=[SPLIT])), (120 * E8, []))

    def test_bare_shares_are_what_it_added(self):
        there = [trade(-50, "buy", 40, -160000), trade(1, "in", 80, None, 2, reason="appeared")]
        first = suspects(there, events=[SPLIT])[0]
        self.assertEqual(first.takes_out, (2,))
        self.assertEqual(sum(t.shares_e8 for t in repaired(there, first)), 120 * E8)

    def test_ten_days_off_it_is_the_one_entered_and_eleven_it_is_not(self):
        for days, is_found in (
            (DAYS_OF_SPLIT, False),
            (-DAYS_OF_SPLIT, False),
            (DAYS_OF_SPLIT + 1, True),
            (-DAYS_OF_SPLIT - 1, True),
        ):
            there = [trade(-50, "buy", 40, -160000), trade(days, "split", 80, None, 2, ratio_new=3, ratio_old=1)]
            self.assertEqual(bool(suspects(there, events=[SPLIT])), is_found, days)

    def test_it_is_not_missed_before_it_comes_or_where_nothing_was_held(self):
        self.assertEqual(suspects([trade(0, "buy", 40, -160000)], events=[SPLIT]), [], "bought on the day itself")
        self.assertEqual(suspects([trade(-50, "buy", 40, -160000)], events=[SPLIT], today=DAY - timedelta(days=1)), [])

    def test_cash_for_the_fraction_is_no_distribution(self):
        for days, is_found in ((0, True), (DAYS_AFTER_SPLIT, True), (DAYS_AFTER_SPLIT + 1, False)):
            there = [
                trade(-50, "buy", 5, -20000), trade(0, "split", 2.5, None, 2, ratio_new=3, ratio_old=2),
                trade(days, "dividend", 0, 2010, 3),
            ]  # fmt: skip
            found = suspects(there)
            self.assertEqual(bool(found), is_found, days)
            if found:
                after = repaired(there, found[0])
                self.assertEqual((position_on(after, date.max), after[-1].kind), (7 * E8, "lieu"))
        there[-1] = trade(3, "dividend", 0, 150, 3)
        self.assertEqual(suspects(there), [], "a distribution is not worth half a share")


class Twice(unittest.TestCase):
    def test_a_reinvestment_beside_its_cash_and_its_purchase(self):
        for days, is_found in ((DAYS_TOGETHER, True), (DAYS_TOGETHER + 1, False)):
            there = [
                trade(0, "opening", 50, -200000), trade(10, "reinvest", 1, -4000, 2), trade(10 + days, "dividend", 0, 4000, 3),
                trade(10 + days, "buy", 1, -4000, 4),
            ]  # fmt: skip
            found = suspects(there)
            self.assertEqual([one.takes_out for one in found], [(3, 4)] if is_found else [])

    def test_a_distribution_and_a_purchase_alone_are_right(self):
        self.assertEqual(
            suspects([trade(0, "buy", 50, -200000), trade(9, "dividend", 0, 4000, 2), trade(9, "buy", 1, -4000, 3)]), []
        )


class Quickly(unittest.TestCase):
    @given(st.integers(1, 10**9), st.integers(1, 10**5), st.integers(1, 10**7), st.sampled_from(["EUR", "JPY", "SEK", ""]))
    def test_no_cost_that_is_far_is_left_out(self, cost, shares, price, own):
        rates = {"JPY": [(DAY, 620_000)], "SEK": [(DAY, 8_700_000)]}
        exchange = Exchange("EUR", own or "CHF", "EUR", rates)  # of CHF no rate is known
        one, price_e8 = trade(0, "buy", shares, -cost), price * 10**6
        found = find_basis_suspects([one], lambda day: Priced(day, price_e8, "market"), [], exchange, DAY)
        for day in (DAY, None):
            self.assertTrue(not found or may_be_far(-cost, one.shares_e8, price_e8, likely_between(exchange, day)))

    def test_a_likely_cost_is_left_out(self):
        self.assertFalse(may_be_far(-120000, 30 * E8, 40 * E8, likely_between(HOME, DAY)))
        self.assertTrue(may_be_far(-4000, 30 * E8, 40 * E8, likely_between(HOME, DAY)))


class Lists(unittest.TestCase):
    def test_what_explains_the_institutions_list_is_offered_with_its_trades(self):
        (one,) = suspects([trade(0, "buy", 50, -200000), trade(5, "buy", 10, -40000, 2)], listed=40)
        self.assertEqual((one.title, one.repair), ("60 here, 40 listed on 2026-04-09", "Turn it round"))
        after = repaired([trade(0, "buy", 50, -200000), trade(5, "buy", 10, -40000, 2)], one)
        self.assertEqual(
            [(t.kind, t.shares_e8 // E8, t.total_minor) for t in after], [("buy", 50, -200000), ("sell", -10, 40000)]
        )
        self.assertEqual(suspects(after, listed=40), [])

    def test_a_split_the_market_tells_explains_it_first_and_alone(self):
        (one,) = suspects([trade(-9, "buy", 40, -160000)], events=[SPLIT], listed=120)
        self.assertEqual(one.title, "A split 3 for 1 is not entered")
        (other,) = suspects([trade(-9, "buy", 40, -160000)], listed=120)
        self.assertEqual(other.repair, "Enter a split 3 for 1")

    def test_a_difference_that_nothing_explains_is_left_to_the_page_of_shares(self):
        self.assertEqual(suspects([trade(0, "buy", 50, -200000)], listed=47), [])


class Income(unittest.TestCase):
    EVENT = MarketEvent(3, "dividend", DAY, DAY + timedelta(days=15), 125_000_000)

    def expected(self, *trades):
        held = position_on(trades, self.EVENT.day - timedelta(days=1))
        return expect_income([(self.EVENT, {7: held})], {(7, 3): trades}, {(7, 3): HOME})

    def test_it_is_of_what_was_held_the_day_before(self):
        (one,) = self.expected(trade(-1, "buy", 40, -160000), trade(0, "sell", -40, 170000, 2))
        self.assertEqual((one.shares_e8, one.amount_minor, one.pay_day), (40 * E8, 5000, DAY + timedelta(days=15)))
        self.assertEqual(self.expected(trade(0, "buy", 40, -160000)), [])

    def test_one_that_is_entered_is_expected_no_more(self):
        held = trade(-50, "buy", 40, -160000)
        self.assertEqual(self.expected(held, trade(15, "dividend", 0, 5000, 2)), [])
        self.assertEqual(self.expected(held, trade(16, "reinvest", 1, -5000, 2)), [])
        self.assertEqual(self.expected(held, trade(200, "dividend", 0, 5000, 2, ex_day=DAY)), [])
        self.assertTrue(self.expected(held, trade(15, "dividend", 0, 5000, 2, ex_day=DAY - timedelta(days=90))))
        self.assertTrue(self.expected(held, trade(-1, "dividend", 0, 5000, 2)), "it was another's")


if __name__ == "__main__":
    unittest.main()
