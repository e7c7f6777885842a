"""Lots: worked figures for each method, and what always holds: they add up, in any order of entry."""

import random
import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.lots import METHODS, Lots, find_lots, is_long_term
from bolsa.core.holdings.trades import KIND_BY_KEY, Trade, split_shares
from bolsa.core.money import E8

HOME = Exchange("EUR", "EUR", "EUR", {})
START = date(2024, 1, 2)


def trade(day, kind, shares, total=None, id_=0, **more):
    """A trade so many days after the start; shares and totals in whole ones, signed as they are kept."""
    return Trade(START + timedelta(days=day), kind, round(shares * E8), total_minor=total, id=id_, **more)


def gains(lots: Lots) -> list[int]:
    return [one.proceeds.minor - one.cost.minor for one in lots.disposals]


BOUGHT = [trade(0, "buy", 100, -100000, 1), trade(40, "buy", 100, -140000, 2), trade(80, "buy", 100, -120000, 3)]


class Methods(unittest.TestCase):
    """100 bought at 10, 100 at 14, 100 at 12; 150 sold at 15 (the textbook example of the four methods)."""

    def sold(self, method, picks=None):
        return find_lots([*BOUGHT, trade(120, "sell", -150, 225000, 4)], method, HOME, picks)

    def test_first_in_first_out(self):
        lots = self.sold("first")
        self.assertEqual(gains(lots), [150000 - 100000, 75000 - 70000])
        self.assertEqual([(lot.shares_e8 // E8, lot.cost.minor) for lot in lots.held], [(50, 70000), (100, 120000)])

    def test_highest_cost_first(self):
        lots = self.sold("highest")
        self.assertEqual(gains(lots), [150000 - 140000, 75000 - 60000])
        self.assertEqual(sum(lot.cost.minor for lot in lots.held), 160000)

    def test_average_cost(self):
        lots = self.sold("average")
        self.assertEqual(sum(gains(lots)), 225000 - 180000)
        self.assertEqual(lots.cost.minor, 180000)

    def test_chosen_lots_and_the_rest_first_in_first_out(self):
        lots = self.sold("chosen", {4: [(3, 100 * E8), (2, 50 * E8)]})
        self.assertEqual(gains(lots), [150000 - 120000, 75000 - 70000])
        lots = self.sold("chosen", {4: [(3, 30 * E8)]})
        self.assertEqual([one.lot_id for one in lots.disposals], [3, 1, 2])

    def test_fees_belong_to_cost_and_proceeds(self):
        lots = find_lots([trade(0, "buy", 10, -10500, 1), trade(9, "sell", -10, 11400, 2)], "first", HOME)
        self.assertEqual(gains(lots), [900])


class Kinds(unittest.TestCase):
    def test_a_split_changes_no_cost_and_its_reverse_undoes_it(self):
        there = [trade(0, "buy", 100, -100000, 1), trade(5, "buy", 7.5, -9000, 2)]
        new = split_shares(round(107.5 * E8), 3, 1)
        lots = find_lots([*there, trade(9, "split", new / E8, None, 3)], "first", HOME)
        self.assertEqual([lot.shares_e8 for lot in lots.held], [300 * E8, round(22.5 * E8)])
        back = split_shares(round(322.5 * E8), 1, 3)
        again = find_lots([*there, trade(9, "split", new / E8, None, 3), trade(12, "split", back / E8, None, 4)], "first", HOME)
        self.assertEqual(
            [(x.shares_e8, x.cost) for x in again.held], [(x.shares_e8, x.cost) for x in find_lots(there, "first", HOME).held]
        )

    def test_a_split_is_there_in_the_morning_whenever_it_was_entered(self):
        lots = find_lots(
            [trade(0, "buy", 10, -10000, 1), trade(9, "sell", -15, 9000, 2), trade(9, "split", 20, None, 3)], "first", HOME
        )
        self.assertEqual(lots.shares_e8, 15 * E8)
        self.assertEqual(gains(lots), [9000 - 5000])

    def test_returned_capital_lowers_the_cost_and_what_is_more_is_gained(self):
        lots = find_lots([trade(0, "buy", 10, -10000, 1), trade(5, "return", 0, 4000, 2)], "first", HOME)
        self.assertEqual((lots.cost.minor, gains(lots)), (6000, []))
        lots = find_lots([trade(0, "buy", 10, -10000, 1), trade(5, "return", 0, 14000, 2)], "first", HOME)
        self.assertEqual((lots.cost.minor, gains(lots)), (0, [4000]))

    def test_shares_moved_keep_cost_and_day(self):
        lots = find_lots([trade(90, "in", 10, -10000, 1, basis_day=START - timedelta(days=700))], "first", HOME)
        self.assertEqual((lots.held[0].day, lots.cost.minor), (START - timedelta(days=700), 10000))
        lots = find_lots([trade(0, "buy", 10, -10000, 1), trade(5, "out", -4, None, 2)], "first", HOME)
        self.assertEqual((lots.cost.minor, lots.disposals), (6000, ()))

    def test_what_is_sold_before_it_is_bought_waits_for_its_cost(self):
        sale = trade(5, "sell", -10, 12000, 2)
        lots = find_lots([sale], "first", HOME)
        self.assertEqual((lots.shares_e8, lots.disposals[0].is_known, gains(lots)), (-10 * E8, False, [12000]))
        late = trade(9, "buy", 4, -4400, 3)
        lots = find_lots([sale, late], "first", HOME)
        self.assertEqual(lots.shares_e8, -6 * E8)
        self.assertEqual([(one.is_known, one.cost.minor) for one in lots.disposals], [(True, 4400), (False, 0)])
        early = find_lots([sale, late, trade(0, "buy", 10, -10000, 4)], "first", HOME)
        self.assertEqual((early.shares_e8, gains(early)), (4 * E8, [2000]))

    def test_price_and_rate_part_the_gain(self):
        rates = {"SEK": [(START, 10_000_000), (START + timedelta(days=50), 12_000_000)]}
        lots = find_lots(
            [trade(0, "buy", 10, -10000, 1), trade(60, "sell", -10, 15000, 2)], "first", Exchange("SEK", "SEK", "EUR", rates)
        )
        sale = lots.disposals[0]
        self.assertEqual((sale.cost.home_minor, sale.proceeds.home_minor), (1000, 1800))
        self.assertEqual((sale.currency_minor, sale.price_minor, sale.gain_home_minor), (200, 600, 800))

    def test_long_term_is_more_than_a_year(self):
        for bought, sold, is_long in (
            (date(2024, 3, 1), date(2025, 3, 1), False), (date(2024, 3, 1), date(2025, 3, 2), True),
            (date(2024, 2, 29), date(2025, 2, 28), False), (date(2024, 2, 29), date(2025, 3, 1), True),
        ):  # fmt: skip
            with self.subTest(bought=bought, sold=sold):
                self.assertEqual(is_long_term(bought, sold), is_long)


@st.composite
def some_trades(draw):
    found = []
    for at in range(draw(st.integers(1, 12))):
        kind = draw(st.sampled_from(["buy", "sell", "reinvest", "in", "out", "opening", "lieu", "return", "dividend"]))
        shares = draw(st.integers(1, 500)) * KIND_BY_KEY[kind].shares_way
        total = draw(st.integers(1, 99999))
        total = {"buy": -total, "reinvest": -total, "in": -total, "opening": -total, "out": None}.get(kind, total)
        found.append(
            Trade(START + timedelta(days=draw(st.integers(0, 40))), kind, shares * E8 // 7, total_minor=total, id=at + 1)
        )
    return found


class Always(unittest.TestCase):
    @given(some_trades(), st.sampled_from(sorted(METHODS)), st.integers(0, 99))
    def test_lots_add_up_to_positions_in_any_order_of_entry(self, trades, method, seed):
        lots = find_lots(trades, method, HOME)
        self.assertEqual(lots.shares_e8, sum(one.shares_e8 for one in trades))
        mixed = random.Random(seed).sample(trades, len(trades))
        again = find_lots(mixed, method, HOME)
        self.assertEqual(again.shares_e8, lots.shares_e8)
        self.assertEqual(again.cost.minor, lots.cost.minor)

    @given(some_trades(), st.sampled_from(sorted(METHODS)))
    def test_all_that_was_paid_is_in_a_lot_or_sold_or_moved(self, trades, method):
        trades = [one for one in trades if one.kind not in ("out", "return")]
        lots = find_lots(trades, method, HOME)
        paid = -sum(one.total_minor for one in trades if KIND_BY_KEY[one.kind].shares_way > 0)
        self.assertEqual(lots.cost.minor + sum(one.cost.minor for one in lots.disposals), paid)
        got = sum(one.total_minor for one in trades if one.kind in ("sell", "lieu"))
        self.assertEqual(sum(one.proceeds.minor for one in lots.disposals), got)

    @given(some_trades(), st.sampled_from(["first", "average", "highest"]))
    def test_a_split_and_its_reverse_leave_every_cost(self, trades, method):
        trades = [replace(one, day=START) for one in trades if KIND_BY_KEY[one.kind].shares_way > 0]
        held = sum(one.shares_e8 for one in trades)
        there, back = split_shares(held, 4, 1), split_shares(held * 4, 1, 4)
        split = [*trades, trade(50, "split", 0, None, 90), trade(51, "split", 0, None, 91)]
        split[-2], split[-1] = replace(split[-2], shares_e8=there), replace(split[-1], shares_e8=back)
        plain = find_lots(trades, method, HOME)
        self.assertEqual(
            [(x.shares_e8, x.cost) for x in find_lots(split, method, HOME).held], [(x.shares_e8, x.cost) for x in plain.held]
        )


if __name__ == "__main__":
    unittest.main()
