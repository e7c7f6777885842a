"""The years of a plan: what comes in and goes out, what each pot holds at the end, and the first year that falls below zero.

All amounts are in today's money. Each year, in this order: pots earn their return above inflation on what they held at the start;
what is paid into pots is added; income and pensions less tax, spending, plans and debts is what is left over; if it is above zero
it goes into the first pot, else pots are drawn from in their order, a taxed one by so much more that the tax on it is paid too.
What no pot can give is missing, and is carried as it is. In every year and pot: end = start + earned + put in − drawn. Rounding:
half away from zero to the unit, each earning, each tax.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from bolsa.core.ahead.plan import Event, Person, Plan, TaxStep
from bolsa.core.months import Month

E8 = 10**8
MONTHS = 12
PARTS = 10_000  # per cents of a tax are exact to four decimals


@dataclass(frozen=True)
class Start:
    """Where a plan begins, out of the books: the month, what pots hold, income by its place in the plan, spending without the
    interest of debts, and what debts take by year: (paid back, interest), in that year's money."""

    month: Month
    pots: Sequence[int]
    incomes: Sequence[int]
    spending_minor: int
    debts: Mapping[int, tuple[int, int]]


@dataclass(frozen=True)
class PlanYear:
    """One year: what came in, what went out, what pots did; `missing_minor` is what no pot could give in it, `owing_minor` all
    that was missing until its end."""

    year: int
    income: tuple[int, ...]
    pensions: tuple[int, ...]
    spending_minor: int
    events: tuple[tuple[Event, int], ...]
    debts_minor: int
    tax_minor: int
    earned: tuple[int, ...]
    put_in: tuple[int, ...]
    drawn: tuple[int, ...]
    held: tuple[int, ...]
    missing_minor: int
    owing_minor: int

    @property
    def total_minor(self) -> int:
        """What there is at the end of the year, below zero if money is missing."""
        return sum(self.held) - self.owing_minor

    @property
    def in_minor(self) -> int:
        return sum(self.income) + sum(self.pensions)

    @property
    def out_minor(self) -> int:
        return self.spending_minor + sum(cost for _, cost in self.events) + self.debts_minor + self.tax_minor


def first_below(years: Sequence[PlanYear]) -> PlanYear | None:
    """The first year in which money is missing."""
    return next((one for one in years if one.missing_minor > 0), None)


def holds(years: Sequence[PlanYear]) -> bool:
    return first_below(years) is None


def real_rate_e8(return_percent: Decimal, inflation_percent: Decimal) -> int:
    """The yearly return above inflation, times 1e8: (1 + r) / (1 + i) − 1. Rounding: half up.

    >>> real_rate_e8(Decimal("5.06"), Decimal(2)), real_rate_e8(Decimal(0), Decimal(2))
    (3000000, -1960784)
    """
    exact = Fraction(100 + return_percent) / Fraction(100 + inflation_percent) - 1
    return _rounded(exact * E8)


def _rounded(exact: Fraction) -> int:
    size = int(abs(exact) + Fraction(1, 2))
    return size if exact >= 0 else -size


def _times(amount: int, numerator: int, denominator: int) -> int:
    """amount × numerator / denominator. Rounding: half away from zero."""
    product = amount * numerator
    size = (2 * abs(product) + denominator) // (2 * denominator)
    return size if product >= 0 else -size


def months_worked(person: Person, year: int, first: Month) -> int:
    """In how many months of a year someone works, of those the plan looks at."""
    begins, ends = max(first, Month(year, 1)), min(person.works_until, Month(year, 12))
    return max(0, ends - begins + 1)


def tax_on(taxable_minor: int, steps: Sequence[TaxStep]) -> int:
    """The tax on a year's taxable income: each step takes its per cent of what is above it, until the next. Rounding: half up.

    >>> steps = (TaxStep(0, Decimal(0)), TaxStep(1_000_000, Decimal(20)), TaxStep(3_000_000, Decimal(40)))
    >>> tax_on(900_000, steps), tax_on(1_500_000, steps), tax_on(3_500_000, steps)
    (0, 100000, 600000)
    """
    parts = 0
    for at, step in enumerate(steps):
        top = min(taxable_minor, steps[at + 1].above_minor) if at + 1 < len(steps) else taxable_minor
        if top > step.above_minor:
            parts += (top - step.above_minor) * int(step.percent * PARTS)
    return (2 * parts + 100 * PARTS) // (200 * PARTS)


def gross_for(net_minor: int, taxable_minor: int, steps: Sequence[TaxStep]) -> int:
    """What has to be drawn so that so much is there after the tax on it, on top of other taxable income: the least that does. Of
    a tax of everything it is what is wanted: drawing more brings nothing."""
    before, left, gross = tax_on(taxable_minor, steps), net_minor, 0
    for at in range(-1, len(steps)):
        kept = 100 * PARTS - (int(steps[at].percent * PARTS) if at >= 0 else 0)
        end = steps[at + 1].above_minor if at + 1 < len(steps) else None
        room = None if end is None else max(0, end - taxable_minor - gross)
        if kept <= 0 and room is None:
            return net_minor
        wanted = -(-left * 100 * PARTS // kept) if kept > 0 else None
        if room is None or (wanted is not None and wanted <= room):
            gross += wanted or 0
            break
        gross += room
        left -= room * kept // (100 * PARTS)
    while gross - (tax_on(taxable_minor + gross, steps) - before) < net_minor:
        gross += 1
    while gross > 0 and gross - 1 - (tax_on(taxable_minor + gross - 1, steps) - before) >= net_minor:
        gross -= 1
    return gross


def run(plan: Plan, start: Start, *, until_missing: bool = False) -> list[PlanYear]:
    """The years of a plan, from this one to the last; `until_missing` ends with the first in which money is missing."""
    rates = [real_rate_e8(pot.return_percent, plan.inflation_percent) for pot in plan.pots]
    held, owing, found = list(start.pots), 0, []
    for year in range(start.month.year, plan.last_year + 1):
        one = _year(plan, start, year, held, owing, rates)
        held, owing = list(one.held), one.owing_minor
        found.append(one)
        if until_missing and one.missing_minor:
            break
    return found


def _year(plan: Plan, start: Start, year: int, held: Sequence[int], owing: int, rates: Sequence[int]) -> PlanYear:
    months = Month(year, 12) - max(start.month, Month(year, 1)) + 1
    first = start.month
    works = {person.member_id: months_worked(person, year, first) for person in plan.people}
    working = max(works.values(), default=0)
    income = tuple(
        _times(amount, works.get(one.member_id, 0) if one.member_id is not None else months, MONTHS)
        for one, amount in zip(plan.incomes, start.incomes, strict=True)
    )
    pensions = tuple(_pension(plan, at, year, months) for at in range(len(plan.pensions)))
    spending = _spent_in(plan, start, months, working)
    events = tuple((event, event.cost_minor) for event in plan.events if event.is_in(year))
    debts = _debts(start, year, plan.inflation_percent)
    earned = [_times(amount, rate * months, E8 * MONTHS) for amount, rate in zip(held, rates, strict=True)]
    put_in = [_times(pot.paid_in_minor, working, MONTHS) for pot in plan.pots]
    now = [amount + more + paid for amount, more, paid in zip(held, earned, put_in, strict=True)]
    taxable = sum(pensions)
    tax = tax_on(taxable, plan.tax)
    left = sum(income) + taxable - tax - spending - sum(cost for _, cost in events) - debts
    drawn = [0] * len(now)
    if left >= 0 and now:
        settled = min(left, owing)
        owing -= settled
        put_in[0] += left - settled
        now[0] += left - settled
        left = 0
    for at, pot in enumerate(plan.pots):
        if left >= 0:
            break
        if now[at] <= 0 or year < pot.free_from:
            continue
        wanted = gross_for(-left, taxable, plan.tax) if pot.is_taxed else -left
        take = min(now[at], wanted)
        on_it = tax_on(taxable + take, plan.tax) - tax_on(taxable, plan.tax) if pot.is_taxed else 0
        taxable += take if pot.is_taxed else 0
        tax += on_it
        drawn[at] = take
        now[at] -= take
        left += take - on_it
    missing = max(0, -left)
    if left > 0 and now:  # a unit more than was wanted, by the rounding of tax
        put_in[0] += left
        now[0] += left
    return PlanYear(
        year, income, pensions, spending, events, debts, tax, tuple(earned), tuple(put_in), tuple(drawn), tuple(now), missing,
        owing + missing,
    )  # fmt: skip


def _pension(plan: Plan, at: int, year: int, months: int) -> int:
    pension = plan.pensions[at]
    person = next((one for one in plan.people if one.member_id == pension.member_id), None)
    return _times(pension.yearly_minor, months, MONTHS) if person is not None and person.age_in(year) >= pension.from_age else 0


def _spent_in(plan: Plan, start: Start, months: int, working: int) -> int:
    """What is spent in a year: as now while anyone works, less what is saved more; at the level after work for the rest of it."""
    whole = plan.spending_minor if plan.spending_minor is not None else start.spending_minor
    after = months - working
    before_minor = _times(whole, working, MONTHS) - plan.save_minor * working
    after_minor = _times(whole, after * int(plan.after_percent * 100), MONTHS * 10_000) - plan.less_minor * after
    return max(0, before_minor) + max(0, after_minor)


def _debts(start: Start, year: int, inflation_percent: Decimal) -> int:
    """What debts take in a year, in today's money: later money is worth less."""
    back, interest = start.debts.get(year, (0, 0))
    if not back + interest:
        return 0
    factor = (1 + Fraction(inflation_percent) / 100) ** (year - start.month.year)
    return _rounded(Fraction(back + interest) / factor)
