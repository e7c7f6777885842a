"""The year of the budget: twelve months of every category, and the usual amounts that fill its empty rows."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from bolsa.core.budget.trial import Trial, tried
from bolsa.core.budget.year import MONTHS, Year, YearRow, year_of
from bolsa.core.due.rhythm import extra_months
from bolsa.core.money import mean_of
from bolsa.core.months import Month, full_months
from bolsa.core.sorting.category import Category
from bolsa.services.budget.budgeting import list_plans
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.remembering import remembered
from bolsa.store.budget import budget
from bolsa.store.budget.budget import Planned
from bolsa.store.connection import reading
from bolsa.store.due import series


@dataclass(frozen=True)
class YearGroup:
    """One group's categories with their twelve months; `position` is its place among the view's groups."""

    name: str
    position: int
    is_income: bool
    rows: tuple[tuple[Category, YearRow], ...]

    @property
    def by_month(self) -> tuple[int, ...]:
        """The group's sums, as each month goes."""
        return tuple(sum(row.cells[i].goes_minor for _, row in self.rows) for i in range(MONTHS))

    @property
    def goes_minor(self) -> int:
        return sum(self.by_month)

    @property
    def expected(self) -> tuple[int, ...]:
        """By month, the sums of what is expected, and put by for aims."""
        return tuple(sum(row.cells[i].expected_minor + row.cells[i].aimed_minor for _, row in self.rows) for i in range(MONTHS))

    @property
    def actual(self) -> tuple[int | None, ...]:
        """By month, the sums of what came or was spent; None in months ahead."""
        return tuple(
            None if self.rows[0][1].cells[i].actual_minor is None else sum(row.cells[i].actual_minor or 0 for _, row in self.rows)
            for i in range(MONTHS)
        )

    @property
    def mean_minor(self) -> int | None:
        """The mean of the months that are over, None while none is."""
        over = [amount for i, amount in enumerate(self.by_month) if self.rows[0][1].cells[i].is_over]
        return mean_of(over) if over else None


@dataclass(frozen=True)
class Extra:
    """A series that comes more often than usual in some months: how often, in which."""

    payee: str
    times: int
    months: tuple[Month, ...]


@dataclass(frozen=True)
class YearView:
    """Everything the page of the year shows, from one consistent reading."""

    year: Year
    groups: tuple[YearGroup, ...]
    extras: tuple[Extra, ...]
    full_months: int
    trial: Trial | None = None
    kept: Year | None = None  # beside a trial: the year as it is kept

    @property
    def causes(self) -> tuple[tuple[Month, tuple[str, ...]], ...]:
        """The months that dip from the present one on, each with the categories that make it, by name."""
        names = {category.id: category.name for group in self.groups for category, _ in group.rows}
        return tuple(
            (self.year.months[at], tuple(names[id_] for id_ in self.year.causes_of(at)))
            for at in self.year.dips if self.year.months[at] >= self.year.present
        )  # fmt: skip

    @property
    def offered(self) -> tuple[tuple[Category, YearRow], ...]:
        """The empty rows, with a usual amount to take."""
        return tuple((category, row) for group in self.groups for category, row in group.rows if row.usual_minor)


def year_view(db: sqlite3.Connection, by: By, first: Month, trial: Trial | None = None) -> YearView:
    """Twelve months of the budget from the first on; with a trial as it would have them, beside the kept ones."""
    asked = (first, by.today, trial.id if trial else None)
    return remembered(db, "year", asked, lambda: _year_view(db, by, first, trial))


def _year_view(db: sqlite3.Connection, by: By, first: Month, trial: Trial | None) -> YearView:
    present = Month.of(by.today)
    with reading(db):
        incomes, spendings = list_plans(db)
        outside = budget.sum_outside_spending(db, first, first + (MONTHS - 1))
        full = full_months(budget.find_began(db), present)
        kept = series.list_series(db)
    kept_year = _year(first, present, incomes, spendings, outside, full)
    if trial:
        incomes, spendings = ([(c, tried(plan, trial)) for c, plan in planned] for planned in (incomes, spendings))
    year = _year(first, present, incomes, spendings, outside, full) if trial else kept_year
    extras = []
    for one in kept:
        found = extra_months(one.rhythm, year.months)
        months = [m for m in found if one.ended_on is None or m.last_day <= one.ended_on]
        for times in sorted({found[m] for m in months}):
            extras.append(Extra(one.payee, times, tuple(m for m in months if found[m] == times)))
    groups = _groups(year, incomes, spendings)
    return YearView(year, groups, tuple(extras), len(full), trial, kept_year if trial else None)


def _year(
    first: Month, present: Month, incomes: Planned, spendings: Planned, outside: Mapping[Month, int], full: Sequence[Month]
) -> Year:
    return year_of(first, present, [plan for _, plan in incomes], [plan for _, plan in spendings], outside, full)


def _groups(year: Year, incomes: Planned, spendings: Planned) -> tuple[YearGroup, ...]:
    groups: list[YearGroup] = []
    for is_income, planned in ((True, incomes), (False, spendings)):
        for name in dict.fromkeys(c.group for c, _ in planned):
            rows = tuple((c, year.row_of(c.id)) for c, _ in planned if c.group == name)
            groups.append(YearGroup(name, len(groups), is_income, rows))
    return tuple(groups)


def take_usual(db: sqlite3.Connection, by: By, first: Month) -> Done:
    """Sets the usual amount of every empty row of the year, from the present month on, or from the year's first if that is ahead;
    makes how many."""
    with change(db, by) as done:
        offered = year_view(db, by, first).offered
        since = max(first, Month.of(by.today))
        done.made = len(offered)
        done.sentence = f"Took the usual amounts of {len(offered)} categories from {since}"
        for category, row in offered:
            budget.put_expected(db, category.id, since, row.usual_minor)
    return done
