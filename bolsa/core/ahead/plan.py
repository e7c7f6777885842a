"""A plan of years ahead: people and their work, income, pensions, spending, what is planned, where money lies, debts, tax.

Amounts are in minor units of home currency and of today's money, a year unless said otherwise. Where an amount is None it comes
from the books, anew each time. A plan is kept as JSON text; `as_text` and `read_plan` are each other's inverse.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from decimal import Decimal
from typing import Any

from bolsa.core.months import Month
from bolsa.errors import InvalidInput

FIRST_AGE, LAST_AGE = 50, 120
MOST_PERCENT = 100
MOST_AMOUNT = 10**13
EVERYDAY = 0  # the pot of all everyday accounts together


@dataclass(frozen=True)
class Person:
    """Someone the plan is for; `works_until` is the last month of work."""

    member_id: int
    name: str
    birth_year: int
    works_until: Month

    def age_in(self, year: int) -> int:
        return year - self.birth_year


@dataclass(frozen=True)
class Income:
    """What comes in a year while its person works, or always if it is nobody's; of a category of the books, or typed."""

    name: str
    yearly_minor: int | None = None
    category_id: int | None = None
    member_id: int | None = None


@dataclass(frozen=True)
class Pension:
    """What comes in a year from an age on; it is taxed."""

    name: str
    member_id: int
    yearly_minor: int
    from_age: int


@dataclass(frozen=True)
class Event:
    """Something planned: what it costs (below zero: brings), in which year, every so many years (0: once) until a year (0: on).

    One that is out is kept, and does not count."""

    id: int
    name: str
    year: int
    cost_minor: int
    every: int = 0
    until: int = 0
    is_out: bool = False

    def is_in(self, year: int) -> bool:
        """Whether it happens in a year."""
        if self.is_out or year < self.year or (self.until and year > self.until):
            return False
        return year == self.year if not self.every else (year - self.year) % self.every == 0


@dataclass(frozen=True)
class Pot:
    """Where money lies: an account, or all everyday ones; what it earns a year and how that swings (per cent), its place in the
    order of drawing, whether what is drawn is taxed, what is paid in a year beside what is left over while anyone works, and the
    first year it can be drawn from."""

    account_id: int
    name: str
    return_percent: Decimal = Decimal(0)
    swing_percent: Decimal = Decimal(0)
    is_taxed: bool = False
    paid_in_minor: int = 0
    free_from: int = 0


@dataclass(frozen=True)
class TaxStep:
    """Of what is above an amount so many per cent are taxed, until the next step."""

    above_minor: int
    percent: Decimal


@dataclass(frozen=True)
class Plan:
    """A whole plan. Pots stand in the order of drawing; what is left over goes into the first. `save_minor` and `less_minor` are
    a month: spent less until the last one stops working, and after that."""

    people: tuple[Person, ...] = ()
    incomes: tuple[Income, ...] = ()
    pensions: tuple[Pension, ...] = ()
    spending_minor: int | None = None
    after_percent: Decimal = Decimal(100)
    events: tuple[Event, ...] = ()
    pots: tuple[Pot, ...] = ()
    tax: tuple[TaxStep, ...] = ()
    inflation_percent: Decimal = Decimal(2)
    until_age: int = 95
    save_minor: int = 0
    less_minor: int = 0

    @property
    def last_year(self) -> int:
        """The year in which the youngest reaches the last age."""
        return max((person.birth_year for person in self.people), default=0) + self.until_age

    @property
    def work_ends(self) -> Month | None:
        """The last month in which anyone works."""
        return max((person.works_until for person in self.people), default=None)


@dataclass(frozen=True)
class Case:
    """A plan under a name; the one with the least position is the first, which the others are compared with."""

    id: int
    name: str
    position: int
    plan: Plan


def check_plan(plan: Plan, present: int) -> Plan:
    """The plan. Raises: InvalidInput naming the field of what makes no sense; `present` is this year."""
    if not plan.people:
        raise InvalidInput("Say for whom the plan is, with the year of birth.", field="people")
    if not FIRST_AGE <= plan.until_age <= LAST_AGE:
        raise InvalidInput(f"A plan goes to an age of {FIRST_AGE} to {LAST_AGE}.", field="until_age")
    if plan.last_year <= present:
        raise InvalidInput("The plan would end before it begins.", field="until_age")
    _check_parts(plan, present)
    above = [step.above_minor for step in plan.tax]
    if above != sorted(set(above)) or any(not 0 <= step.percent <= MOST_PERCENT for step in plan.tax):
        raise InvalidInput("The steps of the tax go up, each from 0 to 100 per cent.", field="tax")
    return plan


def _check_parts(plan: Plan, present: int) -> None:
    for person in plan.people:
        if not present - 110 <= person.birth_year <= present:
            raise InvalidInput(f"{person.name} was born in another year.", field="birth_year")
    for name, value, low in (("inflation", plan.inflation_percent, -5), ("after", plan.after_percent, 0)):
        if not low <= value <= 2 * MOST_PERCENT:
            raise InvalidInput("That is too much or too little.", field=name)
    for pot in plan.pots:
        if not -20 <= pot.return_percent <= 30 or not 0 <= pot.swing_percent <= 80:
            raise InvalidInput(f"{pot.name} would earn too much or too little.", field="pots")
    for event in plan.events:
        if not event.name.strip() or abs(event.cost_minor) > MOST_AMOUNT:
            raise InvalidInput("Everything planned has a name and a cost.", field="events")
        if not present - 1 <= event.year <= present + 120 or not 0 <= event.every <= 60:
            raise InvalidInput(f"{event.name} lies in another time.", field="events")


def as_text(plan: Plan) -> str:
    """The plan as JSON."""
    return json.dumps(asdict(plan), ensure_ascii=False, default=str, separators=(",", ":"))


def read_plan(text: str) -> Plan:
    """The plan a JSON text holds. Raises: InvalidInput if it holds none."""
    try:
        told = json.loads(text)
        parts: dict[str, Any] = {name: tuple(_read(kind, one) for one in told.pop(name, ())) for name, kind in _PARTS.items()}
        plan: Plan = _read(Plan, told | parts)
    except (ValueError, TypeError, ArithmeticError, AttributeError) as error:
        raise InvalidInput("This is no plan.") from error
    return plan


_PARTS: Mapping[str, type] = {
    "people": Person,
    "incomes": Income,
    "pensions": Pension,
    "events": Event,
    "pots": Pot,
    "tax": TaxStep,
}


def _read(kind: type, told: Mapping[str, Any]) -> Any:
    """One value with its exact kinds: per cents are decimals, months months."""
    values = dict(told)
    for one in fields(kind):
        if one.name.endswith("percent") and one.name in values:
            values[one.name] = Decimal(str(values[one.name]))
        if one.name == "works_until" and one.name in values:
            values[one.name] = (
                Month.parse(str(values[one.name])) if not isinstance(values[one.name], int) else _month(values[one.name])
            )
    return kind(**values)


def _month(number: int) -> Month:
    return Month(number // 12, number % 12 + 1)


def with_event(plan: Plan, event: Event) -> Plan:
    """The plan with one of its events changed."""
    return replace(plan, events=tuple(event if one.id == event.id else one for one in plan.events))
