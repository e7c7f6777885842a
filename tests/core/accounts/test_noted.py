"""A noted value as the arithmetic of values takes it."""

import unittest
from datetime import date

from bolsa.core.accounts.noted import ValueNote
from bolsa.core.accounts.valuation import Noted


class Notes(unittest.TestCase):
    def test_a_note_as_it_is_computed_with(self):
        note = ValueNote(1, 7, date(2026, 5, 14), 500, "carried", None)
        self.assertEqual(note.as_noted(), Noted(date(2026, 5, 14), 500, "carried"))


if __name__ == "__main__":
    unittest.main()
