"""A kept row as the bank sent it."""

import unittest
from datetime import date

from bolsa.core.bringing.batch import OVERRULED, StoredRow
from bolsa.core.bringing.rows import BroughtRow

DAY = date(2026, 5, 14)


class Rows(unittest.TestCase):
    def test_a_kept_row_is_the_row_the_bank_sent_and_knows_who_decided(self):
        kept = StoredRow(9, 1, 2, DAY, -500, "GREBE", "0093", "A1", None, 7, False, "new", True, "", None, None, None)
        self.assertEqual(kept.as_brought(), BroughtRow(DAY, -500, "GREBE", "0093", "A1", None, 7, False))
        self.assertEqual((kept.raw_text, kept.is_overruled), ("GREBE · 0093", False))
        self.assertTrue(kept._replace(reason=OVERRULED).is_overruled)


if __name__ == "__main__":
    unittest.main()
