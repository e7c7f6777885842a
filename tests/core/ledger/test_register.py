"""What a register's row and filter say of themselves."""

import unittest
from datetime import date

from bolsa.core.ledger.register import OtherSide, RegisterFilter, RegisterRow

DAY = date(2026, 5, 14)


def a_row(*others):
    return RegisterRow(1, 1, 1, DAY, None, "Otter", "", "", -500, "cleared", "", 0, 0, others)


class Rows(unittest.TestCase):
    def test_a_split_its_tags_and_whom_it_was_for(self):
        one, other = (
            OtherSide(4, None, "Groceries", 300, "Noor", ("studio",)),
            OtherSide(1, None, "", 200, "Noor", ("studio", "kiln")),
        )
        self.assertEqual((a_row(one).is_split, a_row(one, other).is_split), (False, True))
        self.assertEqual((a_row(one).is_unsorted, a_row(one, other).is_unsorted), (False, True))
        self.assertEqual((a_row(one, other).tags, a_row(one, other).members), (("studio", "kiln"), ("Noor",)))

    def test_rows_follow_each_other_unless_something_is_left_out(self):
        self.assertTrue(RegisterFilter().is_empty)
        self.assertTrue(RegisterFilter(last_day=DAY, series_payees=(1,)).is_empty)
        for more in ({"text": "x"}, {"first_day": DAY}, {"least_minor": 0}, {"in_series": False}, {"member_id": 1}):
            with self.subTest(more):
                self.assertFalse(RegisterFilter(**more).is_empty)


if __name__ == "__main__":
    unittest.main()
