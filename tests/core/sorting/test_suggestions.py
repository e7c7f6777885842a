"""Suggestions, transfers, series."""

import unittest
from datetime import date, timedelta

from bolsa.core.due.series import Occurrence, dues_of, find_series, money_curve
from bolsa.core.sorting.suggestions import Decision, suggest
from bolsa.core.sorting.transfers import Side, propose_transfers

DAY = date(2026, 5, 14)


class Suggestions(unittest.TestCase):
    def test_a_steady_payee_is_suggested_with_its_count(self):
        found = suggest([Decision(4, -1000, 1, 2)] * 37 + [Decision(5, -900, 1, 2)], amount_minor=-1, account_id=9, weekday=0)
        self.assertEqual((found.choices[0].category_id, found.reason, found.is_guess), (4, "37 of 38 times", True))

    def test_a_mixed_shop_is_asked_about_unless_the_amount_tells(self):
        past = [Decision(4, -1200, 1, 0)] * 5 + [Decision(5, -300, 1, 1), Decision(5, -700, 1, 3), Decision(6, -50, 1, 5)] * 3
        self.assertFalse(suggest(past, amount_minor=-999, account_id=2, weekday=6).is_guess)
        told = suggest(past, amount_minor=-1200, account_id=2, weekday=6)
        self.assertEqual((told.choices[0].category_id, told.reason), (4, "5 of 5 times at this amount"))

    def test_nothing_is_suggested_from_nothing(self):
        self.assertIsNone(suggest([], amount_minor=1, account_id=1, weekday=1))


class Transfers(unittest.TestCase):
    def side(self, entry_id, account, amount, days=0, text=""):
        return Side(entry_id, account, f"Account {account}", DAY + timedelta(days=days), amount, "EUR", text)

    def test_opposite_entries_near_each_other_are_one_transfer(self):
        found = propose_transfers(
            [self.side(1, 1, -25000, text="TRANSFER 0093"), self.side(2, 2, 25000, 2), self.side(3, 3, 25000, 9)]
        )
        self.assertEqual([(p.out.entry_id, p.into.entry_id) for p in found], [(1, 2)])
        self.assertIn("2 days apart", found[0].reason)

    def test_each_side_is_used_once_and_rivals_lower_the_certainty(self):
        found = propose_transfers([self.side(1, 1, -500), self.side(2, 2, 500), self.side(3, 3, 500, 1)])
        self.assertEqual(len(found), 1)
        self.assertLess(found[0].certainty, 0.8)

    def test_one_account_or_two_currencies_make_no_transfer(self):
        self.assertEqual(propose_transfers([self.side(1, 1, -500), self.side(2, 1, 500)]), [])


class SeriesFound(unittest.TestCase):
    def monthly(self, count, amount=-1000):
        return [Occurrence(date(2026 + (i // 12), i % 12 + 1, 31 if i % 12 in (0, 2) else 28), amount) for i in range(count)]

    def test_a_monthly_bill_near_the_month_end_is_found_and_due_again(self):
        series = find_series("Heron School", 1, self.monthly(5))
        self.assertEqual(series.rhythm.label, "monthly")
        dues = dues_of(series, date(2026, 6, 10), date(2026, 7, 31), date(2026, 6, 9))
        self.assertEqual([(d.day, d.late_days) for d in dues], [(date(2026, 6, 28), 0), (date(2026, 7, 28), 0)])

    def test_late_is_said_only_where_the_books_reach(self):
        series = find_series("Tidewater", 1, self.monthly(5))
        late = dues_of(series, date(2026, 7, 6), date(2026, 7, 10), date(2026, 7, 6))
        self.assertEqual([(d.day, d.late_days) for d in late], [(date(2026, 6, 28), 8)])
        unknown = dues_of(series, date(2026, 7, 6), date(2026, 7, 10), date(2026, 6, 20))
        self.assertEqual([(d.day, d.late_days) for d in unknown], [(date(2026, 7, 6), 0)])

    def test_a_shop_is_no_series(self):
        days = [Occurrence(DAY - timedelta(days=d), -1000) for d in (90, 71, 65, 40, 12, 3)]
        self.assertIsNone(find_series("Grocer", 1, days))

    def test_the_curve_steps_at_each_days_end(self):
        curve = money_curve(1000, DAY, 3, [(DAY + timedelta(days=1), -400), (DAY + timedelta(days=3), 50)])
        self.assertEqual([p.balance_minor for p in curve], [1000, 600, 600, 650])


if __name__ == "__main__":
    unittest.main()
