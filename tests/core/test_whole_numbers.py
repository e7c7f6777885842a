"""Whole numbers from outside."""

import unittest

from bolsa.core.whole_numbers import MOST_DIGITS, counted, is_number, number_of


class WholeNumbers(unittest.TestCase):
    def test_the_longest_that_is_one_and_the_shortest_that_is_not(self):
        self.assertEqual(number_of("9" * MOST_DIGITS), 10**MOST_DIGITS - 1)
        self.assertIsNone(number_of("9" * (MOST_DIGITS + 1)))

    def test_what_is_none(self):
        for text in ("", "-", "+", "-1", "²", "٣", "1.0", " 1", "1e3", "0x1", "9" * 5_000):
            with self.subTest(text[:10]):
                self.assertFalse(is_number(text))
        for text in ("-", "--1", "+-1"):
            with self.subTest(text):
                self.assertIsNone(number_of(text, signed=True))
        self.assertEqual([number_of(text, signed=True) for text in ("-3", "+3", "3", "0")], [-3, 3, 3, 0])

    def test_one_is_said_in_a_word_and_none_are_many(self):
        self.assertEqual([counted(n, "line") for n in (0, 1, 2, 1_000)], ["0 lines", "one line", "2 lines", "1,000 lines"])


if __name__ == "__main__":
    unittest.main()
