"""What the bank sent, as it is shown."""

import unittest
from datetime import date

from bolsa.core.bringing.rows import BroughtRow


class Rows(unittest.TestCase):
    def test_the_raw_text_is_payee_and_memo_as_far_as_there_are_any(self):
        for payee, memo, text in (("GREBE", "0093", "GREBE · 0093"), ("GREBE", "", "GREBE"), ("", "0093", "0093"), ("", "", "")):
            self.assertEqual(BroughtRow(date(2026, 5, 14), -1, payee, memo).raw_text, text)


if __name__ == "__main__":
    unittest.main()
