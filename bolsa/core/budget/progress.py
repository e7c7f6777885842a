"""How far an aim that builds up or is kept has come: what is there, what should be by now, and when it is reached at this
pace."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan, held_before, walk
from bolsa.core.months import Month

MOST_REACHED = 1_200  # months until it is reached, at most: beyond a century nobody can say when
PACE_OVER = 6  # months whose placings make the pace, at most


@dataclass(frozen=True)
class Progress:
    """At the end of a month, in minor units: what there is towards the aim, from where it began and what it is to be; what should
    be there by then, None where nothing says so; by when it is to be there, and when it is at the present pace (None: never)."""

    there_minor: int
    from_minor: int
    amount_minor: int
    should_minor: int | None
    by: Month | None
    pace_minor: int
    reached_in: Month | None

    @property
    def is_reached(self) -> bool:
        return self.there_minor >= self.amount_minor

    @property
    def is_on_course(self) -> bool:
        return self.should_minor is None or self.there_minor >= min(self.should_minor, self.amount_minor)

    @property
    def lacks_minor(self) -> int:
        """What is missing on what should be there by now."""
        return 0 if self.should_minor is None else max(0, self.should_minor - self.there_minor)

    def share(self, amount_minor: int) -> float:
        """How much of the whole aim an amount is, from 0 to 1; the way of a debt begins where it stood."""
        begins = min(0, self.from_minor)
        whole = self.amount_minor - begins
        if whole <= 0:
            return 1.0 if amount_minor >= self.amount_minor else 0.0
        return min(1.0, max(0.0, (amount_minor - begins) / whole))


def progress_of(aim: Aim, month: Month, there_minor: int, from_minor: int, placed: Sequence[int]) -> Progress:
    """The progress at a month's end. `from_minor` is what was there when the aim, or this time of it, began; `placed` is what was
    placed in the months until this one, this one last: their mean is the pace, without this one while nothing is placed in it.

    Half of the way from 0 to 1,200 in a year, where five twelfths should have been gone:

    >>> aim = Aim("build", 1200, by=Month(2026, 12), since=Month(2026, 1))
    >>> found = progress_of(aim, Month(2026, 5), 600, 0, [120] * 5)
    >>> found.should_minor, found.pace_minor, found.reached_in
    (500, 120, Month(2026, 10))
    """
    due = aim.due_after(month) if aim.kind == "build" else None
    begins = aim.begins(month) or month
    pace = _pace(placed)
    missing = aim.amount_minor - there_minor
    months = -(-missing // pace) if pace > 0 else MOST_REACHED + 1
    reached = month if missing <= 0 else (month + months if months <= MOST_REACHED else None)
    start = from_minor if aim.kind == "build" and from_minor < aim.amount_minor else 0
    return Progress(there_minor, start, aim.amount_minor, _should(aim, month, begins, due, start), due, pace, reached)


def progress_in(plan: CategoryPlan, month: Month) -> Progress | None:
    """How far a plan's aim has come at the end of a month; None where the aim is about the month alone."""
    if not plan.aim.grows:
        return None
    begins = plan.aim.begins(month) or month
    first = min(begins, month + (1 - PACE_OVER))
    course = list(islice(walk(plan, first), month - first + 1))
    start = next((row for row in course if row.month == begins), course[-1])
    placed = [row.placed_minor for row in course if row.month >= begins] or [course[-1].placed_minor]
    there = course[-1].left_minor + held_before(plan)(month + 1)
    return progress_of(plan.aim, month, there, start.carried_minor + start.held_minor, placed)


def _should(aim: Aim, month: Month, begins: Month, due: Month | None, from_minor: int) -> int | None:
    gone = max(0, month - begins + 1)
    if aim.kind == "keep":
        return aim.amount_minor
    if aim.each_minor is not None:
        return min(aim.amount_minor, from_minor + aim.each_minor * gone)
    if due is None:
        return None
    months = max(1, due - begins + 1)
    return from_minor + (aim.amount_minor - from_minor) * min(gone, months) // months


def _pace(placed: Sequence[int]) -> int:
    counted = list(placed[-PACE_OVER:])
    if counted and counted[-1] <= 0:
        counted.pop()
    return sum(counted) // len(counted) if counted else 0
