"""Groups of lines that sum to a difference, and amounts with two digits exchanged."""

import random
import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.checking.check import Check
from bolsa.core.checking.sums import are_swapped, sums_to, swaps_of
from bolsa.core.checking.suspects import Evidence, find_suspects
from tests.core.checking.test_suspects import item


class Bounds(unittest.TestCase):
    def test_four_hundred_lines_and_a_search_that_says_where_it_stopped(self):
        dice = random.Random(7)
        lines = [item(n, -dice.randint(1, 9_000_000), ticked=False, days=-(n % 40)) for n in range(1, 401)]
        target = sum(lines[i].amount_minor for i in (3, 57, 210))
        groups, _ = sums_to(lines, target)
        self.assertIn((lines[3], lines[57], lines[210]), [tuple(sorted(g, key=lambda i: i.line_id)) for g in groups])
        many = [item(n, -(n * 7919 % 99991) - 1, ticked=False) for n in range(1, 1400)]
        found = find_suspects(Check(0, -1, tuple(many)), Evidence(), "EUR")
        self.assertIn("the search stopped", found.stopped)

    def test_no_sum_is_none(self):
        self.assertEqual(sums_to([item(n, -200, ticked=False) for n in range(5)], -333), ([], True))


class Swaps(unittest.TestCase):
    @given(st.integers(-(10**7), 10**7))
    def test_exchanging_back_gives_the_amount_and_moves_it_by_a_multiple_of_nine(self, amount):
        for other in swaps_of(amount):
            self.assertTrue(are_swapped(other, amount) or str(abs(amount))[1:2] == "0" or abs(amount) < 100, other)
            self.assertEqual((other - amount) % 9, 0)

    def test_neighbours_alone_are_exchanged_and_the_sign_stays(self):
        self.assertEqual(sorted(swaps_of(-8398)), [-8938, -8389, -3898])
        self.assertFalse(are_swapped(1234, -1324))
        self.assertTrue(all(one != other for one, other in pairwise(sorted(swaps_of(1234)))))
