"""Per cent as people type them, and what is none."""

import unittest
from decimal import Decimal

from bolsa.core.percents import PLACES, parse_percent
from bolsa.errors import InvalidInput


class Percents(unittest.TestCase):
    def test_as_typed(self):
        for text, value in (("4.5", "4.5"), (" 62,5 % ", "62.5"), ("+3%", "3"), (".5", "0.5"), ("100", "100"), ("0", "0")):
            with self.subTest(text):
                self.assertEqual(parse_percent(text), Decimal(value))
        self.assertEqual(parse_percent("−1.25", lowest=-5), Decimal("-1.25"))

    def test_the_last_that_is_one_and_the_first_that_is_not(self):
        self.assertEqual(parse_percent("0." + "1" * PLACES), Decimal("0.1111"))
        for text in (
            "0." + "1" * (PLACES + 1),
            "100.0001",
            "-0.0001",
            "",
            "many",
            "1e2",
            "NaN",
            "٣",
            "9" * 5_000,
            "1.2.3",
            "--1",
        ):
            with self.subTest(text[:20]), self.assertRaises(InvalidInput) as caught:
                parse_percent(text, "share")
            self.assertEqual(caught.exception.field, "share")


if __name__ == "__main__":
    unittest.main()
