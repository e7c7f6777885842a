"""The workings of the year's figures: rows, groups, months, what is left over. Each reads the view the page shows."""

import sqlite3

from bolsa.core.budget.year import MONTHS, YearCell
from bolsa.core.months import Month
from bolsa.core.sorting.category import Category
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.budget.expecting import baseline_view, spent_in
from bolsa.services.budget.year import YearGroup, YearView, year_view
from bolsa.services.clock import By
from bolsa.services.working_parts import Make, parse_key
from bolsa.store.budget import budget, trials
from bolsa.store.house import household
from bolsa.store.sorting import categories


def year_row(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A category's twelve months, as they go; the key is the first month and the category: 2026-01.7."""
    view, at = _year(db, by, key)
    home, category = household.get_household(db).home_currency, categories.get_category(db, at)
    parts = [_year_cell(cell, category, home) for cell in _year_row(view, at)]
    return total_of(f"{category.name}, {_span(view)}", [part for part in parts if part.figure], Money(0, home))


def year_group(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A group in one month or the whole year: 2026-01.3.12 is the group at place 3 in all twelve months, 2026-01.3.0 in the
    first."""
    first, _, place = key.rpartition(".")
    view, at = _year(db, by, first)
    if not 0 <= at < len(view.groups):
        raise NotFound("There is no such group.")
    home, group = household.get_household(db).home_currency, view.groups[at]
    months = _months_at(view, parse_key(place))
    parts = [
        total_of(category.name, [_year_cell(row.cells[i], category, home) for i in months], Money(0, home))
        for category, row in group.rows
    ]
    return total_of(f"{group.name}, {_span(view, months)}", [part for part in parts if part.figure], Money(0, home))


def year_left(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What is left over in a month of the year, what is expected or came in less what goes out: 2026-01.0 is the first month."""
    view, at = _year(db, by, key)
    home = household.get_household(db).home_currency
    return _left_over(view, _months_at(view, at)[0], home)


def year_added(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What is left over from the first month to another, added up: 2026-01.11 is the whole year."""
    view, at = _year(db, by, key)
    home = household.get_household(db).home_currency
    last = _months_at(view, at)[0]
    parts = [_left_over(view, i, home) for i in range(last + 1)]
    return total_of(f"Left over, {_span(view, range(last + 1))}", parts, Money(0, home))


def year_sum(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What comes in or goes out in a month or the year: 2026-01.in.3, 2026-01.out.12."""
    first, _, place = key.rpartition(".")
    first, _, side = first.rpartition(".")
    view, _at = _year(db, by, f"{first}.0")
    home, months = household.get_household(db).home_currency, _months_at(view, parse_key(place))
    is_in = side == "in"
    parts = [
        Working(group.name, Money(sum(group.by_month[i] for i in months), home))
        for group in view.groups
        if group.is_income == is_in
    ]
    if not is_in:
        parts.append(Working("Without a plan", Money(sum(view.year.outside[i] for i in months), home)))
    return total_of(f"{'In' if is_in else 'Out'}, {_span(view, months)}", [part for part in parts if part.figure], Money(0, home))


def year_outside(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What was spent without a plan in a month that is over, by category."""
    home = household.get_household(db).home_currency
    parts = [
        Working(row["name"], Money(row["amount_minor"], home), ref=("spent", row["id"], month))
        for row in budget.list_outside_spending(db, month)
    ]
    return total_of("Without a plan", parts, Money(0, home))


def year_mean(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The mean of the months that are over, of a category (2026-01.c.7) or of the group at a place (2026-01.g.3)."""
    rest, _, number = key.rpartition(".")
    first, _, kind = rest.rpartition(".")
    view, at = _year(db, by, f"{first}.{number}")
    home = household.get_household(db).home_currency
    if kind == "g":
        if not 0 <= at < len(view.groups):
            raise NotFound("There is no such group.")
        name, mean, amounts = view.groups[at].name, view.groups[at].mean_minor, view.groups[at].by_month
    else:
        cells = _year_row(view, at)
        name, mean = categories.get_category(db, at).name, view.year.row_of(at).mean_minor
        amounts = tuple(cell.goes_minor for cell in cells)
    over = view.year.over_months
    parts = [Working(str(view.year.months[i]), Money(amounts[i], home)) for i in range(over)]
    parts.append(Working(f"Divided by {over} months", Money((mean or 0) - sum(amounts[:over]), home)))
    return total_of(f"Mean of {name}", parts, Money(0, home))


def baseline_row(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a baseline says of a category: mean.12.7 is the mean of its last twelve full months."""
    way, _, rest = key.partition(".")
    count, _, category_id = rest.partition(".")
    home, category = household.get_household(db).home_currency, categories.get_category(db, parse_key(category_id))
    found = baseline_view(db, by, way, parse_key(count), None, [category.id])
    if not found.rows:
        raise NotFound("That category is not in the budget.")
    amount = found.rows[0][1].amount_minor
    spent = spent_in(db, category.id, found.months)
    if way == "median":
        row = ", ".join(str(Money(one, home)) for one in sorted(spent.values()))
        return Working(f"Median of {category.name}", Money(amount, home), note=f"in the middle of {row}")
    parts = [Working(str(m), Money(one, home), ref=("spent", category.id, m)) for m, one in spent.items()]
    if len(spent) > 1 or amount != sum(spent.values()):
        words = f"Divided by {len(spent)} months" if len(spent) > 1 else "Not below nothing"
        parts.append(Working(words, Money(amount - sum(spent.values()), home)))
    return total_of(f"Baseline of {category.name}", parts, Money(0, home))


def _left_over(view: YearView, at: int, home: str) -> Working:
    parts = [part for group in view.groups if (part := _group_at(group, at, home)).parts]
    month = view.year.months[at]
    if view.year.outside[at]:
        spent = Money(-view.year.outside[at], home)
        parts.append(Working("Without a plan", spent, ref=("year-outside", "all", month)))
    note = "as it came" if month < view.year.present else "as expected"
    return total_of(f"Left over in {month}", parts, Money(0, home), note=note)


def _group_at(group: YearGroup, at: int, home: str) -> Working:
    """A group's categories in one month: what comes in above zero, what goes out below."""
    sign = 1 if group.is_income else -1
    figures = [(category.name, sign * row.cells[at].goes_minor) for category, row in group.rows]
    return total_of(group.name, [Working(name, Money(amount, home)) for name, amount in figures if amount], Money(0, home))


def _year(db: sqlite3.Connection, by: By, key: str) -> tuple[YearView, int]:
    """The year a key begins with, as a trial would have it where one is named (2026-01~3), and the number it ends with."""
    first, _, number = key.rpartition(".")
    first, _, trial_id = first.partition("~")
    trial = trials.get_trial(db, parse_key(trial_id)) if trial_id else None
    return year_view(db, by, Month.parse(first), trial), parse_key(number)


def _months_at(view: YearView, place: int) -> range:
    """One of the year's months, or all of them."""
    if not 0 <= place <= MONTHS:
        raise NotFound("The year has no such month.")
    return range(MONTHS) if place == MONTHS else range(place, place + 1)


def _year_row(view: YearView, category_id: int) -> tuple[YearCell, ...]:
    found = [row for group in view.groups for category, row in group.rows if category.id == category_id]
    if not found:
        raise NotFound("That category is not in the budget.")
    return found[0].cells


def _year_cell(cell: YearCell, category: Category, home: str) -> Working:
    if cell.is_over:
        came = ("spent", category.id, cell.month)
        return Working(f"{category.name}, {cell.month}", Money(cell.goes_minor, home), note="as it came", ref=came)
    if cell.aimed_minor:
        return Working(f"{category.name}, {cell.month}", Money(cell.goes_minor, home), note="put by for its aim")
    since = f"set in {cell.expected_from}" if cell.expected_from else "never set"
    return Working(f"{category.name}, {cell.month}", Money(cell.goes_minor, home), note=f"as expected, {since}")


def _span(view: YearView, months: range = range(MONTHS)) -> str:
    first, last = view.year.months[months[0]], view.year.months[months[-1]]
    return f"{first}" if first == last else f"{first} to {last}"


WORKINGS: dict[str, Make] = {
    "year-row": year_row, "year-group": year_group, "year-left": year_left, "year-added": year_added, "year-sum": year_sum,
    "year-outside": year_outside, "year-mean": year_mean, "baseline": baseline_row,
}  # fmt: skip
