"""The workings of the month's sums: of a group, of everyday accounts, of what categories hold, lack or are due."""

import sqlite3

from bolsa.core.budget.month import CategoryMonth
from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.budget.aims import list_goals
from bolsa.services.budget.budgeting import BudgetView, budget_view
from bolsa.services.budget.shifting import promised_from
from bolsa.services.clock import By
from bolsa.services.due.dues import dues_of_category
from bolsa.services.working_parts import Make, parse_key
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.house import household

FIGURES = {
    "need": "need",
    "placed": "placed",
    "spent": "spent",
    "left": "left",
}  # of a group, and the working a part of it opens to

LEFT = "Left in categories"


def _home(db: sqlite3.Connection, by: By, month: Month) -> tuple[str, BudgetView]:
    return household.get_household(db).home_currency, budget_view(db, by, month)


def group_sum(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A group's sum of need, placed, spent or left: need.3 is that of the group with the id 3."""
    figure, _, group_id = key.partition(".")
    home, view = _home(db, by, month)
    found = [(c, row) for group in view.groups for c, row in group.rows if c.group_id == parse_key(group_id)]
    if figure not in FIGURES or not found:
        raise NotFound("There is no such figure.")
    parts = [_of_category(c.name, row, figure, home) for c, row in found if getattr(row, f"{figure}_minor")]
    return total_of(f"{found[0][0].group}: {figure}", parts, Money(0, home))


def _of_category(name: str, row: CategoryMonth, figure: str, home: str) -> Working:
    return Working(name, Money(getattr(row, f"{figure}_minor"), home), ref=(FIGURES[figure], row.category_id))


def placed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What is placed for a category in a month: each placing, taking back and side of a shift."""
    home, view = _home(db, by, month)
    category = view.category_of(parse_key(key))
    parts = [
        Working(one.made_on.isoformat(), Money(one.amount_minor, home), note=one.reason)
        for one in budget.list_placings(db, category.id, month)
    ]
    return total_of(f"Placed for {category.name}", parts, Money(0, home))


def everyday(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What everyday accounts hold at the month's end."""
    home = household.get_household(db).home_currency
    parts = [
        Working(a.name, Money(accounts.sum_balance(db, a.id, month.last_day), home), ref=("account", a.id))
        for a in accounts.list_accounts(db)
        if a.everyday
    ]
    return total_of("In everyday accounts", parts, Money(0, home))


def lefts(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What categories have left together; turned about ("short"), what they are short."""
    home, view = _home(db, by, month)
    return total_of_lefts(view, "Short in categories", home, -1) if key == "short" else total_of_lefts(view, LEFT, home)


def total_of_lefts(view: BudgetView, words: str, home: str, sign: int = 1) -> Working:
    """What each category has left, or the opposite of it."""
    parts = [
        Working(view.category(row.category_id).name, Money(sign * row.left_minor, home), ref=("left", row.category_id))
        for row in view.budget.rows
        if row.left_minor
    ]
    return total_of(words, parts, Money(0, home))


def placed_later(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What was placed in later months, as known in this one."""
    home, view = _home(db, by, month)
    later = view.budget.placed_later_minor
    parts = [
        Working(f"{category.name}, {m}", Money(amount, home), ref=("left", category.id, m))
        for category, plan in view.plans
        for m, amount in sorted(plan.placed.items())
        if m > month
    ]
    other = later - sum(amount for _, plan in view.plans for m, amount in plan.placed.items() if m > month)
    if other:
        parts.append(Working("Placed only after this month", Money(other, home)))
    return total_of("Placed in later months", parts, Money(0, home))


def over(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """By how much categories are below zero."""
    home, view = _home(db, by, month)
    parts = [
        Working(view.category(row.category_id).name, Money(row.over_minor, home), ref=("left", row.category_id))
        for row in view.budget.rows
        if row.over_minor
    ]
    return total_of("Over", parts, Money(0, home))


def still_due(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What is still due of a category in a month, awaited or late."""
    home, view = _home(db, by, month)
    category = view.category_of(parse_key(key))
    parts = [
        Working(due.series.payee, Money(-due.expected_minor, home), note=f"{due.day}, {due.state}")
        for due in dues_of_category(db, by, category.id, month)
        if due.state in ("awaited", "late") and due.expected_minor < 0
    ]
    return total_of(f"Still due: {category.name}", parts, Money(0, home))


def goals_need(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What all goals need in a month."""
    home = household.get_household(db).home_currency
    parts = [
        Working(goal.category.name, Money(goal.row.need_minor, home), ref=("need", goal.category.id))
        for goal in list_goals(db, by, month)
        if goal.row.need_minor
    ]
    return total_of("Needed for goals", parts, Money(0, home))


def promised(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What can be taken back of what was promised and is not there."""
    home, view = _home(db, by, month)
    found = promised_from(db, by, view)
    parts = [Working(f"{category.name}, {m}", Money(amount, home), ref=("left", category.id, m)) for category, m, amount in found]
    return total_of("To be taken back", parts, Money(0, home))


WORKINGS: dict[str, Make] = {
    "group-sum": group_sum, "placed": placed, "everyday": everyday, "lefts": lefts, "placed-later": placed_later, "over": over,
    "still-due": still_due, "goals-need": goals_need, "promised": promised,
}  # fmt: skip
