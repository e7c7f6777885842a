"""Splits: parts that add up, and a payee split as it was before."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.rules import SharePart
from bolsa.core.sorting.splits import check_parts, split_as_before, split_parts


class Splits(unittest.TestCase):
    def test_worked_figures(self):
        for parts, total, found in (
            ((SharePart(1, share_e6=500_000), SharePart(2, share_e6=500_000)), 101, [(1, 51), (2, 50)]),
            ((SharePart(1, 300), SharePart(2)), 1000, [(1, 300), (2, 700)]),
            ((SharePart(1, 300), SharePart(2, share_e6=250_000), SharePart(3)), -1000, [(1, -300), (2, -250), (3, -450)]),
            ((SharePart(1, 1000), SharePart(2)), 1000, [(1, 1000)]), ((SharePart(1, 1001), SharePart(2)), 1000, None),
        ):  # fmt: skip
            with self.subTest(parts, total=total):
                self.assertEqual(split_parts(parts, total), found)

    @given(st.lists(st.integers(0, 400_000), min_size=1, max_size=2), st.integers(-(10**9), 10**9))
    def test_parts_add_up(self, shares, total):
        found = split_parts([*(SharePart(i, share_e6=share) for i, share in enumerate(shares)), SharePart(9)], total)
        self.assertEqual(sum(amount for _, amount in found), total)

    def test_as_before(self):
        for past, parts in (
            ([[(1, 700), (2, 300)]], (SharePart(2, share_e6=300_000), SharePart(1))),
            ([[(1, -5_012), (2, -300)], [(2, -300), (1, -88)]], (SharePart(2, 300), SharePart(1))),
            ([[(1, 667), (2, 333)], [(1, 500), (2, 332)]], (SharePart(2, share_e6=330_000), SharePart(1))),
            ([[(1, 99_999), (2, 1)]], (SharePart(2, share_e6=10_000), SharePart(1))),
            ([], ()), ([[(1, 700)]], ()), ([[(1, 700)], [(1, 5), (2, 9)]], ()), ([[(1, 700), (1, 30)]], ()),
            ([[(1, 700), (2, -30)]], ()), ([[(n, 1) for n in range(150)]], ()),
        ):  # fmt: skip
            with self.subTest(past[:1]):
                self.assertEqual(split_as_before(past), parts)

    @given(st.lists(st.integers(1, 10**6), min_size=2, max_size=5), st.booleans())
    def test_what_is_offered_makes_a_whole(self, amounts, is_refund):
        sign = 1 if is_refund else -1
        parts = split_as_before([[(i, sign * amount) for i, amount in enumerate(amounts)]])
        check_parts(parts, "split")
        self.assertEqual(sum(amount for _, amount in split_parts(parts, sign * sum(amounts))), sign * sum(amounts))


if __name__ == "__main__":
    unittest.main()
