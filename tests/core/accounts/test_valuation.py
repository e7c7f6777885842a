"""Values by curves, carried to month ends, and the holes that remain."""

import unittest
from datetime import date, timedelta
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.accounts.valuation import DAYS_KNOWN, Gap, Noted, fill_gap, find_gaps, list_carried, value_on

JAN = Noted(date(2026, 1, 31), 1_200_000)


class Curves(unittest.TestCase):
    def test_each_curve_by_its_formula(self):
        straight = Terms(curve="straight", curve_until=date(2027, 1, 31), curve_last_minor=200_000)
        percent = Terms(curve="percent", curve_rate=Decimal("-0.15"))
        for terms, day, value in (
            (Terms(curve="carry"), date(2030, 1, 1), 1_200_000),
            (straight, date(2026, 8, 1), 701_370),  # 182 of 365 days: 1,000,000 × 182/365 less
            (straight, date(2028, 1, 1), 200_000),
            (percent, date(2027, 1, 31), 1_020_113),  # 0.85 to the power of 365/365.25
            (percent, JAN.day, 1_200_000),
        ):
            with self.subTest(terms=terms.curve, day=day):
                self.assertEqual(value_on(terms, JAN, day), value)

    def test_an_index_moves_the_value_by_its_ratio(self):
        index = [(date(2025, 12, 31), Decimal(100)), (date(2026, 3, 31), Decimal(110))]
        self.assertEqual(value_on(Terms(curve="index"), JAN, date(2026, 3, 30), index), 1_200_000)
        self.assertEqual(value_on(Terms(curve="index"), JAN, date(2026, 4, 30), index), 1_320_000)
        self.assertEqual(value_on(Terms(curve="index"), JAN, date(2026, 4, 30), []), 1_200_000)

    def test_carrying_fills_every_month_end_before_today(self):
        carried = list_carried(Terms(curve="carry"), JAN, date(2026, 4, 30))
        self.assertEqual([n.day for n in carried], [date(2026, 2, 28), date(2026, 3, 31)])
        self.assertEqual({n.source for n in carried}, {"carried"})
        self.assertEqual(list_carried(Terms(), JAN, date(2026, 4, 30)), [])


class Gaps(unittest.TestCase):
    def test_gaps_are_found_and_filled_by_a_line_or_by_carrying(self):
        notes = [JAN, Noted(date(2026, 6, 30), 1_350_000)]
        (gap,) = find_gaps(notes, date(2026, 7, 14))
        self.assertEqual(gap, Gap(*notes))
        line = fill_gap(gap, "between", date(2026, 7, 14))
        self.assertEqual([n.day.month for n in line], [2, 3, 4, 5])
        self.assertEqual(line[1].amount_minor, 1_200_000 + 150_000 * 59 // 150)
        self.assertEqual({n.amount_minor for n in fill_gap(gap, "carried", date(2026, 7, 14))}, {1_200_000})
        self.assertEqual(find_gaps([*notes[:1], *line, notes[1]], date(2026, 7, 14)), [])

    def test_an_open_gap_reaches_to_today(self):
        self.assertEqual(find_gaps([JAN], date(2026, 9, 1)), [Gap(JAN, None)])
        self.assertEqual(find_gaps([JAN, Noted(date(2026, 4, 30), 1)], date(2026, 5, 1)), [], "values once a quarter")
        self.assertEqual(find_gaps([JAN], date(2026, 3, 1)), [])
        self.assertEqual(find_gaps([], date(2026, 3, 1)), [])

    def test_the_last_day_a_value_is_known_and_the_first_it_is_not(self):
        for days, is_hole in ((DAYS_KNOWN, False), (DAYS_KNOWN + 1, True)):
            later = JAN.day + timedelta(days=days)
            with self.subTest(days):
                self.assertEqual(bool(find_gaps([JAN], later)), is_hole, "until today")
                self.assertEqual(bool(find_gaps([JAN, Noted(later, 1)], later)), is_hole, "until the next value")
        self.assertEqual(DAYS_KNOWN, 100)

    def test_a_month_end_is_carried_the_day_after_it(self):
        for today, ends in ((date(2026, 2, 28), 0), (date(2026, 3, 1), 1)):
            self.assertEqual(len(list_carried(Terms(curve="carry"), JAN, today)), ends)


if __name__ == "__main__":
    unittest.main()
