"""Tidied payees and their likeness."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.ledger.payees import clean_text, likeness, payee_key, tidy_payee


class Payees(unittest.TestCase):
    def test_what_banks_add_goes_and_the_name_stays(self):
        for raw, name in (
            ("POS 4412 OTTER BOOKS 12.05.", "Otter Books"), ("SEPA DIRECT DEBIT: TIDEWATER POWER REF 88131", "Tidewater Power"),
            ("Payment to Otter Books 12.05", "Otter Books"), ("SEPA CREDIT TRANSFER FROM OTTER BOOKS", "Otter"),
            ("Bank of the Quay", "Bank of the Quay"), ("CAFÉ AT THE PIER", "Café at the Pier"), ("0093", "0093"),
        ):  # fmt: skip
            with self.subTest(raw):
                self.assertIn(name.split()[0].casefold(), tidy_payee(raw).casefold())
                self.assertNotIn("4412", tidy_payee(raw))

    @given(st.text(max_size=200))
    def test_tidying_is_never_empty_nor_long_and_stays_what_it_is(self, raw):
        tidied = tidy_payee(raw)
        self.assertLessEqual(len(tidied), 120)
        self.assertEqual(bool(tidied), bool(clean_text(raw)))
        self.assertTrue(all(c.isprintable() for c in tidied))

    def test_two_spellings_are_one_key_and_alike(self):
        self.assertEqual(payee_key("GREBE STREET GROCER 0093"), payee_key("Grebe Street Grocer"))
        self.assertGreaterEqual(likeness("Grebe Street Grocer", "GREBE STR GROCER 0093"), 60)
        self.assertLess(likeness("Grebe Street Grocer", "Otter Books"), 60)


if __name__ == "__main__":
    unittest.main()
