"""Currencies as people type them."""

import unittest

from bolsa.core.currencies import CODES, parse_currency
from bolsa.core.money import is_currency_code
from bolsa.errors import InvalidInput


class Currencies(unittest.TestCase):
    def test_what_is_typed_is_one_of_the_list_whole(self):
        self.assertEqual([parse_currency(text) for text in ("eur", " JPY ", "Sek")], ["EUR", "JPY", "SEK"])
        for text in ("quatsch", "QUA", "EU", "", "EURO", "€"):
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                parse_currency(text)
            self.assertEqual(caught.exception.field, "currency")

    def test_every_code_has_the_form_of_one(self):
        self.assertTrue(all(is_currency_code(code) for code in CODES))
