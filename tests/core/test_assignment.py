"""Assigning one to one: no choice of pairs weighs less."""

import unittest
from itertools import permutations

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.assignment import assign, find_groups

WEIGHTS = st.lists(st.dictionaries(st.integers(0, 4), st.integers(-9, 9).map(float), max_size=4), max_size=5)


def least_by_hand(weights):
    """The least sum of all ways to give each row one of the columns, or none."""
    columns = [*{column for row in weights for column in row}, *[None] * len(weights)]
    sums = [0.0]
    for given_columns in set(permutations(columns, len(weights))):
        sums.append(sum(row[c] for row, c in zip(weights, given_columns, strict=True) if c is not None and c in row))
    return min(sums)


class Assigning(unittest.TestCase):
    @given(WEIGHTS)
    def test_the_whole_weighs_least_and_no_column_is_given_twice(self, weights):
        found = assign(weights)
        self.assertEqual(len(set(found.values())), len(found))
        self.assertEqual(sum(weights[row][column] for row, column in found.items()), least_by_hand(weights))

    @given(WEIGHTS)
    def test_a_charge_never_makes_more_pairs(self, weights):
        self.assertLessEqual(len(assign(weights, 3.0)), len(assign(weights)))
        self.assertGreaterEqual(len(assign(weights, -3.0)), len(assign(weights)))

    def test_what_hangs_together_is_one_group(self):
        self.assertEqual(find_groups([{1: 0.0}, {2: 0.0}, {1: 0.0, 3: 0.0}, {}, {3: 0.0}]), [[0, 2, 4], [1]])


if __name__ == "__main__":
    unittest.main()
