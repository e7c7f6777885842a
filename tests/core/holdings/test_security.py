"""Securities: an ISIN is checked by its digit, and what is wrong is said at its field."""

import unittest

from bolsa.core.holdings.security import MOST_NAME, Security, check_security, is_isin, looks_like_isin
from bolsa.errors import InvalidInput


class Securities(unittest.TestCase):
    def test_the_check_digit(self):
        for code in ("ZZ00TERN0001", "ZZ00SKNI0005"):
            self.assertTrue(is_isin(code), code)
        for code in ("ZZ00TERN0003", "ZZ00TERM0001", "QQ00TERN0001"):
            self.assertFalse(is_isin(code), code)
        self.assertFalse(looks_like_isin("TERN-0001"))

    def test_words_are_tidied(self):
        done = check_security(Security(0, "  Tern   Robotics ", "zz00 tern 0001", "tern", "xhld", "USD", "share"))
        self.assertEqual((done.name, done.code, done.symbol, done.market), ("Tern Robotics", "ZZ00TERN0001", "TERN", "XHLD"))

    def test_what_is_wrong_is_said_at_its_field(self):
        for field, security in (
            ("name", Security(0, " ", "", currency="EUR")),
            ("name", Security(0, "x" * (MOST_NAME + 1), "", currency="EUR")),
            ("code", Security(0, "A", "ZZ00TERN0003", currency="EUR")),
            ("currency", Security(0, "A", "", currency="eur")),
            ("kind", Security(0, "A", "", currency="EUR", kind="coin")),
        ):
            with self.subTest(field), self.assertRaises(InvalidInput) as caught:
                check_security(security)
            self.assertEqual(caught.exception.field, field)
        check_security(Security(0, "x" * MOST_NAME, "what the bank calls it", currency="EUR"))


if __name__ == "__main__":
    unittest.main()
