"""Twelve months of the plan: what is expected in and out, what came, and what is left over, added up. In minor units.

A month that is over goes as it came, the present one and those ahead as expected; of what is built up, kept or given steadily it
goes what is put by for it.
left over(m)  = in(m) − out(m);  added up(m) = left over(first) + … + left over(m)
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate

from bolsa.core.budget.month import CategoryPlan, figure_of, filled_ahead
from bolsa.core.money import mean_of
from bolsa.core.months import Month, months_between

MONTHS = 12
CAUSES = 2  # categories that are named for a month that dips
MOST_FULL = 12  # full months that a usual amount is the mean of, at most


@dataclass(frozen=True)
class YearCell:
    """One category in one month. `actual_minor` is what came or was spent; None in months ahead, which have none yet.
    `aimed_minor` is what is put by for its aim, of the present month and those ahead, where nothing is expected by hand."""

    month: Month
    expected_minor: int
    expected_from: Month | None
    actual_minor: int | None
    is_over: bool
    aimed_minor: int = 0

    @property
    def is_hand_set(self) -> bool:
        return self.expected_from == self.month

    @property
    def goes_minor(self) -> int:
        """How the month goes: as it came once it is over, as expected before."""
        return self.actual_minor or 0 if self.is_over else self.expected_minor + self.aimed_minor


@dataclass(frozen=True)
class YearRow:
    """One category's twelve months. `usual_minor` is offered where nothing is expected of it; 0 where there is nothing to
    offer."""

    category_id: int
    cells: tuple[YearCell, ...]
    usual_minor: int

    @property
    def goes_minor(self) -> int:
        return sum(cell.goes_minor for cell in self.cells)

    @property
    def mean_minor(self) -> int | None:
        """The mean of the months that are over, None while none is."""
        came = [cell.goes_minor for cell in self.cells if cell.is_over]
        return mean_of(came) if came else None


@dataclass(frozen=True)
class Year:
    """Twelve months of every category. `outside` is what each month that is over spent without any plan; `without` the same, of
    the present month too."""

    months: tuple[Month, ...]
    present: Month
    incomes: tuple[YearRow, ...]
    spendings: tuple[YearRow, ...]
    outside: tuple[int, ...]
    without: tuple[int, ...]

    def row_of(self, category_id: int) -> YearRow:
        return next(row for row in (*self.incomes, *self.spendings) if row.category_id == category_id)

    @cached_property
    def came_in(self) -> tuple[int, ...]:
        """By month, as it goes."""
        return tuple(sum(row.cells[i].goes_minor for row in self.incomes) for i in range(len(self.months)))

    @cached_property
    def went_out(self) -> tuple[int, ...]:
        """By month, as it goes, spending without a plan included."""
        return tuple(sum(row.cells[i].goes_minor for row in self.spendings) + self.outside[i] for i in range(len(self.months)))

    def expected_of(self, side: str) -> tuple[int, ...]:
        """By month: what is expected to come "in", or to go "out"."""
        rows = self.incomes if side == "in" else self.spendings
        return tuple(sum(row.cells[i].expected_minor for row in rows) for i in range(len(self.months)))

    def actual_of(self, side: str) -> tuple[int, ...]:
        """By month: what came "in", or went "out", spending without a plan included; nothing in months ahead."""
        rows = self.incomes if side == "in" else self.spendings
        without = self.without if side == "out" else [0] * len(self.months)
        return tuple(sum(row.cells[i].actual_minor or 0 for row in rows) + without[i] for i in range(len(self.months)))

    @property
    def left_over(self) -> tuple[int, ...]:
        return tuple(came - went for came, went in zip(self.came_in, self.went_out, strict=True))

    @cached_property
    def added_up(self) -> tuple[int, ...]:
        """What is left over from the first month to each."""
        return tuple(accumulate(self.left_over))

    @property
    def dips(self) -> tuple[int, ...]:
        """The places of the months where it stops falling: lower than the month before (than nothing, for the first), and no
        higher than the one after."""
        before = (0, *self.added_up)
        after = (*self.added_up[1:], self.added_up[-1])
        return tuple(i for i, now in enumerate(self.added_up) if now < before[i] and now <= after[i])

    def causes_of(self, at: int) -> tuple[int, ...]:
        """The categories that make a month of the year fall, the strongest first, CAUSES at most and none of less than half of
        it: what goes out beyond its mean of these months, or comes in below it."""
        short = {row.category_id: row.cells[at].goes_minor * MONTHS - row.goes_minor for row in self.spendings}
        short |= {row.category_id: row.goes_minor - row.cells[at].goes_minor * MONTHS for row in self.incomes}
        most = max(short.values(), default=0)
        found = sorted((id_ for id_, amount in short.items() if amount > 0 and 2 * amount >= most), key=lambda id_: -short[id_])
        return tuple(found[:CAUSES])

    @property
    def has_outside(self) -> bool:
        return any(self.outside)

    @property
    def outside_minor(self) -> int:
        return sum(self.outside)

    def total_of(self, side: str) -> int:
        """All months together: what comes "in", or goes "out"."""
        return sum(self.came_in if side == "in" else self.went_out)

    @property
    def over_months(self) -> int:
        """How many of the months are over."""
        return sum(month < self.present for month in self.months)


def year_of(
    first: Month,
    present: Month,
    incomes: Sequence[CategoryPlan],
    spendings: Sequence[CategoryPlan],
    outside: Mapping[Month, int],
    full: Sequence[Month],
) -> Year:
    """The twelve months from the first on; `full` are the full months there are, for usual amounts."""
    months = tuple(months_between(first, first + (MONTHS - 1)))
    came, went = (tuple(_row(plan, months, present, full) for plan in plans) for plans in (incomes, spendings))
    rest = tuple(outside.get(month, 0) if month < present else 0 for month in months)
    without = tuple(outside.get(month, 0) if month <= present else 0 for month in months)
    return Year(months, present, came, went, rest, without)


def _row(plan: CategoryPlan, months: Sequence[Month], present: Month, full: Sequence[Month]) -> YearRow:
    figure, aimed = figure_of(plan), _aimed(plan, months[-1], present)
    cells = []
    for month in months:
        expected, since = figure(month)
        actual = plan.spent.get(month, 0) if month <= present else None
        cells.append(YearCell(month, expected, since, actual, month < present, aimed.get(month, 0)))
    is_empty = (
        months[-1] >= present and not plan.is_aimed and all(cell.expected_from is None for cell in cells if cell.month >= present)
    )
    usual = usual_amount([plan.spent.get(month, 0) for month in full[-MOST_FULL:]]) if is_empty else 0
    return YearRow(plan.category_id, tuple(cells), usual)


def _aimed(plan: CategoryPlan, last: Month, present: Month) -> dict[Month, int]:
    """What is put by for a plan's aim each month from the present on, if every need is filled."""
    if not plan.is_aimed or last < present:
        return {}
    return {row.month: row.need_minor for row in filled_ahead(plan, present, last - present + 1)}


def usual_amount(amounts: Sequence[int]) -> int:
    """The mean of what full months came to, not below 0.

    >>> usual_amount([1000, 1001, 1000]), usual_amount([1, 2]), usual_amount([-500, 100]), usual_amount([])
    (1000, 2, 0, 0)
    """
    return max(0, mean_of(amounts))
