"""What comes again and again, and what is due from it."""

import unittest
from datetime import date, timedelta

from bolsa.core.due.rhythm import in_words
from bolsa.core.due.series import FEWEST, TOLERANCE_DAYS, Occurrence, counts_along, find_series, without_number

DAY = date(2026, 5, 14)


class SeriesFound(unittest.TestCase):
    def monthly(self, count, amount=-1000):
        return [Occurrence(date(2026 + (i // 12), i % 12 + 1, 31 if i % 12 in (0, 2) else 28), amount) for i in range(count)]

    def test_a_monthly_bill_near_the_month_end_is_found_and_due_again(self):
        series = find_series("Heron School", 1, self.monthly(5))
        self.assertEqual(series.spacing.label, "monthly")
        self.assertEqual(series.rhythm.next_days(date(2026, 6, 10), 2), [date(2026, 6, 28), date(2026, 7, 28)])

    def test_a_shop_is_no_series(self):
        days = [Occurrence(DAY - timedelta(days=d), -1000) for d in (90, 71, 65, 40, 12, 3)]
        self.assertIsNone(find_series("Grocer", 1, days))

    def found(self, days, amounts=(-1000, -1000, -1000)):
        occurrences = [Occurrence(DAY + timedelta(days=d), a) for d, a in zip(days, amounts, strict=True)]
        series = find_series("Tidewater", 1, occurrences)
        return series.spacing.label if series else None

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


class Rules(unittest.TestCase):
    def test_a_found_series_names_the_days_it_came(self):
        for apart, words in (
            (timedelta(days=7), "weekly on Thursday"), (timedelta(days=14), "every two weeks on Thursday"),
            (timedelta(days=28), "every four weeks on Thursday"),
        ):  # fmt: skip
            days = [DAY + n * apart for n in range(5)]
            series = find_series("Pay", 1, [Occurrence(day, 5) for day in days])
            with self.subTest(words):
                self.assertEqual(in_words(series.rhythm), words)
                self.assertEqual(series.rhythm.days(days[0], days[-1]), days)

    def test_months_on_their_day_or_their_last(self):
        for days, words in (
            ([date(2026, m, 12) for m in (1, 2, 3)], "monthly on the 12th"),
            ([date(2026, 1, 31), date(2026, 2, 28), date(2026, 3, 31)], "monthly on the 31st"),
            ([date(2025, 12, 31), date(2026, 1, 31), date(2026, 2, 28)], "monthly on the 31st"),
            ([date(2025, 1, 12), date(2025, 7, 12), date(2026, 1, 12)], "every six months on the 12th"),
            ([date(2024, 6, 3), date(2025, 6, 3), date(2026, 6, 3)], "yearly on the 3rd of June"),
        ):
            series = find_series("Bill", 1, [Occurrence(day, -5) for day in days])
            with self.subTest(words):
                self.assertEqual(in_words(series.rhythm), words)
                self.assertEqual(series.rhythm.days(days[0], days[-1]), days)

    def test_how_far_the_amounts_lie_apart(self):
        series = find_series("Power", 1, [Occurrence(DAY + timedelta(days=7 * n), a) for n, a in enumerate((-900, -1100, -1000))])
        self.assertEqual((series.amount_minor, series.within_percent), (-1000, 10))


class Numbered(unittest.TestCase):
    def test_numbers_of_months_weeks_and_runs_belong_to_no_name(self):
        firsts = [date(2025, month, 3) for month in (10, 11, 12)] + [date(2026, 1, 3)]
        for numbers, along in (
            ((10, 11, 12, 1), True), ((9, 10, 11, 12), True), ((4, 5, 6, 7), True), ((7, 7, 7, 7), False), ((7, 9, 7, 9), False),
            (tuple(day.isocalendar().week for day in firsts), True), ((10, 11, 12, 2), False),
        ):  # fmt: skip
            with self.subTest(numbers):
                self.assertEqual(counts_along(list(zip(firsts, numbers, strict=True))), along)

    def test_a_number_at_the_end_alone_is_taken_off(self):
        for name, found in (
            ("Nursery 11", ("Nursery", 11)),
            ("Nursery No. 3", ("Nursery", 3)),
            ("Route 66 Diner", None),
            ("77", None),
        ):
            self.assertEqual(without_number(name), found)


if __name__ == "__main__":
    unittest.main()
