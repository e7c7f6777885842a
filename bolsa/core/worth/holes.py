"""Holes in what is known of accounts: values not noted for longer than a quarter, payments a loan never heard of."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from bolsa.core.accounts.loan import split_payment
from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month, add_months

DAYS_TO_PAY = 10  # a payment reaches a loan within so many days of its own


@dataclass(frozen=True)
class WorthHole:
    """A stretch for which an account is not known: of a "value" that was not noted, "payments" a loan never heard of, or one that
    is "missing" at its institution; `last` is None while it is open.

    `step_minor` is what net worth does wrong, in the account's currency: for a value the step at its end that no flow explains,
    for payments what they would have paid back.
    """

    account_id: int
    name: str
    kind: str
    first: date
    last: date | None
    step_minor: int | None
    days: tuple[date, ...] = ()  # of payments that are missing


def missing_payments(terms: Terms, paid_on: Sequence[date], today: date) -> list[date]:
    """The days on which a loan's payment was due and none reached it, in order; days are counted from the first payment.

    It looks from the first payment the books know of: what was due before may be part of what the loan was opened with. A payment
    meets one due alone, the nearest first. What is due within the last days may still come.
    """
    if terms.first_payment_on is None or not terms.payment_minor or not paid_on:
        return []
    near = timedelta(days=DAYS_TO_PAY)
    months = max(0, Month.of(paid_on[0]) - Month.of(terms.first_payment_on))
    due: list[date] = []
    while (day := add_months(terms.first_payment_on, months)) <= today - near:
        if day >= paid_on[0] - near:
            due.append(day)
        months += 1
    pairs = sorted((abs(on - day), day, i) for day in due for i, on in enumerate(paid_on) if abs(on - day) <= near)
    met: set[date] = set()
    used: set[int] = set()
    for _, day, i in pairs:
        if day not in met and i not in used:
            met.add(day)
            used.add(i)
    return [day for day in due if day not in met]


def unpaid_principal(owed_minor: int, terms: Terms, payments: int) -> int:
    """What so many payments would have paid back of what was owed before them (above zero)."""
    left = owed_minor
    for _ in range(payments):
        _, principal = split_payment(left, terms.rate or Decimal(0), terms.payment_minor or 0)
        left -= min(principal, left)
    return owed_minor - left


def stretches(days: Sequence[date]) -> list[tuple[date, ...]]:
    """Days of missing payments that follow each other month by month, together."""
    found: list[list[date]] = []
    for day in days:
        if found and Month.of(day) - Month.of(found[-1][-1]) == 1:
            found[-1].append(day)
        else:
            found.append([day])
    return [tuple(run) for run in found]
