"""The year of the budget: twelve months of every category, and the usual amounts that fill its empty rows."""

import sqlite3
from dataclasses import dataclass

from bolsa.core.budget.month import CategoryPlan
from bolsa.core.budget.year import MONTHS, MOST_FULL, Year, YearRow, year_of
from bolsa.core.due.rhythm import extra_months
from bolsa.core.months import Month, full_months
from bolsa.core.sorting.category import Category
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.budget import budget
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

    @property
    def offered(self) -> tuple[tuple[Category, YearRow], ...]:
        """The empty rows, with a usual amount to take."""
        return tuple((category, row) for group in self.groups for category, row in group.rows if row.usual_minor)


def year_view(db: sqlite3.Connection, by: By, first: Month) -> YearView:
    """Twelve months of the budget from the first on."""
    present = Month.of(by.today)
    with reading(db):
        incomes, spendings = budget.list_expectations(db, min(first, present + -MOST_FULL))
        outside = budget.sum_outside_spending(db, first, first + (MONTHS - 1))
        full = full_months(budget.find_began(db), present)
        kept = series.list_series(db)
    year = year_of(first, present, [plan for _, plan in incomes], [plan for _, plan in spendings], outside, full)
    extras = []
    for one in kept:
        found = extra_months(one.rhythm, year.months)
        months = [m for m in found if one.ended_on is None or m.last_day <= one.ended_on]
        for times in sorted({found[m] for m in months}):
            extras.append(Extra(one.payee, times, tuple(m for m in months if found[m] == times)))
    return YearView(year, _groups(year, incomes, spendings), tuple(extras), len(full))


def _groups(
    year: Year, incomes: list[tuple[Category, CategoryPlan]], spendings: list[tuple[Category, CategoryPlan]]
) -> tuple[YearGroup, ...]:
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
