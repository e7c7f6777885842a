"""What a source covers, and how the days of two sources lie beside each other."""

import unittest
from datetime import date, timedelta
from math import log

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.bringing.coverage import FORGOTTEN, Coverage, Habit, cost_of_missing, first_to_ask, working_days

FIRST, LAST = date(2026, 3, 2), date(2026, 3, 31)
DAYS = st.dates(date(2025, 1, 1), date(2027, 1, 1))


class Covering(unittest.TestCase):
    def test_each_day_of_a_declared_stretch_is_told_but_its_last_may_not_be_over(self):
        declared = Coverage("ofx", FIRST, LAST, is_declared=True)
        days = (FIRST - timedelta(days=1), FIRST, LAST - timedelta(days=1), LAST, LAST + timedelta(days=1))
        self.assertEqual([declared.chance(day) for day in days], [0, 1, 1, 0.7, 0])

    def test_the_outermost_days_of_rows_alone_are_ragged(self):
        rows = Coverage("csv:a", FIRST, LAST)
        self.assertEqual([rows.chance(FIRST + timedelta(days=n)) for n in range(-1, 4)], [0, 0.5, 0.7, 0.85, 1])
        self.assertEqual([rows.chance(LAST - timedelta(days=n)) for n in range(-1, 4)], [0, 0.5, 0.7, 0.85, 1])

    def test_what_it_costs_that_a_booking_is_missing(self):
        self.assertEqual(cost_of_missing(0.0), 0)
        self.assertAlmostEqual(cost_of_missing(1.0), -log(FORGOTTEN))


class Asking(unittest.TestCase):
    TODAY = date(2026, 5, 14)

    def first(self, *stretches, agreed=None):
        return first_to_ask([Coverage("ofx", *days) for days in stretches], agreed, self.TODAY)

    def test_nothing_known_asks_for_ninety_days(self):
        self.assertEqual(self.first(), self.TODAY - timedelta(days=90))

    def test_from_the_first_gap_on_with_what_is_booked_late(self):
        january, april = (date(2026, 1, 1), date(2026, 1, 20)), (date(2026, 4, 1), date(2026, 5, 10))
        self.assertEqual(self.first(january, april, agreed=date(2026, 5, 10)), date(2026, 1, 10))
        between = (date(2026, 1, 21), date(2026, 3, 31))
        self.assertEqual(self.first(january, between, april, agreed=date(2026, 5, 10)), date(2026, 4, 30))

    def test_back_to_where_the_bank_agreed_and_two_years_at_most(self):
        stretch = (date(2024, 7, 1), date(2026, 5, 10))
        self.assertEqual(self.first(stretch, agreed=date(2026, 3, 1)), date(2026, 2, 19))
        self.assertEqual(self.first(stretch), date(2026, 2, 3))
        self.assertEqual(self.first(stretch, agreed=date(2024, 1, 1)), date(2024, 7, 1))
        older = (date(2023, 7, 1), date(2026, 5, 10))
        self.assertEqual(self.first(older, agreed=date(2024, 1, 1)), self.TODAY - timedelta(days=730))


class Habits(unittest.TestCase):
    @given(DAYS, DAYS)
    def test_working_days_are_counted_one_by_one(self, one, other):
        first, last = sorted((one, other))
        counted = sum((first + timedelta(days=n)).weekday() < 5 for n in range(1, (last - first).days + 1))
        self.assertEqual(working_days(first, last), counted)
        self.assertEqual(working_days(last, first), -counted)

    def test_a_weekend_between_purchase_and_booking_is_one_working_day(self):
        friday, monday = date(2026, 2, 20), date(2026, 2, 23)
        habit = Habit(is_same_layout=False, seen=[(date(2026, 2, 17), date(2026, 2, 18))] * 19 + [(friday, monday)])
        self.assertLess(habit.cost(friday, monday), 0.1)
        self.assertGreater(habit.cost(friday, friday), 2)

    def test_a_pair_is_no_witness_of_itself(self):
        tuesday = date(2026, 2, 24)
        once = Habit(is_same_layout=True, seen=[(tuesday, tuesday + timedelta(days=1))])
        self.assertEqual(
            once.cost(tuesday, tuesday + timedelta(days=1)), Habit(is_same_layout=True).cost(tuesday, date(2026, 2, 25))
        )

    def test_a_bank_that_counts_calendar_days_and_passes_weekends_over_is_known_by_what_was_seen(self):
        def booked(paid, days):
            day = paid + timedelta(days=days)
            return day + timedelta(days=(7 - day.weekday()) if day.weekday() > 4 else 0)

        paid = [date(2026, 3, 2) + timedelta(days=n) for n in range(28)]
        habit = Habit(is_same_layout=False, seen=[(day, booked(day, 2 + (n % 3 == 0))) for n, day in enumerate(paid)])
        thursday = date(2026, 4, 2)
        self.assertLess(habit.cost(thursday, date(2026, 4, 6)), 0.3)  # two or three days on, over a weekend
        self.assertGreater(habit.cost(thursday, date(2026, 4, 3)), 4)  # one never was

    def test_the_last_day_apart_and_the_first_too_far(self):
        monday, habit = date(2026, 3, 2), Habit(is_same_layout=False)
        self.assertIsNotNone(habit.cost(monday, monday + timedelta(days=7)))
        self.assertIsNone(habit.cost(monday, monday + timedelta(days=8)))

    def test_the_chances_are_all_there_are(self):
        for same in (True, False):
            self.assertAlmostEqual(
                sum(
                    Habit(
                        is_same_layout=same, seen=[(date(2026, 3, 2), date(2026, 3, 2 + n)) for n in (0, 0, 1)]
                    ).seen.chances.values()
                ),
                1,
                places=3,
            )

    def test_a_day_is_covered_where_its_day_there_is(self):
        habit = Habit(
            is_same_layout=False, seen=[(date(2026, 3, 2), date(2026, 3, 4))] * 200
        )  # booked two working days after it was paid
        booked = Coverage("ofx", date(2026, 3, 9), date(2026, 3, 20), is_declared=True)
        self.assertGreater(habit.covered(booked, date(2026, 3, 11), is_here=True), 0.9)
        self.assertLess(habit.covered(booked, date(2026, 3, 10), is_here=True), 0.1)
        self.assertGreater(habit.covered(booked, date(2026, 3, 5), is_here=False), 0.9)


if __name__ == "__main__":
    unittest.main()
