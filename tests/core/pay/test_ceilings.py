"""Yearly ceilings: what is used, the payday that passes, and what reaches it to the cent."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.pay.ceilings import Ceiling

DAYS = [date(2026, 10, 9) + timedelta(days=14 * n) for n in range(6)]


def ceiling(limit, used=(0, 0, 0), own=3500, employer=2665, days=6):
    return Ceiling(8, "Health", 2026, limit, *used, tuple((day, own, employer) for day in DAYS[:days]))


class Ceilings(unittest.TestCase):
    def test_the_employers_part_counts_and_so_does_what_was_paid_by_hand(self):
        one = ceiling(140_000, (28_000, 21_320, 5_000))
        self.assertEqual((one.used_minor, one.left_minor), (54_320, 85_680))
        self.assertEqual(one.end_minor, 54_320 + 6 * 6_165)

    def test_the_payday_that_passes_it_the_last_cent_below_and_the_first_above(self):
        used = 54_320
        for limit, on in (
            (used + 2 * 6165, DAYS[2]),
            (used + 2 * 6165 - 1, DAYS[1]),
            (used + 6 * 6165, None),
            (used + 6 * 6165 - 1, DAYS[5]),
        ):
            self.assertEqual(ceiling(limit, (used, 0, 0)).passed_on, on)
        self.assertEqual(ceiling(100, (200, 0, 0)).passed_on, DAYS[0])

    def test_what_reaches_it_exactly(self):
        # 1,400.00 − 543.20 − 6 × 26.65 = 696.90: 116.15 on each of six paydays.
        self.assertEqual(ceiling(140_000, (54_320, 0, 0)).exact, (11_615, 11_615))
        self.assertEqual(ceiling(140_005, (54_320, 0, 0)).exact, (11_615, 11_620))
        self.assertIsNone(ceiling(140_000, days=0).exact)
        self.assertIsNone(ceiling(6 * 2665 - 1).exact)
        self.assertEqual(ceiling(6 * 2665).exact, (0, 0))

    @given(st.integers(0, 10**7), st.integers(0, 10**6), st.integers(0, 10**5), st.integers(1, 6))
    def test_it_is_reached_to_the_cent(self, limit, used, employer, days):
        one = ceiling(limit, (used, 0, 0), employer=employer, days=days)
        if one.exact is not None:
            each, last = one.exact
            self.assertEqual(used + each * (days - 1) + last + employer * days, limit)


if __name__ == "__main__":
    unittest.main()
