"""What changed in a month since it was closed."""

import unittest
from datetime import date

from bolsa.core.budget.closed import ClosedMonth, Since, Stood, changed_since
from bolsa.core.budget.month import CategoryPlan, category_month
from bolsa.core.months import Month

JAN = Month(2026, 1)


def since(then, **plan):
    closed = ClosedMonth(1, JAN, date(2026, 2, 1), "Ana", 0, "", {1: then} if then else {})
    return changed_since(closed, [category_month(CategoryPlan(1, **plan), JAN)])


class ChangedSince(unittest.TestCase):
    def test_what_was_spent_later_is_named_and_what_follows_from_it_is_not(self):
        then = Stood(100, 30, 70)
        self.assertEqual(since(then, placed={JAN: 100}, spent={JAN: 30}), [])
        self.assertEqual(since(then, placed={JAN: 100}, spent={JAN: 45}), [Since(1, "spent", 30, 45)])
        self.assertEqual(since(then, placed={JAN: 90}, spent={JAN: 45}), [Since(1, "placed", 100, 90), Since(1, "spent", 30, 45)])

    def test_what_changed_in_a_month_before_shows_in_what_is_left(self):
        before = {JAN + -1: 5}
        self.assertEqual(since(Stood(100, 30, 70), placed={JAN: 100, **before}, spent={JAN: 30}), [Since(1, "left", 70, 75)])

    def test_a_category_that_is_newer_had_nothing(self):
        self.assertEqual(since(None, spent={JAN: 8}), [Since(1, "spent", 0, 8)])


if __name__ == "__main__":
    unittest.main()
