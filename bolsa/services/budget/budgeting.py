"""The budget of a month: its figures, and what is expected. Placing stands in placing.py, shifting in shifting.py."""

import sqlite3
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from itertools import islice

from bolsa.core.budget.lasting import days_lasting
from bolsa.core.budget.month import BudgetMonth, CategoryMonth, CategoryPlan, budget_month, figure_of, walk
from bolsa.core.budget.placing import Spent
from bolsa.core.budget.year import MOST_FULL, usual_amount
from bolsa.core.months import Month, full_months, months_between
from bolsa.core.sorting.category import Category
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.clock import By
from bolsa.services.remembering import remembered
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.connection import reading
from bolsa.store.sorting import categories


@dataclass(frozen=True)
class OutsideSpending:
    """Spending of the month that no plan holds: unsorted entries, or a category kept out of the budget."""

    category_id: int
    name: str
    amount_minor: int


@dataclass(frozen=True)
class BudgetGroup:
    """One group's categories with their month, in order."""

    name: str
    rows: tuple[tuple[Category, CategoryMonth], ...]

    def total(self, figure: str) -> int:
        """The group's sum of a figure such as "need_minor"."""
        return sum(getattr(row, figure) for _, row in self.rows)


@dataclass(frozen=True)
class Flow:
    """What a month was expected to bring and take, and what it did, in minor units. Out is spending with a plan and without, and
    what was set by into apart accounts (`set_by_minor` of it)."""

    expected_in_minor: int
    expected_out_minor: int
    actual_in_minor: int
    actual_out_minor: int
    set_by_minor: int

    @property
    def expected_left_minor(self) -> int:
        return self.expected_in_minor - self.expected_out_minor

    @property
    def actual_left_minor(self) -> int:
        return self.actual_in_minor - self.actual_out_minor


@dataclass(frozen=True)
class BudgetView:
    """Everything the month's page shows, from one consistent reading."""

    budget: BudgetMonth
    groups: tuple[BudgetGroup, ...]
    outside: tuple[OutsideSpending, ...]
    plans: tuple[tuple[Category, CategoryPlan], ...]
    flow: Flow
    set_by: Mapping[int, int]  # by category: what of its spending was set by into apart accounts
    usual_minor: int  # what a usual month takes from everyday money
    full_months: int  # of how many months that is the mean
    usual: Mapping[int, int]  # by category of which nothing is expected: its usual amount

    def category(self, category_id: int) -> Category:
        return next(c for c, _ in self.plans if c.id == category_id)

    def category_of(self, category_id: int) -> Category:
        """The category, if it is in the budget. Raises: NotFound."""
        self.plan(category_id)
        return self.category(category_id)

    def plan(self, category_id: int) -> CategoryPlan:
        """The plan of a category. Raises: NotFound."""
        found = next((plan for c, plan in self.plans if c.id == category_id), None)
        if found is None:
            raise NotFound("That category is not in the budget.")
        return found

    @property
    def by_priority(self) -> list[tuple[Category, CategoryPlan, CategoryMonth]]:
        """Categories with their plan and month in the order in which money is given, the first first. Those that have no place of
        their own come after the others, in the order of groups."""
        rows = {row.category_id: row for row in self.budget.rows}
        found = [(category, plan, rows[category.id]) for category, plan in self.plans]
        return sorted(found, key=lambda one: one[0].priority or len(found) + 1)

    @property
    def rows_by_priority(self) -> list[CategoryMonth]:
        return [row for _, _, row in self.by_priority]

    @property
    def days_lasting(self) -> int | None:
        """How many days the everyday money would last at the usual spending; None while nobody knows what is usual."""
        return days_lasting(self.budget.balance_minor, self.usual_minor)

    @property
    def returned_minor(self) -> int:
        """What the shortfalls of the month before took from this month's unplaced money."""
        return sum(-row.returned_minor for row in self.budget.rows if row.returned_minor < 0)


def list_plans(db: sqlite3.Connection) -> tuple[budget.Planned, budget.Planned]:
    """Every income category, and every spending category in the budget, with its amounts by month: remembered until something
    changes, since most pages of a sitting ask for them."""
    return remembered(db, "plans", (), lambda: budget.list_plans(db))


def budget_view(db: sqlite3.Connection, by: By, month: Month) -> BudgetView:
    """The budget as it stands in a month."""
    present = Month.of(by.today)
    with reading(db):
        incomes, plans = list_plans(db)
        later = placed_later(db, [plan for _, plan in plans], month, present)
        balance = accounts.sum_everyday_balance(db, month)
        figures = budget_month([plan for _, plan in plans], month, balance, later)
        outside = tuple(
            OutsideSpending(row["id"], row["name"], row["amount_minor"]) for row in budget.list_outside_spending(db, month)
        )
        set_by = budget.sum_set_by(db, month)
        full = full_months(budget.find_began(db), present)[-MOST_FULL:]
        without = budget.sum_outside_spending(db, full[0], full[-1]) if full else {}
    rows = dict(zip((c.id for c, _ in plans), figures.rows, strict=True))
    groups = tuple(
        BudgetGroup(name, tuple((c, rows[c.id]) for c, _ in plans if c.group == name))
        for name in dict.fromkeys(c.group for c, _ in plans)
    )
    flow = Flow(
        sum(figure_of(plan)(month)[0] for _, plan in incomes), sum(row.expected_minor for row in figures.rows),
        sum(plan.spent.get(month, 0) for _, plan in incomes),
        sum(row.spent_minor for row in figures.rows) + sum(one.amount_minor for one in outside), sum(set_by.values()),
    )  # fmt: skip
    usual = {
        plan.category_id: amount for _, plan in plans
        if not plan.expected and plan.aim.kind in ("month", "spread")
        and (amount := usual_amount([plan.spent.get(m, 0) for m in full]))
    }  # fmt: skip
    spent = usual_amount([sum(plan.spent.get(m, 0) for _, plan in plans) + without.get(m, 0) for m in full])
    return BudgetView(figures, groups, outside, tuple(plans), flow, set_by, spent, len(full), usual)


def placed_later(db: sqlite3.Connection, plans: list[CategoryPlan], month: Month, present: Month) -> int:
    """What was placed in later months; of a month that is past, only what had been placed by its end: money that came in
    since must not show as promised then."""
    if month >= present:
        return sum(amount for plan in plans for m, amount in plan.placed.items() if m > month)
    return budget.sum_placed_ahead_on(db, month, month.last_day)


def rhythms_of(db: sqlite3.Connection) -> dict[tuple[int, Month], int]:
    """By category and month: every how many months a figure comes that does not simply carry on (0: once)."""
    return budget.list_rhythms(db)


def course_of(view: BudgetView, category_id: int, months: int = 12) -> list[CategoryMonth]:
    """A category's last months, this one included, oldest first."""
    plan = next(plan for category, plan in view.plans if category.id == category_id)
    last = view.budget.month
    return list(islice(walk(plan, last + (1 - months)), months))


def require_expectable(db: sqlite3.Connection, category_id: int) -> Category:
    """The category, if something can be expected of it. Raises: InvalidInput."""
    category = categories.get_category(db, category_id)
    if category.type == "income" and not category.role and not category.retired:
        return category
    return require_planned(db, category_id)


def require_planned(db: sqlite3.Connection, category_id: int) -> Category:
    """The category, if the budget holds money for it. Raises: InvalidInput."""
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
