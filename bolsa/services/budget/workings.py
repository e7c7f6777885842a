"""The workings of the budget's figures: unplaced, still needed, need, left, spent. Each reads the view the page shows."""

import sqlite3

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryMonth
from bolsa.core.months import Month
from bolsa.core.sorting.category import Category
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.budget.budgeting import BudgetView, budget_view
from bolsa.services.budget.sum_workings import LEFT, everyday, total_of_lefts
from bolsa.services.clock import By
from bolsa.services.working_parts import MOST_ENTRIES, Make, entry_parts, parse_key, rest_part, split_key
from bolsa.store.budget import budget
from bolsa.store.house import household
from bolsa.store.sorting import categories


def unplaced(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The money in everyday accounts that no category holds."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    nothing = Money(0, home)
    parts = [everyday(db, by, "all", month), total_of_lefts(view, LEFT, home, -1)]
    if view.budget.placed_later_minor:
        parts.append(Working("Placed in later months", Money(-view.budget.placed_later_minor, home)))
    return total_of("Unplaced", parts, nothing)


def still_needed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the categories still need this month: needs less what is placed, where that is above zero."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    parts = [
        Working(
            category.name, Money(row.still_needs_minor, home), ref=("left", category.id),
            note=f"need {Money(row.need_minor, home)}, placed {Money(row.placed_minor, home)}",
        )
        for group in view.groups for category, row in group.rows if row.still_needs_minor
    ]  # fmt: skip
    return total_of("Still needed", parts, Money(0, home))


def need(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A category's need: the parts its aim makes it of."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    row, category = _row(view, key)
    found, aim = row.need, view.plan(category.id).aim
    parts = [_aimed(aim, row, home)]
    if found.there_part_minor:
        held = f", {Money(row.held_minor, home)} in its accounts" if row.held_minor else ""
        note = f"{Money(row.carried_minor, home)} carried in" if row.carried_minor >= 0 else "the minus carried in"
        parts.append(
            Working(
                "Already there" if found.there_part_minor < 0 else "Missing besides",
                Money(found.there_part_minor, home),
                note=note + held,
            )
        )
    if found.later_part_minor:
        over = f"spread over {found.months} months" if found.months > 1 else "so much a month"
        parts.append(Working("Left to later months", Money(found.later_part_minor, home), note=over))
    return total_of(f"Need of {category.name}", parts, Money(0, home))


def _aimed(aim: Aim, row: CategoryMonth, home: str) -> Working:
    """What a need begins with: what is expected, or what the aim asks for in all."""
    found = row.need
    since = "never set" if row.expected_from is None else f"set in {row.expected_from}"
    if aim.kind == "spread" and found.months > 1:
        return Working(f"Expected until {row.month + (found.months - 1)}", Money(found.aimed_minor, home), note=since)
    words = {"build": "To be built up", "keep": "To be kept", "steady": "Steady, every month"}.get(aim.kind)
    if words is None:
        return Working("Expected this month", Money(found.aimed_minor, home), note=since)
    due = aim.due_after(row.month)
    return Working(words, Money(found.aimed_minor, home), note=f"until {due}" if due else "")


def left(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a category holds: carried in, each placing, each entry."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    row, category = _row(view, key)
    names = {c.id: c.name for c, _ in view.plans}
    parts = [Working(f"Carried in from {month + -1}", Money(row.carried_minor, home))]
    for placing in budget.list_placings(db, category.id, month):
        verb = "Placed" if placing.amount_minor > 0 else "Taken back"
        if placing.other_id:
            verb = f"Shifted {'from' if placing.amount_minor > 0 else 'to'} {names.get(placing.other_id, 'another')}"
        note = " · ".join(filter(None, (placing.made_on.isoformat(), placing.reason)))
        parts.append(Working(verb, Money(placing.amount_minor, home), note=note))
    parts += _spent_parts(db, category.id, month, home, sign=-1)
    return total_of(f"Left in {category.name}", parts, Money(0, home), ref=("left", category.id))


def spent(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The entries behind what a category spent (an income: brought) in a month; a key such as "7.150" begins after so many."""
    category_id, offset = split_key(key)
    category, home = categories.get_category(db, category_id), household.get_household(db).home_currency
    parts = _spent_parts(db, category.id, month, home, sign=-1 if category.type == "income" else 1, offset=offset)
    further = " (further entries)" if offset else ""
    return total_of(f"{category.name} in {month}{further}", parts, Money(0, home))


def _spent_parts(
    db: sqlite3.Connection, category_id: int, month: Month, home: str, *, sign: int = 1, offset: int = 0
) -> list[Working]:
    """The entries of a category's month after the first so many; beyond the most that are listed, all the rest in one part."""
    days = (month.first_day, month.last_day)
    rows = categories.list_category_lines(db, category_id, *days, most=MOST_ENTRIES, offset=offset)
    parts = entry_parts(rows, home, sign)
    if len(rows) < MOST_ENTRIES:
        return parts
    lines, amount = categories.count_category_lines(db, category_id, *days)
    before = sum(row["amount_minor"] for row in categories.list_category_lines(db, category_id, *days, most=offset))
    shown = sum(row["amount_minor"] for row in rows)
    rest = sign * (amount - before - shown)
    return parts + rest_part(lines - offset - len(rows), rest, home, ("spent", f"{category_id}.{offset + len(rows)}"))


def _row(view: BudgetView, key: str) -> tuple[CategoryMonth, Category]:
    row = next((r for r in view.budget.rows if r.category_id == parse_key(key)), None)
    if row is None:
        raise NotFound("That category is not in the budget.")
    return row, view.category(row.category_id)


WORKINGS: dict[str, Make] = {
    "unplaced": unplaced, "still-needed": still_needed, "need": need, "left": left, "spent": spent,
}  # fmt: skip
