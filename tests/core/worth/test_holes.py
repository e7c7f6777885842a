"""Payments a loan never heard of: found, and what they would have paid back."""

import unittest
from datetime import date, timedelta
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.worth.holes import missing_payments, stretches, unpaid_principal

TERMS = Terms(rate=Decimal("0.06"), payment_minor=61_200, first_payment_on=date(2026, 1, 31))
PAID = [date(2026, 1, 31), date(2026, 2, 28), date(2026, 3, 31), date(2026, 4, 30)]


class Missing(unittest.TestCase):
    def test_each_due_wants_a_payment_of_its_own(self):
        today = date(2026, 5, 14)
        self.assertEqual(missing_payments(TERMS, PAID, today), [])
        self.assertEqual(missing_payments(TERMS, [PAID[0], PAID[3]], today), [date(2026, 2, 28), date(2026, 3, 31)])
        # Two payments about one due meet that one alone.
        self.assertEqual(missing_payments(TERMS, [PAID[0], date(2026, 2, 26), PAID[1], PAID[3]], today), [PAID[2]])

    def test_a_payment_reaches_its_due_within_ten_days_and_what_is_due_lately_may_still_come(self):
        for days, found in ((-11, [PAID[1]]), (-10, []), (10, []), (11, [PAID[1]])):
            paid = [PAID[0], PAID[1] + timedelta(days=days), PAID[2], PAID[3]]
            with self.subTest(days):
                self.assertEqual(missing_payments(TERMS, sorted(paid), date(2026, 5, 14)), found)
        self.assertEqual(missing_payments(TERMS, PAID[:3], date(2026, 5, 9)), [])
        self.assertEqual(missing_payments(TERMS, PAID[:3], date(2026, 5, 10)), [PAID[3]])

    def test_it_looks_from_the_first_payment_known_and_not_where_nothing_was_agreed(self):
        self.assertEqual(missing_payments(TERMS, PAID[2:], date(2026, 5, 1)), [])
        self.assertEqual(missing_payments(TERMS, [], date(2026, 5, 1)), [])
        self.assertEqual(missing_payments(Terms(), PAID, date(2026, 5, 1)), [])

    def test_what_payments_would_have_paid_back(self):
        # 2,000,000 at 0.5 % a month: interest 10,000, principal 51,200; then 9,744 and 51,456.
        self.assertEqual(unpaid_principal(2_000_000, TERMS, 1), 51_200)
        self.assertEqual(unpaid_principal(2_000_000, TERMS, 2), 102_656)
        self.assertEqual(unpaid_principal(30_000, TERMS, 3), 30_000)

    def test_stretches_are_months_that_follow_each_other(self):
        days = [date(2025, 12, 31), date(2026, 1, 31), date(2026, 3, 31)]
        self.assertEqual(stretches(days), [(days[0], days[1]), (days[2],)])
        self.assertEqual(stretches([]), [])


if __name__ == "__main__":
    unittest.main()
