"""An entry that waits: the whole of it, or a part."""

import unittest
from datetime import date

from bolsa.core.sorting.category import Unsorted


class Waiting(unittest.TestCase):
    def test_a_part_waits_where_less_or_something_else_is_left(self):
        for waits_minor, is_part in ((-1_000, False), (-300, True), (0, True), (200, True)):
            one = Unsorted(1, 2, 3, "Boatyard", "", 4, "Current", "EUR", date(2026, 5, 1), -1_000, "", waits_minor)
            with self.subTest(waits_minor):
                self.assertEqual(one.is_part, is_part)


if __name__ == "__main__":
    unittest.main()
