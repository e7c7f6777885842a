"""Placing money for categories and taking it back: by hand, or for many at once in one of the ways there are."""

import sqlite3
from datetime import date

from bolsa.core.budget.baseline import USUAL_MONTHS, months_of
from bolsa.core.budget.filling import Filling, fill_up, share_of_paydays, small_change
from bolsa.core.budget.month import walk
from bolsa.core.budget.placing import Placing
from bolsa.core.budget.year import usual_amount
from bolsa.core.months import Month, full_months, months_between
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.budget.budgeting import BudgetView, budget_view, placed_later, require_planned
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.house.calendars import holidays_of
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.due import series
from bolsa.store.house import household

WAYS = {
    "needs": "what they need",
    "before": "what they were given last month",
    "usual": "what they usually take",
    "payday": "their share by this payday",
}


def place(db: sqlite3.Connection, by: By, category_id: int, month: Month, amount_minor: int) -> Done:
    """Places money for a category in a month, or takes it back (less than 0).

    Raises: InvalidInput for nothing, and for taking back more than was placed in that month.
    """
    with change(db, by) as done:
        category = require_planned(db, category_id)
        if not amount_minor:
            raise InvalidInput("Say how much.", field="place")
        placed = sum(p.amount_minor for p in budget.list_placings(db, category_id, month))
        if amount_minor < 0 and placed + amount_minor < 0:
            raise InvalidInput(f"Less than that was placed in {month}; shift what was carried in instead.", field="place")
        _require_there(db, by, month, amount_minor)
        verb = "Placed money for" if amount_minor > 0 else "Took back money from"
        done.sentence = f"{verb} {category.name}"
        budget.insert_placings(db, [Placing(category_id, month, amount_minor, by.today)])
    return done


def _require_there(db: sqlite3.Connection, by: By, month: Month, amount_minor: int) -> None:
    """Nothing, if the money to place is there. Raises: InvalidInput saying how much is."""
    there = there_to_place(db, by, budget_view(db, by, month)) if amount_minor > 0 else 0
    if amount_minor > 0 and amount_minor > max(0, there):
        is_there = Money(max(0, there), household.get_household(db).home_currency)
        raise InvalidInput(f"{is_there} is there to be placed in {month}, and no more.", field="place")


def set_placed(
    db: sqlite3.Connection, by: By, category_id: int, month: Month, amount_minor: int, *, seen_minor: int | None = None
) -> Done:
    """Makes what is placed for a category in a month that amount; no step, if it is so already.

    Raises: Conflict if it is not any more what the page had shown (`seen_minor`) when it was typed.
    """
    with change(db, by) as done:
        if amount_minor < 0:
            raise InvalidInput("What is placed is zero or more.", field="placed")
        placed = sum(p.amount_minor for p in budget.list_placings(db, category_id, month))
        if seen_minor is not None and placed != seen_minor:
            home = household.get_household(db).home_currency
            now, typed = Money(placed, home), Money(amount_minor, home)
            raise Conflict(f"{now} is placed there by now; you typed {typed}. Look again, then decide.")
        if placed != amount_minor:
            place(db, by, category_id, month, amount_minor - placed)
    return done


def there_to_place(db: sqlite3.Connection, by: By, view: BudgetView) -> int:
    """The money that can be placed in a view's month: never more than is unplaced in it, in any month since until the present
    one, and, for a month ahead, in the present one, where what is to come is not there yet. Below zero where too much is
    promised."""
    month, present = view.budget.month, Month.of(by.today)
    plans = [plan for _, plan in view.plans]
    first, last = min(month, present), max(month, present)
    courses = [walk(plan, first) for plan in plans]
    free = []
    for one in months_between(first, last):
        lefts = sum(next(course).left_minor for course in courses)
        if one <= present or one == month:
            free.append(accounts.sum_everyday_balance(db, one) - lefts - placed_later(db, plans, one, present))
    return min(free)


def filling_of(
    db: sqlite3.Connection, by: By, view: BudgetView, category_ids: list[int], way: str = "needs", months: int = USUAL_MONTHS
) -> Filling:
    """What filling these categories (all, when none is named) would do, in order of priority: up to what one of WAYS wants; the
    usual is the mean of so many full months.

    Raises: InvalidInput for another way, or one that knows nothing yet.
    """
    wanted = set(category_ids) or {category.id for category, _ in view.plans}
    rows = [row for row in view.rows_by_priority if row.category_id in wanted]
    return fill_up(rows, _wanted(db, by, view, way, months), there_to_place(db, by, view))


def _wanted(db: sqlite3.Connection, by: By, view: BudgetView, way: str, months: int) -> dict[int, int]:
    """By category: how much is to be placed in the view's month, in all."""
    month = view.budget.month
    if way == "needs":
        return {row.category_id: row.need_minor for row in view.budget.rows}
    if way == "before":
        return {plan.category_id: plan.placed.get(month + -1, 0) for _, plan in view.plans}
    if way == "payday":
        return share_of_paydays(view.budget.rows, paydays_of(db, month), by.today)
    if way != "usual":
        raise InvalidInput(f"Money is placed in one of these ways: {', '.join(WAYS)}.", field="way")
    full = months_of(full_months(budget.find_began(db), Month.of(by.today)), months, "mean")
    return {plan.category_id: usual_amount([plan.spent.get(m, 0) for m in full]) for _, plan in view.plans}


def paydays_of(db: sqlite3.Connection, month: Month) -> list[date]:
    """The days of a month on which a kept series brings money in."""
    is_holiday = holidays_of(db)
    days = {
        day for one in series.list_series(db)
        if one.amount_minor > 0 and (one.ended_on is None or one.ended_on >= month.first_day)
        for day in one.rhythm.days(month.first_day, month.last_day, is_holiday)
    }  # fmt: skip
    return sorted(days)


def fill(
    db: sqlite3.Connection, by: By, month: Month, category_ids: list[int], way: str = "needs", months: int = USUAL_MONTHS
) -> Done:
    """Fills these categories in one of WAYS as far as the money goes; makes what was done."""
    with change(db, by) as done:
        filling = filling_of(db, by, budget_view(db, by, month), category_ids, way, months)
        done.made = filling
        count = len(filling.amounts)
        words = {"needs": counted(count, "need")}.get(way, f"{count} categories to {WAYS[way]}")
        done.sentence = f"Filled {words} {'of' if way == 'needs' else 'in'} {month}"
        budget.insert_placings(db, [Placing(id_, month, amount, by.today) for id_, amount in filling.amounts.items()])
    return done


def small_change_for(db: sqlite3.Connection, view: BudgetView, into_id: int) -> dict[int, int]:
    """By category: the small change that could be swept into one of them."""
    rows = [row for row in view.rows_by_priority if row.category_id != into_id]
    return small_change(rows, household.get_household(db).home_currency)


def sweep(db: sqlite3.Connection, by: By, month: Month, category_ids: list[int], into_id: int) -> Done:
    """Shifts the small change these categories have left (all, when none is named) into another; makes how much.

    Raises: InvalidInput if nobody has any.
    """
    with change(db, by) as done:
        target = require_planned(db, into_id)
        found = small_change_for(db, budget_view(db, by, month), into_id)
        change_of = {id_: amount for id_, amount in found.items() if not category_ids or id_ in category_ids}
        if not change_of:
            raise InvalidInput("No category has any small change left.", field="into")
        reason = "small change"
        done.made = sum(change_of.values())
        done.sentence = f"Swept the small change of {len(change_of)} categories into {target.name}"
        sides = [(id_, -amount, into_id) for id_, amount in change_of.items()]
        sides += [(into_id, amount, id_) for id_, amount in change_of.items()]
        budget.insert_placings(db, [Placing(id_, month, amount, by.today, other, reason) for id_, amount, other in sides])
    return done


def take_back(db: sqlite3.Connection, by: By, month: Month, category_ids: list[int]) -> Done:
    """Returns to unplaced what these categories were given in the month and have not spent; gives how much, and the step."""
    with change(db, by) as done:
        view = budget_view(db, by, month)
        placings = []
        for row in view.budget.rows:
            spare = min(row.placed_minor, row.left_minor)
            if row.category_id in category_ids and spare > 0:
                placings.append(Placing(row.category_id, month, -spare, by.today))
        done.sentence = f"Took back money from {len(placings)} categories"
        budget.insert_placings(db, placings)
        done.made = -sum(p.amount_minor for p in placings)
    return done
