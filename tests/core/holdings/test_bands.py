"""Bands: the last day of each, what is short, and the ladder of what is locked."""

import unittest
from datetime import date

from bolsa.core.holdings.bands import Rung, band_by_day, band_of, bands, ladder
from bolsa.core.holdings.mix import Exposure

TODAY = date(2026, 5, 14)


class Bands(unittest.TestCase):
    def test_the_last_day_of_a_band_and_the_first_of_the_next(self):
        for day, band in (
            (TODAY, "near"), (date(2028, 5, 14), "near"), (date(2028, 5, 15), "middle"), (date(2033, 5, 14), "middle"),
            (date(2033, 5, 15), "far"),
        ):  # fmt: skip
            self.assertEqual(band_by_day(day, TODAY, 2, 5), band, day)

    def test_by_hand_goes_before_a_day_and_a_day_before_a_class(self):
        self.assertEqual(band_of("far", TODAY, "near", TODAY, 2, 5), "far")
        self.assertEqual(band_of(None, TODAY, "far", TODAY, 2, 5), "near")
        self.assertEqual(band_of(None, None, "middle", TODAY, 2, 5), "middle")
        self.assertEqual(band_of(None, None, None, TODAY, 2, 5), "far")

    def test_what_is_there_and_what_is_short(self):
        placed = [("near", Exposure("a", 3, 50_000)), ("near", Exposure("b", 1, 4_000)), ("far", Exposure("c", 1, 9_000))]
        near, middle, far = bands(placed, 2, 5, 30_000)
        self.assertEqual(
            (near.there_minor, near.needed_minor, near.short_minor, near.by_class), (54_000, 60_000, 6_000, {3: 50_000, 1: 4_000})
        )
        self.assertEqual((middle.first_year, middle.needed_minor, middle.short_minor), (2, 150_000, 150_000))
        self.assertEqual((far.first_year, far.years, far.needed_minor, far.short_minor), (7, None, None, 0))

    def test_the_ladder_holds_what_is_locked_still(self):
        rungs = [
            Rung("late", None, date(2030, 1, 1), 5, None),
            Rung("today", None, TODAY, 5, None),
            Rung("soon", date(2026, 9, 1), None, 5, 78),
        ]
        self.assertEqual([rung.name for rung in ladder(rungs, TODAY)], ["soon", "late"])


if __name__ == "__main__":
    unittest.main()
