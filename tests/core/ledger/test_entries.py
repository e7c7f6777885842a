"""Entries that balance, parts that take what remains, and what is refused."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ledger.entries import Entry, Line, Part, fill_open_part, require_balanced, sums_by_currency
from bolsa.errors import InvalidInput

DAY = date(2026, 5, 14)


class Entries(unittest.TestCase):
    def test_an_entry_balances_in_each_currency_by_itself(self):
        euro = (Line(-500, "EUR", 1, None, DAY), Line(500, "EUR", None, 4, DAY))
        krona = (Line(-300, "SEK", 2, None, DAY), Line(300, "SEK", None, 4, DAY))
        require_balanced(Entry(DAY, "Shop", euro + krona))
        for lines in (euro[:1], (euro[0], krona[1]), (*euro, krona[0])):
            with self.subTest(lines), self.assertRaises(InvalidInput):
                require_balanced(Entry(DAY, "Shop", lines))

    def test_the_sentence_names_what_remains(self):
        with self.assertRaisesRegex(InvalidInput, "0.01 EUR remains"):
            require_balanced(Entry(DAY, "Shop", (Line(-500, "EUR", 1, None, DAY), Line(499, "EUR", None, 4, DAY))))

    @given(st.integers(-(10**6), 10**6).filter(bool), st.lists(st.integers(0, 10**5), max_size=5))
    def test_the_open_part_takes_what_the_others_leave(self, amount, typed):
        parts = [*(Part(1, one) for one in typed), Part(2)]
        if sum(typed) > abs(amount):
            with self.assertRaises(InvalidInput):
                fill_open_part(parts, amount)
            return
        filled = fill_open_part(parts, amount)
        self.assertEqual(sum(part.amount_minor for part in filled), -amount)
        lines = (Line(amount, "EUR", 1, None, DAY), *(part.as_line("EUR", DAY) for part in filled))
        self.assertEqual(sums_by_currency(lines), {"EUR": 0})

    def test_only_one_part_may_be_open(self):
        with self.assertRaises(InvalidInput):
            fill_open_part([Part(1), Part(2)], -500)
        with self.assertRaises(ValueError):
            Part(1).as_line("EUR", DAY)


if __name__ == "__main__":
    unittest.main()
