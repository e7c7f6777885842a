"""Money split and converted: identities, and nothing lost."""

import statistics
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.money import convert_minor, converted_minor, mean_of, median_of, split_minor, worth_minor, worths_minor

AMOUNTS = st.lists(st.integers(-(10**12), 10**12), min_size=1, max_size=40)


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


class Many(unittest.TestCase):
    @given(st.lists(st.tuples(st.integers(-(10**13), 10**13), st.none() | st.integers(0, 10**12)), max_size=9))
    def test_many_at_once_are_each_as_one_alone(self, pairs):
        shares, prices = [one for one, _ in pairs], [price for _, price in pairs]
        rates = [price or 0 for price in prices]
        for currency in ("EUR", "JPY", "KWD"):
            found = [worth_minor(one, price or 0, currency) for one, price in pairs]
            self.assertEqual(worths_minor(shares, prices, currency), found)
            for home in ("EUR", "JPY", "KWD"):
                found = [convert_minor(one, rate, currency, home) for one, rate in zip(shares, rates, strict=True)]
                self.assertEqual(converted_minor(shares, rates, currency, home), found)


class Means(unittest.TestCase):
    @given(AMOUNTS)
    def test_a_mean_is_within_half_a_unit_and_mirrors_for_the_opposite(self, amounts):
        self.assertLessEqual(abs(Fraction(sum(amounts), len(amounts)) - mean_of(amounts)), Fraction(1, 2))
        self.assertEqual(mean_of([-a for a in amounts]), -mean_of(amounts))

    @given(AMOUNTS)
    def test_the_median_is_that_of_the_textbook(self, amounts):
        self.assertLessEqual(abs(Fraction(statistics.median(map(Fraction, amounts))) - median_of(amounts)), Fraction(1, 2))

    def test_one_off_moves_the_mean_and_not_the_median(self):
        months = [100, 110, 90, 105, 9_000]
        self.assertEqual((mean_of(months), median_of(months)), (1_881, 105))
        self.assertEqual((mean_of([]), median_of([])), (0, 0))


if __name__ == "__main__":
    unittest.main()
