"""What is ticked leads to; and where two statements meet."""

import unittest
from datetime import date

from bolsa.core.checking.check import Check, OpenItem, Period, seam_between


class Checking(unittest.TestCase):
    def test_ticked_lines_lead_from_the_opening_to_the_closing(self):
        items = tuple(
            OpenItem(n, n, date(2026, 5, 1), a, "Shop", ticked) for n, (a, ticked) in enumerate(((-300, True), (50, False)))
        )
        check = Check(1000, 700, items)
        self.assertEqual((check.ticked_minor, check.reached_minor, check.difference_minor, check.agrees), (-300, 700, 0, True))
        self.assertEqual(Check(1000, 705, items).difference_minor, 5)


class Seams(unittest.TestCase):
    def test_gaps_overlaps_and_a_broken_chain_are_named(self):
        before = Period(date(2026, 3, 31), 0, 500)
        for after, words in (
            (Period(date(2026, 4, 30), 500, 700), ""),
            (Period(date(2026, 4, 30), 500, 700, date(2026, 4, 1)), ""),
            (Period(date(2026, 4, 30), 480, 700), "does not open"),
            (Period(date(2026, 4, 30), 500, 700, date(2026, 3, 30)), "overlaps the one before by 2 days"),
            (Period(date(2026, 4, 30), 500, 700, date(2026, 4, 3)), "leaves 2 days unchecked"),
        ):
            with self.subTest(words):
                self.assertTrue(
                    seam_between(before, after).startswith(words) and bool(words) == bool(seam_between(before, after))
                )


if __name__ == "__main__":
    unittest.main()
