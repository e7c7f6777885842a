"""Loans paid off monthly: the level payment, how each payment splits, and the course to the end.

Source: the annuity in arrears of any textbook on the mathematics of finance. Interest of a month is a twelfth of the yearly
rate on the balance before the payment.
"""

from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal, localcontext

from bolsa.core.months import Month

MOST_PAYMENTS = 1200  # a hundred years


@dataclass(frozen=True)
class Instalment:
    """One payment: what of it is interest, what pays the loan back, and what is owed after it. Minor units, all positive."""

    day: date
    interest_minor: int
    principal_minor: int
    owed_minor: int

    @property
    def paid_minor(self) -> int:
        return self.interest_minor + self.principal_minor


def monthly_interest(owed_minor: int, rate_per_year: Decimal) -> int:
    """The interest of one month on what is owed, in minor units. Rounding: half up, once.

    >>> monthly_interest(5_000_000, Decimal("0.039"))
    16250
    """
    return int((owed_minor * rate_per_year / 12).quantize(Decimal(1), ROUND_HALF_UP))


def annuity_payment(principal_minor: int, rate_per_year: Decimal, months: int) -> int:
    """The level monthly payment, in minor units, that repays a loan in `months` payments at month end.

    Formula: principal = payment × (1 − (1 + i)^−months) / i, with i = rate_per_year / 12; principal / months if i = 0.
    Rounding: half up to the minor unit, once, at the end; the last instalment takes up the difference.
    Raises: ValueError if months < 1 (a bug: forms check it first).
    """
    if months < 1:
        raise ValueError("a loan has at least one payment")
    with localcontext() as context:
        context.prec = 40
        i = rate_per_year / 12
        exact = Decimal(principal_minor) / months if i == 0 else principal_minor * i / (1 - (1 + i) ** -months)
        return int(exact.quantize(Decimal(1), ROUND_HALF_UP))


def split_payment(owed_minor: int, rate_per_year: Decimal, paid_minor: int, interest_paid_minor: int = 0) -> tuple[int, int]:
    """What of a payment is interest and what pays back, in minor units; their sum is the payment.

    Interest comes first: a payment that does not cover it pays nothing back. What was paid of the month's interest already
    (`interest_paid_minor`, within the month before) is not paid again.

    >>> split_payment(1_200_000, Decimal("0.06"), 20_000), split_payment(1_186_000, Decimal("0.06"), 20_000, 6_000)
    ((6000, 14000), (0, 20000))
    """
    due = max(0, monthly_interest(owed_minor, rate_per_year) - interest_paid_minor)
    interest = min(paid_minor, due)
    return interest, paid_minor - interest


def list_instalments(
    owed_minor: int, rate_per_year: Decimal, payment_minor: int, first_day: date, day_number: int = 0
) -> list[Instalment]:
    """The payments that are still to come, each a month after the first, on its day or on `day_number`: a loan due on
    the 31st is so again after a February that had no such day.

    The last one pays what is left. Empty if nothing is owed, or if the payment never pays it off.
    """
    instalments: list[Instalment] = []
    while owed_minor > 0:
        interest = monthly_interest(owed_minor, rate_per_year)
        principal = min(owed_minor, payment_minor - interest)
        if principal <= 0 or len(instalments) >= MOST_PAYMENTS:
            return []
        owed_minor -= principal
        day = (Month.of(first_day) + len(instalments)).day(day_number or first_day.day)
        instalments.append(Instalment(day, interest, principal, owed_minor))
    return instalments
