"""Suggestions, transfers, series, and the quick line."""

import unittest
from datetime import date, timedelta

from bolsa.core.quick_line import Vocabulary, understand
from bolsa.core.series import Occurrence, dues_of, find_series, money_curve
from bolsa.core.suggestions import Decision, suggest
from bolsa.core.transfers import Side, propose_transfers

DAY = date(2026, 5, 14)
WORDS = Vocabulary(
    categories=[(1, "Groceries"), (2, "Household"), (3, "Fuel and gas")],
    accounts=[(7, "Reserve"), (8, "Cash tin")],
    payees=["Grebe Street Grocer", "Millstone Bakery"],
)


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


class QuickLines(unittest.TestCase):
    def test_lines_are_understood(self):
        known = [
            ("grebe 23.40 groceries yesterday", ("Grebe Street Grocer", -2340, 1, None, date(2026, 5, 13), "")),
            ("Mill 3,80", ("Millstone Bakery", -380, None, None, DAY, "")),
            ("diesel 62 fuel gas monday // full tank", ("Diesel", -6200, 3, None, date(2026, 5, 11), "full tank")),
            ("+12.50 found money", ("Found money", 1250, None, None, DAY, "")),
            ("250 to res 2026-05-02", ("", -25000, None, 7, date(2026, 5, 2), "")),
            ("baker 4 12 may house", ("Baker", -400, 2, None, date(2026, 5, 12), "")),
            ("shop 7 30 dec", ("Shop", -700, None, None, date(2025, 12, 30), "")),
        ]
        for text, (payee, amount, category, other, day, memo) in known:
            with self.subTest(text):
                said = understand(text, WORDS, "EUR", DAY)
                self.assertEqual(
                    (said.payee, said.amount_minor, said.category_id, said.to_account_id, said.day, said.memo),
                    (payee, amount, category, other, day, memo),
                )
                self.assertTrue(said.is_complete)

    def test_what_is_missing_is_named(self):
        self.assertEqual(understand("grebe", WORDS, "EUR", DAY).missing, ("an amount",))
        self.assertEqual(understand("", WORDS, "EUR", DAY).missing, ("a payee", "an amount"))


if __name__ == "__main__":
    unittest.main()
