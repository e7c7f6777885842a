"""Shares here against shares there: each cause is found, and its cure makes the two agree."""

import unittest
from dataclasses import replace
from datetime import date, timedelta

from hypothesis import assume, given
from hypothesis import strategies as st

from bolsa.core.holdings.shares import (
    DAYS_TO_SETTLE,
    E8,
    MOST_SHARES,
    find_share_suspects,
    parse_shares,
    position_on,
    shares_text,
)
from bolsa.core.holdings.trades import Trade
from bolsa.errors import InvalidInput

DAY = date(2026, 4, 30)


def moves(*parts):
    """Moves from (days before the list, kind, shares)."""
    return [Trade(DAY - timedelta(days=d), kind, round(shares * E8), id=i + 1) for i, (d, kind, shares) in enumerate(parts)]


def cured(here, cure):
    """The moves as they are after a cure."""
    if cure.verb == "split":
        return [*here, Trade(cure.day, "split", cure.shares_e8)]
    if cure.verb == "remove":
        return [move for move in here if move.id != cure.move_id]
    changed = {"day": cure.day} if cure.verb == "date" else {"shares_e8": cure.shares_e8}
    return [replace(move, **changed) if move.id == cure.move_id else move for move in here]


class Suspects(unittest.TestCase):
    def found(self, here, there):
        suspects = find_share_suspects(here, round(there * E8), DAY)
        for suspect in suspects:
            self.assertEqual(position_on(cured(here, suspect.cure), DAY), round(there * E8), suspect)
        return [suspect.cure.verb for suspect in suspects]

    def test_each_cause_is_found_and_its_cure_makes_them_agree(self):
        start = (400, "opening", 40)
        cases = (
            ("there twice", moves(start, (30, "reinvest", 0.8), (28, "reinvest", 0.8)), 40.8, "remove"),
            ("the wrong way", moves(start, (30, "buy", 5)), 35, "turn"),
            ("a split", moves(start), 120, "split"),
            ("a reverse split", moves(start), 4, "split"),
            ("three for two", moves(start), 60, "split"),
            ("a split with a fraction paid out", moves((400, "opening", 40.3), (30, "buy", 1)), 61, "split"),
            ("not settled there yet", moves(start, (1, "buy", 7)), 40, "date"),
            ("dated just after", moves(start, (-2, "buy", 7)), 47, "date"),
            ("swapped digits", moves(start, (90, "buy", 12.34)), 53.24, "correct"),
            ("not counted there", moves(start, (90, "in", 3.17)), 40, "remove"),
        )
        for name, here, there, verb in cases:
            with self.subTest(name):
                self.assertEqual(self.found(here, there)[0], verb)

    def test_the_last_day_that_counts_and_the_first_that_does_not(self):
        self.assertEqual(DAYS_TO_SETTLE, 4)
        start = (400, "opening", 40)
        for name, here, there, verbs in (
            ("there twice, four days apart", moves(start, (30, "reinvest", 0.8), (26, "reinvest", 0.8)), 40.8, ["remove"]),
            ("there twice, five days apart", moves(start, (30, "reinvest", 0.8), (25, "reinvest", 0.8)), 40.8, []),
            ("four days before the list", moves(start, (4, "sell", -0.13)), 40, []),
            ("three days before the list", moves(start, (3, "sell", -0.13)), 40, ["date"]),
            ("four days after the list", moves(start, (-4, "buy", 0.13)), 40.13, ["date"]),
            ("five days after the list", moves(start, (-5, "buy", 0.13)), 40.13, []),
        ):
            with self.subTest(name):
                sent = [replace(move, bank_ref=f"B{move.id}") for move in here]
                self.assertEqual(self.found(sent, there), verbs)

    def test_the_most_shares_and_one_more(self):
        self.assertEqual(parse_shares(str(MOST_SHARES)), MOST_SHARES * E8)
        for text in (str(MOST_SHARES + 1), "0.000000001"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_shares(text)

    def test_what_agrees_has_no_suspects_and_what_nothing_explains_has_none_either(self):
        here = moves((400, "opening", 40), (30, "buy", 5))
        self.assertEqual(self.found(here, 45), [])
        self.assertEqual(self.found(here, 51.37), [])
        self.assertEqual(self.found(moves((400, "opening", 40)), 0), [], "sold or moved out: nobody mistyped a holding")
        self.assertEqual(self.found([], 10), [], "an opening position is to be entered, with what it cost")

    @given(
        st.lists(st.tuples(st.integers(0, 60), st.sampled_from(["buy", "sell"]), st.integers(1, 400)), max_size=6),
        st.integers(0, 900),
    )
    def test_every_cure_offered_makes_them_agree(self, drawn, there):
        here = moves(*((days, kind, count if kind == "buy" else -count) for days, kind, count in drawn))
        assume(position_on(here, DAY) != there * E8)
        self.found(here, there)


class Entering(unittest.TestCase):
    def test_shares_are_read_as_people_write_them(self):
        for text, shares in (("12,5", 12.5), ("1 200", 1200), ("1'200.25", 1200.25), ("−3", -3), (".5", 0.5)):
            self.assertEqual(parse_shares(text), round(shares * E8))
        for text in ("", "many", "1e30", "0.123456789", "1,2,3,4.5.6", "nan"):
            with self.subTest(text), self.assertRaises(InvalidInput):
                parse_shares(text)

    @given(st.integers(-(10**16), 10**16))
    def test_what_is_shown_reads_as_what_it_was(self, shares_e8):
        self.assertEqual(parse_shares(shares_text(shares_e8)), shares_e8)


if __name__ == "__main__":
    unittest.main()
