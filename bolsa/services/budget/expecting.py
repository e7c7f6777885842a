"""Setting expected amounts: by the cell, a row at once, by a percentage, from a baseline, from a file."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from bolsa.core.budget.baseline import USUAL_MONTHS, BaselineRow, baseline, months_of
from bolsa.core.budget.cells import cells_for, raised_by
from bolsa.core.budget.expecting import Expectation, check_expectation
from bolsa.core.budget.month import ONCE, CategoryPlan
from bolsa.core.money import to_minor
from bolsa.core.months import Month, full_months
from bolsa.core.sorting.category import Category
from bolsa.core.units import Money
from bolsa.errors import InvalidInput
from bolsa.formats.year_table import read_year
from bolsa.services.budget.budgeting import list_plans, require_expectable
from bolsa.services.changes import Done, change, require_untouched
from bolsa.services.clock import By
from bolsa.store.budget import budget
from bolsa.store.house import household


def set_expected(
    db: sqlite3.Connection, by: By, category_id: int, month: Month, amount_minor: int | None, *, every: int = 1,
    seen: int | None = None,
) -> Done:  # fmt: skip
    """Sets what a category is expected to take (an income: to bring) from this month on, until the next figure set by hand, every
    so many months, or once; None clears the figure, and the former one carries on.

    Raises: InvalidInput, Conflict if the category's figures changed after the version seen.
    """
    with change(db, by) as done:
        category = require_expectable(db, category_id)
        home = household.get_household(db).home_currency
        words = "nothing" if amount_minor is None else str(Money(amount_minor, home))
        require_untouched(db, "expected", {"category_id": category_id}, seen, words)
        if amount_minor is None:
            done.sentence = f"Cleared {category.name} in {month}"
            budget.remove_expected(db, category_id, month)
        else:
            check_expectation(Expectation(amount_minor, every))
            rhythm = {ONCE: f"in {month} alone", 1: f"from {month}"}.get(every, f"every {every} months from {month}")
            done.sentence = f"Set what {category.name} expects {rhythm}"
            budget.put_expected(db, category_id, month, amount_minor, every)
    return done


def set_row(
    db: sqlite3.Connection, by: By, category_id: int, first: Month, amounts: Sequence[int | None], *, seen: int | None = None
) -> Done:
    """Makes the months from the first on expect these amounts (None: as it is), as one step; makes how many cells that took.

    Raises: InvalidInput, Conflict as `set_expected`.
    """
    with change(db, by) as done:
        category = require_expectable(db, category_id)
        require_untouched(db, "expected", {"category_id": category_id}, seen, "a row of amounts")
        changes = cells_for(plan_of(db, category_id), first, amounts)
        _write(db, category_id, changes)
        done.made = len(changes)
        done.sentence = f"Set a row of what {category.name} expects from {first}"
    return done


def _write(db: sqlite3.Connection, category_id: int, changes: Mapping[Month, int | None]) -> None:
    for month, amount in changes.items():
        if amount is None:
            budget.remove_expected(db, category_id, month)
        else:
            check_expectation(Expectation(amount))
            budget.put_expected(db, category_id, month, amount)


def change_by_percent(
    db: sqlite3.Connection, by: By, category_id: int, since: Month, percent: Decimal, *, seen: int | None = None
) -> Done:
    """Changes what a category is expected to take from a month on by a percentage. Raises: InvalidInput, Conflict."""
    with change(db, by) as done:
        category = require_expectable(db, category_id)
        require_untouched(db, "expected", {"category_id": category_id}, seen, f"{percent:+} %")
        for month, (amount, every) in raised_by(plan_of(db, category_id), since, percent).items():
            check_expectation(Expectation(amount, every))
            budget.put_expected(db, category_id, month, amount, every)
        done.sentence = f"Changed what {category.name} expects from {since} by {percent:+} %"
    return done


def plan_of(db: sqlite3.Connection, category_id: int) -> CategoryPlan:
    """What a category is expected to take, month by month, without anything else of its plan."""
    expected, every = budget.list_expected_of(db, category_id)
    return CategoryPlan(category_id, expected=expected, every=every)


@dataclass(frozen=True)
class Baseline:
    """What full months say of categories, beside what is expected of them: the months it is taken from, the month it begins, and
    a row a category."""

    way: str
    months: tuple[Month, ...]
    since: Month
    rows: tuple[tuple[Category, BaselineRow], ...]

    @property
    def changing(self) -> tuple[tuple[Category, BaselineRow], ...]:
        """The rows of which something else is expected now."""
        return tuple((category, row) for category, row in self.rows if row.amount_minor != row.present_minor)


def baseline_view(
    db: sqlite3.Connection, by: By, way: str = "mean", count: int = USUAL_MONTHS, since: Month | None = None,
    category_ids: Sequence[int] = (),
) -> Baseline:  # fmt: skip
    """What a baseline would set from a month on (the present one), for some categories or all. Raises: InvalidInput."""
    present = Month.of(by.today)
    since = since or present
    full = full_months(budget.find_began(db), present)
    months = months_of(full, count, way)
    incomes, spendings = list_plans(db)
    planned = [(c, plan) for c, plan in (*incomes, *spendings) if not category_ids or c.id in category_ids]
    rows = baseline([plan for _, plan in planned], months, way, since)
    return Baseline(way, tuple(months), since, tuple((c, row) for (c, _), row in zip(planned, rows, strict=True)))


def spent_in(db: sqlite3.Connection, category_id: int, months: Sequence[Month]) -> dict[Month, int]:
    """What a category took (an income: brought) in some months."""
    incomes, spendings = list_plans(db)
    plan = next(plan for category, plan in (*incomes, *spendings) if category.id == category_id)
    return {month: plan.spent.get(month, 0) for month in months}


def take_baseline(
    db: sqlite3.Connection, by: By, way: str, count: int, since: Month, category_ids: Sequence[int], *, seen: int | None = None
) -> Done:
    """Sets what a baseline says from a month on, for some categories or all, as one step; makes the baseline. A figure set later
    by hand stays. Raises: InvalidInput, Conflict if a figure changed after the version seen."""
    with change(db, by) as done:
        found = baseline_view(db, by, way, count, since, category_ids)
        for category, row in found.changing:
            require_untouched(db, "expected", {"category_id": category.id}, seen, "a baseline")
            budget.put_expected(db, category.id, since, row.amount_minor)
        done.made = found
        words = {"last": "the last month", "mean": "the mean", "median": "the median"}[way]
        over = "" if way == "last" else f" of {len(found.months)} full months"
        done.sentence = f"Took {words}{over} as a baseline from {since}"
    return done


def bring_year_in(db: sqlite3.Connection, by: By, content: bytes) -> Done:
    """Sets expected amounts from a CSV as the year's page writes it. All or nothing; makes (how many categories, how many cells).

    Raises: UnreadableFile, or InvalidInput naming the line and what is wrong.
    """
    lines = read_year(content)
    with change(db, by) as done:
        home = household.get_household(db).home_currency
        incomes, spendings = list_plans(db)
        by_name = {c.name.casefold(): plan for c, plan in (*incomes, *spendings)}
        touched = cells = 0
        for line in lines:
            plan = by_name.get(line.category.casefold())
            if plan is None:
                raise InvalidInput(f"Line {line.line}: there is no category “{line.category[:40]}” in the budget.", field="file")
            changes: dict[Month, int | None] = {}
            for month in sorted(line.amounts):  # the months may have gaps
                changes |= cells_for(_with(plan, changes), month, [to_minor(line.amounts[month], home)])
            try:
                _write(db, plan.category_id, changes)
            except InvalidInput as error:
                raise InvalidInput(f"Line {line.line}: {error.sentence}", field="file") from error
            touched, cells = touched + bool(changes), cells + len(changes)
        done.made = touched, cells
        done.sentence = f"Brought in what {touched} categories expect"
    return done


def _with(plan: CategoryPlan, changes: Mapping[Month, int | None]) -> CategoryPlan:
    expected = {**plan.expected, **{m: a for m, a in changes.items() if a is not None}}
    expected = {m: a for m, a in expected.items() if changes.get(m, 0) is not None}
    every = {m: n for m, n in plan.every.items() if m not in changes}
    return CategoryPlan(plan.category_id, expected=expected, every=every)
