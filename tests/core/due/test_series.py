"""What comes again and again, and what is due from it."""

import unittest
from datetime import date, timedelta

from bolsa.core.due.series import FEWEST, TOLERANCE_DAYS, Occurrence, dues_of, find_series, money_curve

DAY = date(2026, 5, 14)


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

    def found(self, days, amounts=(-1000, -1000, -1000)):
        occurrences = [Occurrence(DAY + timedelta(days=d), a) for d, a in zip(days, amounts, strict=True)]
        series = find_series("Tidewater", 1, occurrences)
        return series.rhythm.label if series else None

    def test_three_times_make_a_series_and_two_do_not(self):
        self.assertEqual(FEWEST, 3)
        self.assertEqual(self.found((0, 7, 14)), "weekly")
        self.assertIsNone(self.found((0, 7), (-1000, -1000)))

    def test_how_far_a_gap_may_lie_from_its_rhythm(self):
        self.assertEqual(TOLERANCE_DAYS, 4)
        for days, label in (
            ((0, 8, 15), "weekly"), ((0, 9, 16), None), ((0, 13, 28), "fortnightly"), ((0, 12, 26), None),
            ((0, 29, 57), "four-weekly"), ((0, 35, 61), "monthly"), ((0, 36, 62), None), ((0, 27, 61), "monthly"),
            ((0, 92, 184), "quarterly"), ((0, 369, 734), "yearly"), ((0, 370, 734), None),
        ):  # fmt: skip
            with self.subTest(days):
                self.assertEqual(self.found(days), label)

    def test_amounts_lie_within_half_of_their_median(self):
        for amounts, label in (
            ((-1000, -1500, -1000), "weekly"), ((-1000, -1501, -1000), None), ((-1000, -500, -1000), "weekly"),
            ((-1000, -499, -1000), None), ((-1000, 1000, -1000), None),
        ):  # fmt: skip
            with self.subTest(amounts):
                self.assertEqual(self.found((0, 7, 14), amounts), label)

    def test_the_last_day_it_is_only_awaited_and_the_first_it_is_late(self):
        series = find_series("Tidewater", 1, self.monthly(5))  # due again on 28 June
        for days, late in ((4, 0), (5, 5)):
            today = date(2026, 6, 28) + timedelta(days=days)
            with self.subTest(days):
                self.assertEqual(dues_of(series, today, today, today)[0].late_days, late)

    def test_one_missed_too_long_has_ended(self):
        series = find_series("Tidewater", 1, self.monthly(5))
        for days, count in ((31, 1), (32, 0)):
            today = date(2026, 6, 28) + timedelta(days=days)
            with self.subTest(days):
                self.assertEqual(len([d for d in dues_of(series, today, today, today) if d.late_days]) > 0, bool(count))


class Curve(unittest.TestCase):
    def test_the_curve_steps_at_each_days_end(self):
        curve = money_curve(1000, DAY, 3, [(DAY + timedelta(days=1), -400), (DAY + timedelta(days=3), 50)])
        self.assertEqual([p.balance_minor for p in curve], [1000, 600, 600, 650])


if __name__ == "__main__":
    unittest.main()
