"""When a reminder stands on Today, and what its words may be."""

import unittest
from datetime import date, timedelta

from bolsa.core.due.reminders import DAYS_AHEAD, MOST_WORDS, Reminder, check_words
from bolsa.errors import InvalidInput

TODAY = date(2026, 5, 14)


class Reminders(unittest.TestCase):
    def test_the_first_day_on_which_it_stands_there_and_the_day_before(self):
        for days, near in ((-400, True), (0, True), (DAYS_AHEAD, True), (DAYS_AHEAD + 1, False)):
            self.assertEqual(Reminder(1, TODAY + timedelta(days), "x").is_near(TODAY), near, days)
        self.assertFalse(Reminder(1, TODAY, "x", done_on=TODAY).is_near(TODAY))

    def test_words(self):
        self.assertEqual(check_words("  call   the yard "), "call the yard")
        self.assertEqual(len(check_words("x" * MOST_WORDS)), MOST_WORDS)
        for text in ("", "   ", "x" * (MOST_WORDS + 1)):
            with self.assertRaises(InvalidInput):
                check_words(text)


if __name__ == "__main__":
    unittest.main()
