"""The ends of weeks, months, quarters and years."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.months import Month
from bolsa.core.worth.periods import EVERY, period_ends
from bolsa.errors import InvalidInput

DAYS = st.dates(date(1971, 1, 1), date(2099, 12, 31))


def said(first, last, every, week_start=0):
    return [day.isoformat() for day in period_ends(date.fromisoformat(first), date.fromisoformat(last), every, week_start)]


class Periods(unittest.TestCase):
    def test_each_step_ends_on_its_last_day_and_the_last_day_ends_the_list(self):
        self.assertEqual(said("2026-02-01", "2026-03-31", "month"), ["2026-02-28", "2026-03-31"])
        self.assertEqual(said("2026-02-01", "2026-04-01", "month"), ["2026-02-28", "2026-03-31", "2026-04-01"])
        self.assertEqual(said("2025-12-31", "2026-09-30", "quarter"), ["2025-12-31", "2026-03-31", "2026-06-30", "2026-09-30"])
        self.assertEqual(said("2024-02-29", "2026-05-14", "year"), ["2024-12-31", "2025-12-31", "2026-05-14"])
        self.assertEqual(said("2026-05-14", "2026-05-14", "year"), ["2026-05-14"])

    def test_weeks_end_before_the_day_on_which_the_reader_begins_them(self):
        self.assertEqual(said("2026-05-04", "2026-05-18", "week"), ["2026-05-10", "2026-05-17", "2026-05-18"])
        self.assertEqual(said("2026-05-04", "2026-05-18", "week", 6), ["2026-05-09", "2026-05-16", "2026-05-18"])
        self.assertEqual(said("2026-05-10", "2026-05-10", "week"), ["2026-05-10"])

    def test_nothing_lies_between_days_the_wrong_way_round_and_there_is_no_other_step(self):
        self.assertEqual(said("2026-05-15", "2026-05-14", "month"), [])
        with self.assertRaisesRegex(InvalidInput, "week, month, quarter or year"):
            said("2026-05-01", "2026-05-14", "fortnight")

    @given(DAYS, st.integers(0, 4000), st.sampled_from(list(EVERY)), st.integers(0, 6))
    def test_they_are_the_days_after_which_a_new_step_begins(self, first, length, every, week_start):
        last = first + timedelta(days=length)

        def is_end(day):
            after = day + timedelta(days=1)
            if every == "week":
                return after.weekday() == week_start
            return after.day == 1 and (Month.of(after).number - 1) % EVERY[every] == 0

        plain = [day for n in range(length + 1) if is_end(day := first + timedelta(days=n)) or day == last]
        self.assertEqual(period_ends(first, last, every, week_start), plain)


if __name__ == "__main__":
    unittest.main()
