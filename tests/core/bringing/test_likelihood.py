"""The day something was paid, as sources tell it beside the booking day."""

import unittest
from datetime import date

from bolsa.core.bringing.likelihood import find_paid_day

DAY = date(2026, 3, 16)


class PaidDay(unittest.TestCase):
    def test_in_the_words_in_any_order_else_as_another_value_day(self):
        for words, value_day, paid in (
            ("CARD 0093 12/03", None, date(2026, 3, 12)),
            ("KARTE 12.03 17:40", None, date(2026, 3, 12)),
            ("POS 03-12 GREBE", None, date(2026, 3, 12)),
            ("CARD 0093", date(2026, 3, 13), date(2026, 3, 13)),
            ("CARD 0093", DAY, None),
            ("CARD 0093 12/03 and 13/03", None, None),
            ("order 12/45", None, None),
            ("CARD 05/03", None, None),  # eleven days before
            ("CARD 06/03", None, date(2026, 3, 6)),
        ):
            with self.subTest(words, value_day=value_day):
                self.assertEqual(find_paid_day(DAY, value_day, words), paid)

    def test_across_the_turn_of_a_year(self):
        self.assertEqual(find_paid_day(date(2026, 1, 2), None, "CARD 30/12"), date(2025, 12, 30))


if __name__ == "__main__":
    unittest.main()
