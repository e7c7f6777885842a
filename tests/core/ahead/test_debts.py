"""Debts paid off together: worked figures, what is paid is what was owed and its interest, orders, and what never ends."""

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.accounts.loan import list_instalments
from bolsa.core.ahead.debts import Debt, in_order, is_too_little, pay_off
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

JUNE = Month(2026, 6)
CARD = Debt(1, "Card", 160_000, Decimal("0.18"), 5_000)
CAR = Debt(2, "Car", 90_000, Decimal("0.04"), 6_000)
BARGE = Debt(3, "Barge", 4_000_000, Decimal("0.039"), 61_200)
ALL = [CARD, CAR, BARGE]


class Courses(unittest.TestCase):
    def test_the_first_months_by_hand(self):
        """1,000.00 at 12 %, 500.00 a month: 10.00 of interest leave 510.00, then 5.10 leave 15.10, which the third pays."""
        (course,) = pay_off([Debt(1, "A", 100_000, Decimal("0.12"), 50_000)], JUNE).courses
        self.assertEqual([(p.interest_minor, p.paid_minor, p.owed_minor) for p in course.payments],
                         [(1_000, 50_000, 51_000), (510, 50_000, 1_510), (15, 1_525, 0)])  # fmt: skip
        self.assertEqual((course.done, course.interest_minor), (Month(2026, 8), 1_525))

    def test_one_debt_alone_is_the_loans_own_schedule(self):
        from datetime import date

        (course,) = pay_off([BARGE], JUNE).courses
        own = list_instalments(BARGE.owed_minor, BARGE.rate, BARGE.least_minor, date(2026, 6, 2))
        self.assertEqual(
            [(p.interest_minor, p.owed_minor) for p in course.payments], [(p.interest_minor, p.owed_minor) for p in own]
        )

    def test_what_a_done_debt_took_goes_on_to_the_next(self):
        payoff = pay_off(in_order(ALL, "balance"), JUNE)
        car, card, barge = payoff.courses
        after = [p.paid_minor for p in card.payments if p.month > car.done]
        self.assertEqual(after[0], CARD.least_minor + CAR.least_minor)
        bare = pay_off(ALL, JUNE, rolls=False)
        self.assertEqual({p.paid_minor for p in bare.courses[0].payments[:-1]}, {CARD.least_minor})
        self.assertLess(payoff.interest_minor, bare.interest_minor)
        self.assertGreater(barge.done, card.done)

    def test_the_highest_rate_first_costs_least_interest(self):
        for more in (0, 10_000, 50_000):
            by_rate, by_balance = (pay_off(in_order(ALL, order), JUNE, more) for order in ("rate", "balance"))
            self.assertLessEqual(by_rate.interest_minor, by_balance.interest_minor)
            self.assertEqual(by_rate.interest_minor < by_balance.interest_minor, more > 0)
            self.assertLessEqual(by_balance.courses[0].done, max(by_rate.courses[1].done, by_rate.courses[0].done))

    def test_paid_once_comes_in_its_month_alone(self):
        plain, once = pay_off([CARD], JUNE), pay_off([CARD], JUNE, once={Month(2026, 9): 50_000})
        self.assertEqual([p.paid_minor for p in once.courses[0].payments[:5]], [5_000, 5_000, 5_000, 55_000, 5_000])
        self.assertLess(once.done, plain.done)

    def test_a_payment_below_the_interest_never_ends_it_and_one_unit_more_does(self):
        interest = 2_400
        for least, ends in ((interest, False), (interest + 1, True)):
            debt = Debt(1, "Card", 160_000, Decimal("0.18"), least)
            self.assertEqual((is_too_little(debt), pay_off([debt], JUNE).is_done), (not ends, ends))
        stuck = pay_off([Debt(1, "Card", 160_000, Decimal("0.18"), 0), CAR], JUNE, rolls=False)
        self.assertEqual([course.done for course in stuck.courses], [None, Month(2027, 9)])
        self.assertIsNone(stuck.interest_minor)

    def test_nothing_owed_is_done_at_once_and_no_rate_is_no_interest(self):
        self.assertEqual(pay_off([Debt(1, "A", 0, Decimal(0), 10)], JUNE).done, JUNE)
        payoff = pay_off([Debt(1, "A", 1_000, Decimal(0), 300)], JUNE)
        self.assertEqual((payoff.interest_minor, payoff.months), (0, 4))

    def test_orders(self):
        self.assertEqual([d.id for d in in_order(ALL, "rate")], [1, 2, 3])
        self.assertEqual([d.id for d in in_order(ALL, "balance")], [2, 1, 3])
        self.assertEqual([d.id for d in in_order(ALL, "hand", {3: 1, 1: 2})], [3, 1, 2])
        with self.assertRaises(InvalidInput):
            in_order(ALL, "luck")

    @given(st.lists(st.tuples(st.integers(0, 10**7), st.integers(0, 30), st.integers(1, 10**6)), min_size=1, max_size=5),
           st.integers(0, 10**6), st.sampled_from(["rate", "balance"]))  # fmt: skip
    def test_what_is_paid_is_what_was_owed_and_its_interest(self, some, more, order):
        debts = [Debt(i, str(i), owed, Decimal(percent) / 100, least) for i, (owed, percent, least) in enumerate(some)]
        payoff = pay_off(in_order(debts, order), JUNE, more)
        for course in payoff.courses:
            paid = sum(p.paid_minor for p in course.payments)
            left = course.payments[-1].owed_minor if course.payments else course.debt.owed_minor
            self.assertEqual(paid + left, course.debt.owed_minor + course.interest_minor)
            self.assertEqual(course.done is not None, left == 0)
        for month in range(payoff.months):
            paid = sum(c.payments[month].paid_minor for c in payoff.courses if month < len(c.payments))
            self.assertLessEqual(paid, sum(d.least_minor for d in debts) + more)


if __name__ == "__main__":
    unittest.main()
