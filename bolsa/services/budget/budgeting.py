"""The budget of a month: its figures, and placing, taking back, shifting, expecting."""

import sqlite3
from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from itertools import islice

from bolsa.core.budget.expecting import Expectation, check_expectation
from bolsa.core.budget.filling import Filling, fill_needs, shift_sources
from bolsa.core.budget.month import ONCE, BudgetMonth, CategoryMonth, CategoryPlan, budget_month, walk
from bolsa.core.budget.placing import Placing, Spent
from bolsa.core.months import Month, months_between
from bolsa.core.sorting.category import Category
from bolsa.core.units import Money
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change, require_untouched
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.connection import reading
from bolsa.store.house import household
from bolsa.store.sorting import categories


@dataclass(frozen=True)
class OutsideSpending:
    """Spending of the month that no plan holds: unsorted entries, or a category kept out of the budget."""

    category_id: int
    name: str
    amount_minor: int


@dataclass(frozen=True)
class BudgetGroup:
    """One group's categories with their month, in order of priority."""

    name: str
    rows: tuple[tuple[Category, CategoryMonth], ...]

    def total(self, figure: str) -> int:
        """The group's sum of a figure such as "need_minor"."""
        return sum(getattr(row, figure) for _, row in self.rows)


@dataclass(frozen=True)
class BudgetView:
    """Everything the month's page shows, from one consistent reading."""

    budget: BudgetMonth
    groups: tuple[BudgetGroup, ...]
    outside: tuple[OutsideSpending, ...]
    plans: tuple[tuple[Category, CategoryPlan], ...]

    def category(self, category_id: int) -> Category:
        return next(c for c, _ in self.plans if c.id == category_id)


def budget_view(db: sqlite3.Connection, by: By, month: Month) -> BudgetView:
    """The budget as it stands in a month."""
    with reading(db):
        plans = budget.list_plans(db)
        figures = budget_month(
            [plan for _, plan in plans],
            month,
            accounts.sum_everyday_balance(db, month),
            _placed_later(db, [plan for _, plan in plans], month, Month.of(by.today)),
        )
        rows = dict(zip((c.id for c, _ in plans), figures.rows, strict=True))
        groups = tuple(
            BudgetGroup(name, tuple((c, rows[c.id]) for c, _ in plans if c.group == name))
            for name in dict.fromkeys(c.group for c, _ in plans)
        )
        outside = tuple(
            OutsideSpending(row["id"], row["name"], row["amount_minor"]) for row in budget.list_outside_spending(db, month)
        )
    return BudgetView(figures, groups, outside, tuple(plans))


def _placed_later(db: sqlite3.Connection, plans: list[CategoryPlan], month: Month, present: Month) -> int:
    """What was placed in later months; of a month that is past, only what had been placed by its end: money that came in
    since must not show as promised then."""
    if month >= present:
        return sum(amount for plan in plans for m, amount in plan.placed.items() if m > month)
    return budget.sum_placed_ahead_on(db, month, month.last_day)


def set_expected(
    db: sqlite3.Connection, by: By, category_id: int, month: Month, amount_minor: int | None, *, every: int = 1,
    seen: int | None = None,
) -> Done:  # fmt: skip
    """Sets what a category is expected to take (an income: to bring) from this month on, until the next figure set by hand, every
    so many months, or once; None clears the figure, and the former one carries on.

    Raises: InvalidInput, Conflict if the category's figures changed after the version seen.
    """
    with change(db, by) as done:
        category = _require_expectable(db, category_id)
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


def rhythms_of(db: sqlite3.Connection) -> dict[tuple[int, Month], int]:
    """By category and month: every how many months a figure comes that does not simply carry on (0: once)."""
    return budget.list_rhythms(db)


def place(db: sqlite3.Connection, by: By, category_id: int, month: Month, amount_minor: int) -> Done:
    """Places money for a category in a month, or takes it back (less than 0).

    Raises: InvalidInput for nothing, and for taking back more than was placed in that month.
    """
    with change(db, by) as done:
        category = _require_planned(db, category_id)
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
            free.append(accounts.sum_everyday_balance(db, one) - lefts - _placed_later(db, plans, one, present))
    return min(free)


def filling_of(db: sqlite3.Connection, by: By, view: BudgetView, category_ids: list[int]) -> Filling:
    """What filling the needs of these categories would do (of all, when none is named), in order of priority."""
    wanted = set(category_ids) or {category.id for category, _ in view.plans}
    rows = [row for row in view.budget.rows if row.category_id in wanted]
    return fill_needs(rows, there_to_place(db, by, view))


def fill(db: sqlite3.Connection, by: By, month: Month, category_ids: list[int]) -> Done:
    """Fills the needs of these categories as far as the money goes; gives what was done and the step's id."""
    with change(db, by) as done:
        filling = filling_of(db, by, budget_view(db, by, month), category_ids)
        done.made = filling
        count = len(filling.amounts)
        done.sentence = f"Filled {count} {'need' if count == 1 else 'needs'} of {month}"
        budget.insert_placings(db, [Placing(id_, month, amount, by.today) for id_, amount in filling.amounts.items()])
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


def shift(db: sqlite3.Connection, by: By, month: Month, from_id: int, to_id: int, amount_minor: int, reason: str = "") -> Done:
    """Moves money from one category to another, with the reason kept.

    Raises: InvalidInput if it is nothing, the same category, or more than is left there.
    """
    with change(db, by) as done:
        source, target = _require_planned(db, from_id), _require_planned(db, to_id)
        if from_id == to_id:
            raise InvalidInput("Shift to another category.", field="from")
        if amount_minor <= 0:
            raise InvalidInput("Say how much to shift, above zero.", field="amount")
        left = budget_view(db, by, month).budget.row_of(from_id).left_minor
        if amount_minor > left:
            raise InvalidInput(f"{source.name} has less than that left.", field="amount")
        both = (
            Placing(from_id, month, -amount_minor, by.today, to_id, reason.strip()),
            Placing(to_id, month, amount_minor, by.today, from_id, reason.strip()),
        )
        done.sentence = f"Shifted money from {source.name} to {target.name}"
        budget.insert_placings(db, list(both))
    return done


def sources_for(view: BudgetView, category_id: int) -> list[tuple[Category, int]]:
    """Where money for a category could come from: (category, what it can spare), last priority first."""
    return [(view.category(id_), spare) for id_, spare in shift_sources(list(view.budget.rows), category_id)]


def course_of(view: BudgetView, category_id: int, months: int = 12) -> list[CategoryMonth]:
    """A category's last months, this one included, oldest first."""
    plan = next(plan for category, plan in view.plans if category.id == category_id)
    last = view.budget.month
    return list(islice(walk(plan, last + (1 - months)), months))


def _require_expectable(db: sqlite3.Connection, category_id: int) -> Category:
    category = categories.get_category(db, category_id)
    if category.type == "income" and not category.role and not category.retired:
        return category
    return _require_planned(db, category_id)


def _require_planned(db: sqlite3.Connection, category_id: int) -> Category:
    category = categories.get_category(db, category_id)
    if category.type != "spending" or not category.in_budget or category.role:
        raise InvalidInput(f"{category.name} is not in the budget.")
    return category


@dataclass(frozen=True)
class RibbonMonth:
    """A month of the ribbon: what came in and went out (both zero or more), transfers left out."""

    month: Month
    in_minor: int
    out_minor: int


def ribbon(db: sqlite3.Connection, home: str, first: Month, last: Month) -> list[RibbonMonth]:
    """The months of the ribbon with their in and out, in home currency (other currencies are not counted); what is not sorted
    yet counts by its sign."""
    totals: dict[tuple[str, str], int] = defaultdict(int)
    for row in budget.list_in_out(db, first, last):
        if row["currency"] == home:
            totals[row["month"], row["type"]] += row["amount_minor"]
    return [
        RibbonMonth(m, max(0, -totals.get((str(m), "income"), 0)), max(0, totals.get((str(m), "spending"), 0)))
        for m in months_between(first, last)
    ]


def entries_of(db: sqlite3.Connection, category_id: int, month: Month, most: int = 60) -> list[Spent]:
    """The entries behind what a category spent in a month, in order of day."""
    rows = categories.list_category_lines(db, category_id, month.first_day, month.last_day, most)
    return [Spent(r["entry_id"], date.fromisoformat(r["day"]), r["payee"], r["amount_minor"]) for r in rows]
