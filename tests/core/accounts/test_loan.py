"""Loans: the payment put back into the equation, payments that sum, courses that end at zero."""

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.accounts.loan import annuity_payment, list_instalments, monthly_interest, split_payment

FIRST = date(2026, 1, 31)


class Payments(unittest.TestCase):
    def test_known_payments(self):
        # 100,000 at 6 % over 30 years is 599.55 and at 0 % over 10 years 833.33 (any annuity table).
        for principal, rate, months, payment in (
            (10_000_000, "0.06", 360, 59_955), (10_000_000, "0", 120, 83_333), (500_000, "0.12", 1, 505_000),
            (2_000_000, "0.05", 60, 37_742),
        ):  # fmt: skip
            with self.subTest(rate=rate, months=months):
                self.assertEqual(annuity_payment(principal, Decimal(rate), months), payment)
        with self.assertRaises(ValueError):
            annuity_payment(1, Decimal(0), 0)

    @given(st.integers(100_000, 90_000_000), st.integers(0, 2000), st.integers(1, 480))
    def test_the_payment_put_back_repays_the_loan(self, principal, basis_points, months):
        rate = Decimal(basis_points) / 10_000
        payment = annuity_payment(principal, rate, months)
        owed = Decimal(principal)
        for _ in range(months):
            owed = owed * (1 + rate / 12) - payment
        # Half a cent a month, with its own interest, is all that rounding may leave.
        most = Decimal("0.5") * sum((1 + rate / 12) ** k for k in range(months)) + 1
        self.assertLessEqual(abs(owed), most)

    def test_interest_comes_first(self):
        self.assertEqual(split_payment(5_000_000, Decimal("0.039"), 61_200), (16_250, 44_950))
        self.assertEqual(split_payment(5_000_000, Decimal("0.039"), 9_000), (9_000, 0))
        self.assertEqual(split_payment(5_000_000, Decimal(0), 61_200), (0, 61_200))
        self.assertEqual(split_payment(-300, Decimal("0.1"), 500), (0, 500), "an overpaid loan bears nothing")


class Courses(unittest.TestCase):
    @given(st.integers(1, 5_000_000), st.integers(0, 1500), st.integers(2, 120))
    def test_a_course_ends_at_zero_and_its_parts_sum(self, owed, basis_points, months):
        rate = Decimal(basis_points) / 10_000
        course = list_instalments(owed, rate, annuity_payment(owed, rate, months) + 1, FIRST)
        self.assertEqual(course[-1].owed_minor, 0)
        self.assertEqual(sum(one.principal_minor for one in course), owed)
        self.assertEqual([one.interest_minor for one in course[:1]], [monthly_interest(owed, rate)])

    def test_days_count_from_the_first_and_clamp(self):
        days = [one.day for one in list_instalments(400, Decimal(0), 100, FIRST)]
        self.assertEqual(days, [date(2026, 1, 31), date(2026, 2, 28), date(2026, 3, 31), date(2026, 4, 30)])
        days = [one.day for one in list_instalments(300, Decimal(0), 100, date(2026, 2, 28), 31)]
        self.assertEqual(days, [date(2026, 2, 28), date(2026, 3, 31), date(2026, 4, 30)])

    def test_a_payment_below_the_interest_has_no_end(self):
        self.assertEqual(list_instalments(1_000_000, Decimal("0.12"), 10_000, FIRST), [])
        self.assertEqual(list_instalments(0, Decimal("0.12"), 10_000, FIRST), [])
