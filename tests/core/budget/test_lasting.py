"""How long money lasts: put back into its equation, and the edges."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.budget.lasting import DAYS, MONTHS, MOST_DAYS, days_lasting


class Lasting(unittest.TestCase):
    @given(st.integers(0, 10**9), st.integers(1, 10**9))
    def test_so_many_days_fit_into_the_money_and_one_more_does_not(self, money, monthly):
        days = days_lasting(money, monthly)
        if days < MOST_DAYS:
            self.assertLessEqual(days * monthly * MONTHS, money * DAYS)
            self.assertGreater((days + 1) * monthly * MONTHS, money * DAYS)

    def test_edges(self):
        self.assertEqual([days_lasting(money, 100) for money in (-1, 0, 3, 4)], [0, 0, 0, 1])
        self.assertEqual([days_lasting(money, 365) for money in (MOST_DAYS * 12 - 1, MOST_DAYS * 12)], [MOST_DAYS - 1, MOST_DAYS])
        self.assertEqual((days_lasting(10**9, 1), days_lasting(5, -5)), (MOST_DAYS, None))


if __name__ == "__main__":
    unittest.main()
