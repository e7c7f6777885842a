"""How likely a category is after so many decisions, worked by hand, and what a household's past says of its payees."""

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.sorting.steadiness import PAYEES, USUALLY, find_shares, learn_steadiness

PASTS = st.dictionaries(st.integers(1, 9), st.integers(1, 60), min_size=1, max_size=6)


class Steadiness(unittest.TestCase):
    def test_by_bayes_worked_by_hand(self):
        # Three of one: a payee for two things (each of them 1.5 of 3 beforehand) goes on so with 1.5/3 · 2.5/4 · 3.5/5, either
        # being the first; one for a single thing is not mistaken three times.
        one, several = 0.5 * 0.995**3, 0.5 * 2 * (1.5 / 3) * (2.5 / 4) * (3.5 / 5)
        wanted = (one * 0.995 + several * 4.5 / 6) / (one + several)
        self.assertAlmostEqual(find_shares({7: 3}, 0.5)[7], wanted)
        # Five of one and one of another: a mistake hits one of 25 categories, and the second thing is one of them as well.
        one, other = 0.5 * 0.995**5 * 0.005 / 25, 0.5 * 0.995 * (0.005 / 25) ** 5
        several = 0.5 * 2 / 25 * (1.5 * 2.5 * 3.5 * 4.5 * 5.5 * 1.5) / (3 * 4 * 5 * 6 * 7 * 8)
        wanted = (one * 0.995 + several * 6.5 / 9) / (one + other + several)
        self.assertAlmostEqual(find_shares({7: 5, 8: 1}, 0.5)[7], wanted)

    def test_what_the_household_is_like_decides_how_soon_it_is_certain(self):
        for steady, certain_from in ((0.97, 1), (0.7, 2), (USUALLY, 3), (0.4, 4), (0.2, 5)):
            first = next(times for times in range(1, 20) if find_shares({7: times}, steady)[7] >= 0.9)
            with self.subTest(steady):
                self.assertEqual(first, certain_from)

    def test_one_mistake_in_a_long_past_is_one_and_a_third_is_none(self):
        self.assertGreater(find_shares({7: 30, 8: 1}, 0.6)[7], 0.97)
        self.assertAlmostEqual(find_shares({7: 40, 8: 20}, 0.6)[7], 41.5 / 63, 6)

    def test_the_share_of_steady_payees_is_learned_from_the_pasts(self):
        for pasts, low, high in (
            ([], USUALLY, USUALLY), ([[1]] * 99, USUALLY, USUALLY),  # what came once tells nothing
            ([[9]] * 90, 0.93, 0.99), ([[9]] * 45 + [[5, 4]] * 45, 0.4, 0.6), ([[5, 4]] * 90, 0.05, 0.1),
            ([[30, 1]] * 90, 0.8, 0.99), ([[9]], USUALLY, (PAYEES * USUALLY + 1) / (PAYEES + 1)),
        ):  # fmt: skip
            found = learn_steadiness(pasts)
            with self.subTest(len(pasts)):
                self.assertTrue(low - 1e-9 <= found <= high, found)

    @given(PASTS, st.floats(0.05, 0.95))
    def test_shares_are_in_the_order_of_counts_and_leave_a_rest(self, counts, steady):
        shares = find_shares(counts, steady)
        self.assertLessEqual(sum(shares.values()), 1 + 1e-9)
        self.assertTrue(all(share > 0 for share in shares.values()))
        by_count = sorted(counts, key=lambda id_: counts[id_])
        self.assertTrue(all(shares[low] <= shares[high] + 1e-9 for low, high in pairwise(by_count)))

    @given(st.integers(1, 40), st.floats(0.05, 0.95))
    def test_one_more_of_the_same_is_never_less_sure(self, times, steady):
        self.assertGreaterEqual(find_shares({7: times + 1}, steady)[7], find_shares({7: times}, steady)[7])


if __name__ == "__main__":
    unittest.main()
