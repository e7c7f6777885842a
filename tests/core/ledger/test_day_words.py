"""Days in words."""

import unittest
from datetime import date, timedelta

from bolsa.core.ledger.day_words import read_day_words

DAY = date(2026, 5, 14)  # a Thursday


class DayWords(unittest.TestCase):
    def test_words_name_the_latest_such_day(self):
        for words, day in (
            (["today"], DAY), (["thu"], date(2026, 5, 7)), (["31/12"], date(2025, 12, 31)), (["3.5."], date(2026, 5, 3)),
            (["14", "may"], DAY), (["15", "May"], date(2025, 5, 15)), (["2026-02-30"], None), (["mayday"], None),
            (["99/9"], None),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertEqual(read_day_words(words, DAY), day)

    def test_a_weekday_is_the_last_one_before_today(self):
        for i, word in enumerate(("wednesday", "tue", "mon", "sunday", "sat", "fri", "thursday"), 1):
            with self.subTest(word):
                self.assertEqual(read_day_words([word], DAY), DAY - timedelta(days=i))

    def test_a_day_without_a_year_is_the_latest_not_after_today(self):
        for text, day in (("14/5", DAY), ("15/5", date(2025, 5, 15)), ("29/2", None)):
            self.assertEqual(read_day_words([text], DAY), day)

    def test_ahead_it_is_the_next_such_day_and_today_counts(self):
        for words, day in (
            ("14 may", DAY), ("13 may", date(2027, 5, 13)), ("20/5", date(2026, 5, 20)), ("thursday", date(2026, 5, 21)),
            ("friday", date(2026, 5, 15)), ("tomorrow", date(2026, 5, 15)), ("1.1.2026", date(2026, 1, 1)),
        ):  # fmt: skip
            self.assertEqual(read_day_words(words.split(), DAY, ahead=True), day, words)
        self.assertIsNone(read_day_words(["29/2"], DAY, ahead=True))

    def test_the_order_of_two_numbers_is_the_readers_unless_dots_part_them(self):
        for text, day in (("5/12", date(2026, 5, 12)), ("12.5.", date(2026, 5, 12)), ("12.5.26", date(2026, 5, 12))):
            with self.subTest(text):
                self.assertEqual(read_day_words([text], DAY, day_first=False), day)


if __name__ == "__main__":
    unittest.main()
