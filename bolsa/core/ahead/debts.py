"""Debts paid off together: a monthly sum, in an order; the month each is done, the interest, against the least payments alone.

Each month the interest of a twelfth of the yearly rate is added to what is owed; then every debt gets its least payment, and what
the monthly sum leaves goes to the first in the order that is not done. What a debt that is done no longer takes stays in the sum.
Rounding: interest half up to the unit, each month; the last payment of a debt is what is owed.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from bolsa.core.accounts.loan import monthly_interest
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

ORDERS = {"rate": "the highest rate first", "balance": "the smallest balance first", "hand": "by hand"}
MOST_MONTHS = 1200  # a hundred years: what is not done by then never is


@dataclass(frozen=True)
class Debt:
    """A debt: what is owed (above zero), its yearly rate as a fraction, and the least payment a month."""

    id: int
    name: str
    owed_minor: int
    rate: Decimal
    least_minor: int


@dataclass(frozen=True)
class DebtPlan:
    """What is paid beyond the least payments a month and once, by month; in which order, and the places of the order by hand."""

    more_minor: int
    order: str
    once: Mapping[Month, int]
    places: Mapping[int, int]


@dataclass(frozen=True)
class Payment:
    """A month of one debt: its interest, what was paid, and what is owed after it."""

    month: Month
    interest_minor: int
    paid_minor: int
    owed_minor: int


@dataclass(frozen=True)
class DebtCourse:
    """One debt to its end: its months; `done` is None if it is never paid off."""

    debt: Debt
    payments: tuple[Payment, ...]
    done: Month | None

    @property
    def interest_minor(self) -> int:
        return sum(one.interest_minor for one in self.payments)

    def owed_at(self, at: int) -> int:
        """What is owed after so many months."""
        if at < 0 or not self.payments:
            return self.debt.owed_minor
        return self.payments[at].owed_minor if at < len(self.payments) else self.payments[-1].owed_minor


@dataclass(frozen=True)
class Payoff:
    """All debts to their ends, in the order they are paid."""

    courses: tuple[DebtCourse, ...]

    @property
    def interest_minor(self) -> int | None:
        """All interest; None if some debt is never done."""
        return sum(one.interest_minor for one in self.courses) if self.is_done else None

    @property
    def is_done(self) -> bool:
        return all(one.done is not None for one in self.courses)

    @property
    def done(self) -> Month | None:
        """The month in which the last is done; None if some never is, or if there is none."""
        return max((one.done for one in self.courses if one.done is not None), default=None) if self.is_done else None

    @property
    def months(self) -> int:
        return max((len(one.payments) for one in self.courses), default=0)


def in_order(debts: Sequence[Debt], order: str, places: Mapping[int, int] | None = None) -> list[Debt]:
    """The debts in the order in which they are paid off. Raises: InvalidInput for an order there is not."""
    if order == "rate":
        return sorted(debts, key=lambda debt: (-debt.rate, debt.owed_minor, debt.id))
    if order == "balance":
        return sorted(debts, key=lambda debt: (debt.owed_minor, -debt.rate, debt.id))
    if order == "hand":
        known = places or {}
        return sorted(debts, key=lambda debt: (known.get(debt.id, len(known) + 1), debt.id))
    raise InvalidInput("Debts are paid by rate, by balance or by hand.", field="order")


def is_too_little(debt: Debt) -> bool:
    """Whether the least payment does not even cover the interest, so that the debt grows or stands."""
    return debt.least_minor <= monthly_interest(debt.owed_minor, debt.rate)


def pay_off(
    ordered: Sequence[Debt], first: Month, more_minor: int = 0, once: Mapping[Month, int] | None = None, *, rolls: bool = True
) -> Payoff:
    """The courses of debts in the order given. `more_minor` is paid a month beyond the least payments, `once` in single months;
    without `rolls` each debt gets its least payment alone, and what it no longer takes is kept back."""
    owed = {debt.id: debt.owed_minor for debt in ordered}
    found: dict[int, list[Payment]] = {debt.id: [] for debt in ordered}
    done: dict[int, Month] = {debt.id: first for debt in ordered if debt.owed_minor <= 0}
    sum_minor = sum(debt.least_minor for debt in ordered) + more_minor
    for at in range(MOST_MONTHS):
        month = first + at
        open_ones = [debt for debt in ordered if owed[debt.id] > 0]
        if not open_ones:
            break
        interest = {debt.id: monthly_interest(owed[debt.id], debt.rate) for debt in open_ones}
        paid = {debt.id: min(debt.least_minor, owed[debt.id] + interest[debt.id]) for debt in open_ones}
        left = (sum_minor + (once or {}).get(month, 0) if rolls else 0) - sum(paid.values())
        for debt in open_ones:
            more = min(max(0, left), owed[debt.id] + interest[debt.id] - paid[debt.id])
            paid[debt.id] += more
            left -= more
        for debt in open_ones:
            owed[debt.id] += interest[debt.id] - paid[debt.id]
            found[debt.id].append(Payment(month, interest[debt.id], paid[debt.id], owed[debt.id]))
            if owed[debt.id] <= 0:
                done[debt.id] = month
        if all(found[debt.id][-1].owed_minor >= debt.owed_minor for debt in open_ones) and at > 24 and not once:
            break  # nothing gets less: it never will
    return Payoff(tuple(DebtCourse(debt, tuple(found[debt.id]), done.get(debt.id)) for debt in ordered))
