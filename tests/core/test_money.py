"""Money split and converted: identities, and nothing lost."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.money import convert_minor, split_minor


class Splitting(unittest.TestCase):
    @given(st.integers(-(10**9), 10**9), st.lists(st.integers(0, 50), min_size=1, max_size=9).filter(any))
    def test_every_unit_goes_to_someone_and_a_refund_mirrors_its_payment(self, total, weights):
        parts = split_minor(total, weights)
        self.assertEqual(sum(parts), total)
        self.assertEqual(split_minor(-total, weights), [-part for part in parts])
        for part, weight in zip(parts, weights, strict=True):
            self.assertLess(abs(part * sum(weights) - total * weight), sum(weights))

    def test_no_weight_is_a_bug(self):
        for weights in ([], [0, 0], [1, -1]):
            with self.assertRaises(ValueError):
                split_minor(100, weights)


class Converting(unittest.TestCase):
    @given(st.integers(-(10**9), 10**9), st.integers(1, 10**10))
    def test_conversion_is_within_half_a_unit(self, amount, rate):
        self.assertLessEqual(abs(convert_minor(amount, rate, "SEK", "EUR") * 10**8 - amount * rate), 10**8 // 2)


if __name__ == "__main__":
    unittest.main()
