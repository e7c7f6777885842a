"""Baselines: from which months, and what they say."""

import unittest

from bolsa.core.budget.baseline import MOST_MONTHS, baseline, months_of
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.months import Month, months_between
from bolsa.errors import InvalidInput

JAN = Month(2026, 1)
FULL = months_between(JAN, JAN + 4)


class Baselines(unittest.TestCase):
    def test_the_last_full_months_count(self):
        self.assertEqual(months_of(FULL, 3, "mean"), FULL[-3:])
        self.assertEqual(months_of(FULL, 99, "median"), FULL)
        self.assertEqual(months_of(FULL, 3, "last"), FULL[-1:])

    def test_what_cannot_be_taken_says_why(self):
        for full, count, way, field in (
            ([], 3, "mean", "months"), (FULL, 0, "mean", "months"), (FULL, MOST_MONTHS + 1, "mean", "months"), (FULL, 3, "mode",
            "way"),
        ):  # fmt: skip
            with self.assertRaises(InvalidInput) as caught:
                months_of(full, count, way)
            self.assertEqual(caught.exception.field, field)

    def test_mean_median_and_last(self):
        plan = CategoryPlan(1, spent={JAN + 2: 100, JAN + 3: 1_000, JAN + 4: 400}, expected={JAN: 50})
        for way, amount in (("mean", 500), ("median", 400), ("last", 400)):
            found = baseline([plan], months_of(FULL, 3, way), way, JAN + 5)[0]
            self.assertEqual((found.amount_minor, found.present_minor), (amount, 50))
        refunded = CategoryPlan(1, spent={JAN + 4: -700})
        self.assertEqual(baseline([refunded], FULL, "mean", JAN)[0].amount_minor, 0)


if __name__ == "__main__":
    unittest.main()
