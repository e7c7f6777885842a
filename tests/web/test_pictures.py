"""Scales, ticks and labels: round, inside the drawing, and not one over another."""

import itertools
import unittest
from datetime import date, timedelta

from flask import Flask, g
from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.months import Month, months_between
from bolsa.core.reader import READERS
from bolsa.web.pictures.kit import Area, day_scale, marks_at, money_scale, month_slots, round_step, spread

AREA = Area(420, 200, 60, 410, 10, 170)
FIRST = date(2026, 5, 14)


class Scales(unittest.TestCase):
    def setUp(self):
        context = Flask("pictures").app_context()
        context.push()
        self.addCleanup(context.pop)
        g.reader = READERS["en_IE"]

    @given(st.lists(st.integers(-(10**10), 10**10), min_size=1, max_size=8), st.sampled_from(["EUR", "JPY", "KWD"]))
    def test_every_amount_lies_between_round_rules(self, amounts, currency):
        y, rules = money_scale(AREA, amounts, currency)
        self.assertTrue(all(AREA.top <= y(amount) <= AREA.bottom for amount in amounts))
        self.assertEqual([rules[0].at, rules[-1].at], [AREA.bottom, AREA.top])
        self.assertLessEqual(len(rules), 8)
        self.assertEqual(len({rule.words for rule in rules}), len(rules))

    def test_rules_are_one_two_or_five_whole_units(self):
        for least, currency, step in (
            (90, "EUR", 100),
            (101, "EUR", 200),
            (2_001, "EUR", 5_000),
            (3, "JPY", 5),
            (1_500, "KWD", 2_000),
        ):
            with self.subTest(least, currency=currency):
                self.assertEqual(round_step(least, currency), step)
        self.assertEqual(
            [rule.words for rule in money_scale(AREA, [0, 45_000], "EUR")[1]], ["0", "100", "200", "300", "400", "500"]
        )

    def test_days_are_ticked_by_weeks_months_or_years(self):
        for days, words in (
            (30, ["18 May", "25 May"]),
            (300, ["Jun", "Jul"]),
            (1_500, ["2027", "2028"]),
            (2_600_000, ["3000", "4000"]),
        ):
            with self.subTest(days):
                x, ticks = day_scale(AREA, FIRST, FIRST + timedelta(days=days))
                self.assertEqual([tick.words for tick in ticks[:2]], words)
                self.assertEqual((x(FIRST), x(FIRST + timedelta(days=days))), (AREA.left, AREA.right))
                self.assertTrue(all(b.at - a.at >= 24 for a, b in itertools.pairwise(ticks)))

    def test_months_are_named_as_closely_as_their_words_allow(self):
        for count, every in ((6, 1), (12, 3), (24, 6)):
            months = months_between(Month(2025, 6), Month(2025, 6) + (count - 1))
            _, middles, ticks = month_slots(AREA, months)
            with self.subTest(count):
                self.assertEqual(len(middles), count)
                named = [m for m in months if m.number % every == 1 % every]
                self.assertEqual([tick.words[:3] for tick in ticks], [f"{m.first_day:%b}" for m in named])

    def test_marks_cover_the_drawing_and_labels_keep_apart(self):
        marks = marks_at(AREA, [80, 90, 300], ["a", "b", "c"])
        self.assertEqual([(m.left, m.left + m.width) for m in marks], [(60, 85), (85, 195), (195, 410)])
        self.assertEqual(spread([50, 20, 52], gap=14), [50, 20, 64])


if __name__ == "__main__":
    unittest.main()
