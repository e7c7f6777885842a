"""Rhythms against a calendar counted by hand, day by day."""

import calendar
import unittest
from datetime import date, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from bolsa.core.due.rhythm import Rhythm, check_rhythm, in_words, moved_off, parse_rrule, times_a_year
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

FIRST, LAST = date(1970, 1, 1), date(2100, 12, 31)


def counted(start, every, number, last, short):
    """Every so many months on a day of the month, enumerated from the start's month."""
    days, month = [], Month.of(start)
    while month.first_day <= last:
        longest = calendar.monthrange(month.year, month.number)[1]
        if number <= longest or short == "last":
            days.append(date(month.year, month.number, min(number, longest)))
        month += every
    return [day for day in days if start <= day <= last]


class Days(unittest.TestCase):
    def test_months_from_1970_to_2100(self):
        for number in (1, 15, 28, 29, 30, 31):
            for every in (1, 2, 3, 6, 12):
                for short in ("last", "skip"):
                    rule = f"FREQ=MONTHLY;INTERVAL={every};BYMONTHDAY={number}"
                    with self.subTest(rule, short=short):
                        self.assertEqual(Rhythm(rule, FIRST, short).days(FIRST, LAST), counted(FIRST, every, number, LAST, short))

    def test_weeks_from_1970_to_2100(self):
        for weeks in (1, 2, 4):
            start = date(1970, 1, 2)
            days = [start + timedelta(days=n) for n in range(0, (LAST - start).days + 1, 7 * weeks)]
            self.assertEqual(Rhythm(f"FREQ=WEEKLY;INTERVAL={weeks}", start).days(FIRST, LAST), days)

    def test_the_last_working_day_and_the_second_thursday(self):
        for month in (Month(2026, 1) + n for n in range(36)):
            weekdays = [
                d for d in (month.first_day + timedelta(days=n) for n in range(31)) if d <= month.last_day and d.weekday() < 5
            ]
            thursdays = [d for d in weekdays if d.weekday() == 3]
            last = Rhythm("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", date(2020, 1, 1))
            second = Rhythm("FREQ=MONTHLY;BYDAY=2TH", date(2020, 1, 1))
            self.assertEqual(last.days(month.first_day, month.last_day), [weekdays[-1]])
            self.assertEqual(second.days(month.first_day, month.last_day), [thursdays[1]])

    def test_what_the_month_after_a_short_one_does(self):
        leap = Rhythm("FREQ=YEARLY", date(2024, 2, 29)).days(date(2024, 1, 1), date(2028, 12, 31))
        self.assertEqual([(d.month, d.day) for d in leap], [(2, 29), (2, 28), (2, 28), (2, 28), (2, 29)])
        twice = Rhythm("FREQ=MONTHLY;BYMONTHDAY=15,31", date(2026, 1, 1)).days(date(2026, 2, 1), date(2026, 3, 31))
        self.assertEqual([(d.month, d.day) for d in twice], [(2, 15), (2, 28), (3, 15), (3, 31)])

    @given(st.dates(date(2000, 1, 1), date(2040, 1, 1)), st.integers(1, 14), st.dates(date(2000, 1, 1), date(2050, 1, 1)))
    @settings(max_examples=60, deadline=None)
    def test_a_phase_is_counted_from_the_start_wherever_one_looks(self, start, weeks, looked):
        found = Rhythm(f"FREQ=WEEKLY;INTERVAL={weeks}", start).days(looked, looked + timedelta(days=200))
        self.assertTrue(all((day - start).days % (7 * weeks) == 0 and day >= start for day in found))
        if looked >= start:
            self.assertEqual(len(found), len(range(-(looked - start).days % (7 * weeks), 201, 7 * weeks)))

    def test_it_ends_by_count_or_until(self):
        self.assertEqual(len(Rhythm("FREQ=MONTHLY;COUNT=3", FIRST).days(FIRST, LAST)), 3)
        until = Rhythm("FREQ=MONTHLY;UNTIL=19700401", FIRST).days(FIRST, LAST)
        self.assertEqual(until[-1], date(1970, 4, 1))
        self.assertEqual(Rhythm("FREQ=MONTHLY;COUNT=3", FIRST).next_days(date(1970, 2, 15), 6), [date(1970, 3, 1)])

    def test_weekends_and_holidays(self):
        def is_holiday(day):
            return day == date(2026, 5, 1)  # a Friday

        for day, before, after in (
            (date(2026, 5, 2), date(2026, 4, 30), date(2026, 5, 4)), (date(2026, 5, 1), date(2026, 4, 30), date(2026, 5, 4)),
            (date(2026, 5, 4), date(2026, 5, 4), date(2026, 5, 4)),
        ):  # fmt: skip
            with self.subTest(day):
                self.assertEqual(moved_off(day, "before", is_holiday), before)
                self.assertEqual(moved_off(day, "after", is_holiday), after)
                self.assertEqual(moved_off(day, "stay", is_holiday), day)
        # A day that moves out of the stretch one looks at is not in it, one that moves in is.
        rhythm = Rhythm("FREQ=MONTHLY;BYMONTHDAY=1", date(2026, 1, 1), weekend="before")
        self.assertEqual(rhythm.days(date(2026, 4, 15), date(2026, 4, 30), is_holiday), [date(2026, 4, 30)])
        self.assertEqual(rhythm.days(date(2026, 5, 1), date(2026, 5, 28), is_holiday), [])

    def test_what_is_no_rhythm(self):
        for rule in (
            "", "monthly", "FREQ=HOURLY", "FREQ=MONTHLY;BYHOUR=3", "FREQ=MONTHLY;FREQ=DAILY", "FREQ=DAILY;COUNT=2;UNTIL=20260101",
            "FREQ=DAILY;INTERVAL=1000", "FREQ=DAILY;COUNT=0", "FREQ=YEARLY;BYMONTH=13", "FREQ=MONTHLY;BYMONTHDAY=0",
            "FREQ=MONTHLY;BYMONTHDAY=99", "FREQ=MONTHLY;BYDAY=XX", "FREQ=WEEKLY;INTERVAL=0", "FREQ=MONTHLY;UNTIL=soon",
        ):  # fmt: skip
            with self.subTest(rule), self.assertRaises(InvalidInput):
                check_rhythm(Rhythm(rule, FIRST))
        for field, rhythm in (
            ("short", Rhythm("FREQ=DAILY", FIRST, short_month="x")),
            ("weekend", Rhythm("FREQ=DAILY", FIRST, weekend="x")),
            ("start", Rhythm("FREQ=DAILY", date(1899, 12, 31))),
            ("start", Rhythm("FREQ=DAILY", date(2201, 1, 1))),
        ):
            with self.assertRaises(InvalidInput) as caught:
                check_rhythm(rhythm)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(parse_rrule("rrule:freq=monthly"), {"FREQ": "MONTHLY"})

    def test_words_and_times_a_year(self):
        friday = date(2026, 5, 8)
        for rule, words, times in (
            ("FREQ=WEEKLY", "weekly on Friday", 52.25), ("FREQ=MONTHLY", "monthly on the 8th", 12),
            ("FREQ=MONTHLY;BYMONTHDAY=-1", "monthly on the last day", 12), ("FREQ=YEARLY", "yearly on the 8th of May", 1),
            ("FREQ=MONTHLY;BYMONTHDAY=15,31", "monthly on the 15th and the 31st", 24),
            ("FREQ=DAILY;INTERVAL=10", "every ten days", 36.75), ("FREQ=MONTHLY;BYDAY=-1FR", "monthly on the last Friday", 12),
            ("FREQ=MONTHLY;INTERVAL=3;COUNT=2", "every three months on the 8th", 4),
        ):  # fmt: skip
            with self.subTest(rule):
                rhythm = Rhythm(rule, friday)
                self.assertEqual((in_words(rhythm), times_a_year(rhythm)), (words, times))


class ByDaysOfTheMonth(unittest.TestCase):
    """Against plain enumeration: each day from 1970 to 2100 is asked whether it is one."""

    DAYS = [date(1970, 1, 1) + timedelta(days=n) for n in range((date(2100, 12, 31) - date(1970, 1, 1)).days + 1)]

    def enumerated(self, is_it):
        return [day for day in self.DAYS if is_it(day)]

    def days(self, rule, short="last"):
        return Rhythm(rule, date(1970, 1, 1), short).days(self.DAYS[0], self.DAYS[-1])

    def test_the_thirty_first_of_every_third_month_is_each_ones_last_day(self):
        found = self.days("FREQ=YEARLY;BYMONTH=3,6,9,12;BYMONTHDAY=31")
        self.assertEqual(found, self.enumerated(lambda day: day.month % 3 == 0 and (day + timedelta(days=1)).day == 1))

    def test_daily_on_the_thirty_first_is_one_day_a_month(self):
        found = self.days("FREQ=DAILY;BYMONTHDAY=31")
        self.assertEqual(found, self.enumerated(lambda day: (day + timedelta(days=1)).day == 1))

    def test_skipped_where_a_month_is_short(self):
        for rule in ("FREQ=MONTHLY;BYMONTHDAY=31", "FREQ=DAILY;BYMONTHDAY=31", "FREQ=YEARLY;BYMONTHDAY=31"):
            self.assertEqual(self.days(rule, "skip"), self.enumerated(lambda day: day.day == 31), rule)

    def test_a_place_is_chosen_within_a_month_or_a_year(self):
        last_of_month = self.enumerated(lambda day: (day + timedelta(days=1)).day == 1)
        self.assertEqual(self.days("FREQ=MONTHLY;BYMONTHDAY=15,31;BYSETPOS=-1"), last_of_month)
        self.assertEqual(self.days("FREQ=MONTHLY;BYMONTHDAY=15,31;BYSETPOS=1"), self.enumerated(lambda day: day.day == 15))
        yearly = self.days("FREQ=YEARLY;BYMONTH=2,6;BYMONTHDAY=31;BYSETPOS=-1")
        self.assertEqual(yearly, self.enumerated(lambda day: (day.month, day.day) == (6, 30)))

    def test_every_second_and_fifth_month_counts_from_the_start(self):
        for every in (2, 5):
            found = self.days(f"FREQ=MONTHLY;INTERVAL={every};BYMONTHDAY=30")

            def is_it(day, n=every):
                is_day = day.day == 30 or (day.month == 2 and (day + timedelta(days=1)).day == 1)
                return (day.year * 12 + day.month - 1 - 1970 * 12) % n == 0 and is_day

            self.assertEqual(found, self.enumerated(is_it))

    def test_a_day_counted_from_the_end(self):
        self.assertEqual(self.days("FREQ=MONTHLY;BYMONTHDAY=-2"), self.enumerated(lambda day: (day + timedelta(days=2)).day == 1))


if __name__ == "__main__":
    unittest.main()
