"""A closed month: how it stood when it was closed, and what has changed since."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.budget.month import CategoryMonth
from bolsa.core.months import Month


@dataclass(frozen=True)
class Stood:
    """What a category had placed, spent and left, in minor units."""

    placed_minor: int
    spent_minor: int
    left_minor: int


@dataclass(frozen=True)
class ClosedMonth:
    """A month's figures by category, and what was unplaced, as they stood when it was closed; `left_open` says what of the
    checklist was open then."""

    id: int
    month: Month
    closed_on: date
    member: str
    unplaced_minor: int
    left_open: str
    stood: Mapping[int, Stood]


@dataclass(frozen=True)
class Since:
    """One figure of a closed month that is another now: the category, which of the three it is, then and now."""

    category_id: int
    figure: str
    then_minor: int
    now_minor: int


FIGURES = ("placed", "spent", "left")
NOTHING = Stood(0, 0, 0)


def changed_since(closed: ClosedMonth, rows: Sequence[CategoryMonth]) -> list[Since]:
    """What is different now from when the month was closed, in the rows' order; a left that only follows from what was placed or
    spent in the same month is not named beside it."""
    found = []
    for row in rows:
        then = closed.stood.get(row.category_id, NOTHING)
        pairs = {name: (getattr(then, f"{name}_minor"), getattr(row, f"{name}_minor")) for name in FIGURES}
        moved = (pairs["placed"][1] - pairs["placed"][0]) - (pairs["spent"][1] - pairs["spent"][0])
        if pairs["left"][1] - pairs["left"][0] == moved:
            del pairs["left"]
        found += [Since(row.category_id, name, was, now) for name, (was, now) in pairs.items() if was != now]
    return found
