"""What a plan asks one to do: amounts to put by each month, as aims of the budget, and days to be reminded of.

Amounts are in today's money; who carries a plan out looks at it again each year, and is reminded of that too.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from bolsa.core.ahead.plan import Event, Plan
from bolsa.core.months import Month

YEARS_PUT_BY = 10  # what is planned later than that is only reminded of
YEARS_REMINDED = 40


@dataclass(frozen=True)
class PlannedAim:
    """An amount to put by each month, from a month to a last one (None: for good), for what."""

    key: str
    name: str
    monthly_minor: int
    first: Month
    last: Month | None

    @property
    def whole_minor(self) -> int | None:
        """What that makes in all; None where it does not end."""
        return self.monthly_minor * (self.last - self.first + 1) if self.last is not None else None


@dataclass(frozen=True)
class PlannedReminder:
    """A day, and what to think of on it."""

    key: str
    day: date
    words: str


def aims_of(plan: Plan, present: Month) -> list[PlannedAim]:
    """What to put by each month, from the month after the present one: what is saved more while anyone works, and each thing
    planned in the next years, so that its cost is there when its year begins. Rounding: up to the unit, so that nothing lacks."""
    first = present + 1
    aims = []
    if plan.save_minor > 0:
        aims.append(PlannedAim("save", "Saved for later", plan.save_minor, first, plan.work_ends))
    for event in plan.events:
        year = next_year(event, first)
        if event.is_out or event.cost_minor <= 0 or year is None or year - first.year > YEARS_PUT_BY:
            continue
        last = Month(year - 1, 12) if year > first.year else first
        months = last - first + 1
        aims.append(PlannedAim(f"event.{event.id}", event.name, -(-event.cost_minor // months), first, last))
    return [aim for aim in aims if aim.last is None or aim.last >= first]


def next_year(event: Event, first: Month) -> int | None:
    """The next year in which something happens, from a month on; None if it does not any more."""
    return next((year for year in range(first.year, first.year + YEARS_REMINDED) if event.is_in(year)), None)


def reminders_of(plan: Plan, today: date) -> list[PlannedReminder]:
    """The days a plan turns on, in order: work that ends, pensions that begin, what is planned, money that comes free, spending
    that falls; and the next New Year, to look whether the plan still holds."""
    year = today.year
    found = []
    for person in plan.people:
        found.append(PlannedReminder(f"work.{person.member_id}", person.works_until.last_day, f"{person.name} stops working"))
    born = {person.member_id: person for person in plan.people}
    for i, pension in enumerate(plan.pensions):
        if pension.member_id in born:
            begins = born[pension.member_id].birth_year + pension.from_age
            found.append(PlannedReminder(f"pension.{i}", date(begins, 1, 1), f"{pension.name} begins: apply for it in time"))
    for event in plan.events:
        comes = next_year(event, Month.of(today) + 1)
        if not event.is_out and comes is not None:
            found.append(PlannedReminder(f"event.{event.id}", date(comes, 1, 1), f"{event.name} is planned for {comes}"))
    for pot in plan.pots:
        if pot.free_from:
            found.append(
                PlannedReminder(f"pot.{pot.account_id}", date(pot.free_from, 1, 1), f"{pot.name} can be drawn from now on")
            )
    if plan.less_minor > 0 and plan.work_ends is not None:
        found.append(PlannedReminder("less", plan.work_ends.last_day, "From here on the plan spends less each month"))
    found.append(PlannedReminder("look", date(year + 1, 1, 1), "Look whether the long view still holds"))
    ahead = [one for one in found if today < one.day and one.day.year <= year + YEARS_REMINDED]
    return sorted(ahead, key=lambda one: (one.day, one.key))


@dataclass(frozen=True)
class Expecting:
    """A figure of a category to be set in a month, from which it carries on."""

    month: Month
    amount_minor: int


def with_aim(figures: Mapping[Month, int], rhythms: Mapping[Month, int], aim: PlannedAim) -> list[Expecting]:
    """The figures that make a category expect an aim's amount on top of what it expects: at its first month, at every figure set
    by hand while it lasts, and after its last month what would have stood there without it.

    `figures` are those set by hand, `rhythms` every how many months one comes, where it does not simply carry on. Raises:
    ValueError for figures that come by a rhythm (a bug: `fits` says it first).
    """
    if not fits(rhythms, aim):
        raise ValueError("a figure comes by a rhythm")
    set_ = [Expecting(aim.first, carried(figures, aim.first) + aim.monthly_minor)]
    for month, amount in sorted(figures.items()):
        if month > aim.first and (aim.last is None or month <= aim.last):
            set_.append(Expecting(month, amount + aim.monthly_minor))
    after = aim.last + 1 if aim.last is not None else None
    if after is not None and after not in figures:
        set_.append(Expecting(after, carried(figures, after)))
    return set_


def fits(rhythms: Mapping[Month, int], aim: PlannedAim) -> bool:
    """Whether an amount of every month can be put on top of a category's figures: none that counts then comes by a rhythm."""
    return not any(every != 1 and (aim.last is None or month <= aim.last) for month, every in rhythms.items())


def carried(figures: Mapping[Month, int], month: Month) -> int:
    """What stands in a month: the figure set in it or last before it, 0 if there is none."""
    return figures[max(known)] if (known := [one for one in figures if one <= month]) else 0
