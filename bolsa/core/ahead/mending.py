"""Mending a plan: for each single kind of change the smallest that holds, found by search and tried for real.

A change less one step would fail. Where no change of a kind holds, the one that helps most is told with what is lacking still.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from bolsa.core.ahead.plan import Event, Person, Plan, with_event
from bolsa.core.ahead.years import PlanYear, Start, first_below, run
from bolsa.core.months import Month

STEP_MINOR = 100  # what is saved, spent less or taken off goes by whole units of two-digit currencies
MOST_MONTHLY = 2_000_000
MOST_MONTHS_LONGER = 240
MOST_YEARS_LATER = 20


@dataclass(frozen=True)
class Mend:
    """A change that was tried: of which kind, on what, by how much, and the plan with it; what is left at the end, or the first
    year below zero still and what is missing in it."""

    kind: str
    name: str
    amount: int
    plan: Plan
    left_minor: int
    below: PlanYear | None
    event: Event | None = None
    person: Person | None = None

    @property
    def is_enough(self) -> bool:
        return self.below is None


def find_mends(plan: Plan, start: Start) -> list[Mend]:
    """The smallest single changes that make a plan hold, each tried; of a plan that holds none. Those that are enough come first,
    in the order of kinds."""
    if first_below(run(plan, start, until_missing=True)) is None:
        return []
    found = [*_money(plan, start), *_work(plan, start), *_events(plan, start)]
    return [mend for mend in found if mend.is_enough] + [mend for mend in found if not mend.is_enough]


def _tried(kind: str, name: str, amount: int, plan: Plan, start: Start, **of: object) -> Mend:
    years = run(plan, start)
    return Mend(kind, name, amount, plan, years[-1].total_minor, first_below(years), **of)  # type: ignore[arg-type]


def _least(most: int, make: Callable[[int], Plan], start: Start) -> int | None:
    """The least number of steps with which a plan holds; None if even the most is too little. More of it never does harm."""
    if first_below(run(make(most), start, until_missing=True)) is not None:
        return None
    low, high = 1, most
    while low < high:
        middle = (low + high) // 2
        if first_below(run(make(middle), start, until_missing=True)) is None:
            high = middle
        else:
            low = middle + 1
    return low


def _money(plan: Plan, start: Start) -> Iterator[Mend]:
    """Saved more while anyone works, and spent less after; no more than what is spent."""
    whole = plan.spending_minor if plan.spending_minor is not None else start.spending_minor
    most = min(MOST_MONTHLY, whole // 12) // STEP_MINOR
    makes: list[tuple[str, Callable[[int], Plan]]] = [
        ("save", lambda steps: replace(plan, save_minor=plan.save_minor + steps * STEP_MINOR)),
        ("less", lambda steps: replace(plan, less_minor=plan.less_minor + steps * STEP_MINOR)),
    ]
    for kind, make in makes:
        if most > 0:
            steps = _least(most, make, start)
            amount = (steps if steps is not None else most) * STEP_MINOR
            yield _tried(kind, "", amount, make(steps if steps is not None else most), start)


def _work(plan: Plan, start: Start) -> Iterator[Mend]:
    """Each who works still, working longer, by months."""
    for person in plan.people:
        earns = any(one.member_id == person.member_id for one in plan.incomes)
        if person.works_until < start.month or not earns:
            continue

        def make(months: int, person: Person = person) -> Plan:
            longer = replace(person, works_until=person.works_until + months)
            return replace(plan, people=tuple(longer if one.member_id == person.member_id else one for one in plan.people))

        months = _least(MOST_MONTHS_LONGER, make, start)
        told = months if months is not None else MOST_MONTHS_LONGER
        yield _tried("longer", person.name, told, make(told), start, person=person)


def _events(plan: Plan, start: Start) -> Iterator[Mend]:
    """Each thing that is planned and costs: cheaper, later, left out."""
    for event in plan.events:
        if event.is_out or event.cost_minor <= 0 or event.year < start.month.year:
            continue
        out = _tried("out", event.name, 0, with_event(plan, replace(event, is_out=True)), start, event=event)
        if out.is_enough:  # otherwise no lower price and no later year is
            yield from _cheaper(plan, start, event)
            yield from _later(plan, start, event)
        yield out


def _cheaper(plan: Plan, start: Start, event: Event) -> Iterator[Mend]:
    step = STEP_MINOR * max(1, event.cost_minor // (STEP_MINOR * 1000))

    def make(steps: int) -> Plan:
        return with_event(plan, replace(event, cost_minor=max(0, event.cost_minor - steps * step)))

    most = event.cost_minor // step
    steps = _least(most, make, start) if most else None
    if steps is not None and steps < most:
        yield _tried("cheaper", event.name, max(0, event.cost_minor - steps * step), make(steps), start, event=event)


def _later(plan: Plan, start: Start, event: Event) -> Iterator[Mend]:
    """The first later year that holds. Later is not always better, so each is tried in order; the last one tried if none does."""
    last = min(event.year + MOST_YEARS_LATER, plan.last_year)
    for year in range(event.year + 1, last + 1):
        moved = with_event(plan, replace(event, year=year))
        if first_below(run(moved, start, until_missing=True)) is None or year == last:
            yield _tried("later", event.name, year, moved, start, event=event)
            return


def describe_person(mend: Mend) -> Month | None:
    """Until when the person works with the change."""
    if mend.person is None:
        return None
    return next((one.works_until for one in mend.plan.people if one.member_id == mend.person.member_id), None)


def covered_until(years: Sequence[PlanYear]) -> int:
    """The last year before money is missing, or the last of all."""
    below = first_below(years)
    return below.year - 1 if below is not None else years[-1].year
