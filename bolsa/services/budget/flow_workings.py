"""The workings of what a month brings and takes, of what is usual, and of how far an aim has come."""

import sqlite3
from collections.abc import Callable, Iterable

from bolsa.core.budget.month import CategoryMonth, figure_of
from bolsa.core.budget.progress import progress_in
from bolsa.core.budget.year import MOST_FULL
from bolsa.core.months import Month, full_months
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.budget.aims import get_aim
from bolsa.services.budget.budgeting import BudgetView, budget_view, list_plans
from bolsa.services.clock import By
from bolsa.services.working_parts import Make, parse_key
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.house import household


def _named(words: str, figures: Iterable[tuple[str, int]], home: str) -> Working:
    parts = [Working(name, Money(amount, home)) for name, amount in figures if amount]
    return total_of(words, parts, Money(0, home))


def expected_in(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a month is expected to bring, category by category."""
    home = household.get_household(db).home_currency
    incomes, _ = list_plans(db)
    return _named(f"Expected in, {month}", ((c.name, figure_of(plan)(month)[0]) for c, plan in incomes), home)


def expected_out(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a month is expected to take, category by category."""
    home, view = household.get_household(db).home_currency, budget_view(db, by, month)
    return _named(
        f"Expected out, {month}", ((view.category(row.category_id).name, row.expected_minor) for row in view.budget.rows), home
    )


def actual_in(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a month brought, category by category."""
    home = household.get_household(db).home_currency
    parts = [
        Working(c.name, Money(plan.spent[month], home), ref=("spent", c.id, month))
        for c, plan in list_plans(db)[0] if plan.spent.get(month)
    ]  # fmt: skip
    return total_of(f"In, {month}", parts, Money(0, home))


def actual_out(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a month took, category by category, without a plan too."""
    home, view = household.get_household(db).home_currency, budget_view(db, by, month)
    spent = [(row.category_id, view.category(row.category_id).name, row.spent_minor) for row in view.budget.rows]
    spent += [(one.category_id, f"{one.name}, without a plan", one.amount_minor) for one in view.outside]
    parts = [Working(name, Money(amount, home), ref=("spent", id_, month)) for id_, name, amount in spent if amount]
    return total_of(f"Out, {month}", parts, Money(0, home))


def _what_stays(words: str, came: Callable[..., Working], went: Callable[..., Working]) -> Make:
    """What is left over: what comes in less what goes out."""

    def left(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
        home, into, out = household.get_household(db).home_currency, came(db, by, key, month), went(db, by, key, month)
        taken = [Working(part.label, Money(0, home) - part.figure, part.note, part.ref) for part in out.parts]  # type: ignore[operator]
        return total_of(f"{words}, {month}", [into, total_of(out.label, taken, Money(0, home))], Money(0, home))

    return left


def set_by(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What was set by into apart accounts, by the category it came from."""
    home, view = household.get_household(db).home_currency, budget_view(db, by, month)
    names = {c.id: c.name for c, _ in view.plans}
    parts = [
        Working(names.get(id_, "Another category"), Money(amount, home), ref=("spent", id_, month))
        for id_, amount in view.set_by.items()
    ]
    return total_of(f"Set by, {month}", parts, Money(0, home))


def usual_month(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a usual month takes from everyday money: the mean of the last full months, and what dividing takes off."""
    home, view = household.get_household(db).home_currency, budget_view(db, by, month)
    full = full_months(budget.find_began(db), Month.of(by.today))[-MOST_FULL:]
    without = budget.sum_outside_spending(db, full[0], full[-1]) if full else {}
    amounts = {m: sum(plan.spent.get(m, 0) for _, plan in view.plans) + without.get(m, 0) for m in full}
    parts = [Working(f"Out, {m}", Money(amount, home), ref=("actual-out", "all", m)) for m, amount in amounts.items()]
    parts.append(Working(f"Divided by {len(full)} months", Money(view.usual_minor - sum(amounts.values()), home)))
    return total_of("A usual month", parts, Money(0, home))


def returned(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the shortfalls of the month before took from what was unplaced."""
    home, view = household.get_household(db).home_currency, budget_view(db, by, month)
    parts = [
        Working(view.category(row.category_id).name, Money(-row.returned_minor, home), ref=("left", row.category_id, month + -1))
        for row in view.budget.rows if row.returned_minor < 0
    ]  # fmt: skip
    return total_of(f"Shortfalls of {month + -1}", parts, Money(0, home))


def aim_there(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What is there towards an aim: what the category has left, and what its accounts hold."""
    home, view, category_id = household.get_household(db).home_currency, budget_view(db, by, month), parse_key(key)
    row = _row_of(view, category_id)
    parts = [Working("Left in the category", Money(row.left_minor, home), ref=("left", category_id))]
    for account_id in get_aim(db, category_id).account_ids:
        account = accounts.get_account(db, account_id)
        if account.currency != home or account.everyday:
            continue
        held = accounts.sum_balance(db, account_id, month.last_day)
        parts.append(Working(account.name, Money(held, home), ref=("account", account_id)))
    return total_of(f"There for {view.category(category_id).name}", parts, Money(0, home))


def aim_should(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What should be there by now, if it grew evenly from where it began."""
    home, view, category_id = household.get_household(db).home_currency, budget_view(db, by, month), parse_key(key)
    _row_of(view, category_id)
    found = progress_in(view.plan(category_id), month)
    if found is None or found.should_minor is None:
        raise NotFound("Nothing says how much should be there by now.")
    aim = view.plan(category_id).aim
    begins = aim.begins(month) or month
    parts = [Working("When it began", Money(found.from_minor, home), note=str(begins))]
    way = f"{Money(found.amount_minor - found.from_minor, home)} in all" + (f", by {found.by}" if found.by else "")
    parts.append(Working(f"{month - begins + 1} months of the way", Money(found.should_minor - found.from_minor, home), note=way))
    return total_of("Should be there by now", parts, Money(0, home))


def _row_of(view: BudgetView, category_id: int) -> CategoryMonth:
    view.plan(category_id)
    return view.budget.row_of(category_id)


WORKINGS: dict[str, Make] = {
    "expected-in": expected_in, "expected-out": expected_out, "actual-in": actual_in, "actual-out": actual_out,
    "expected-stays": _what_stays("Expected to be left over", expected_in, expected_out),
    "actual-stays": _what_stays("Left over", actual_in, actual_out), "set-by": set_by, "usual-month": usual_month,
    "returned": returned, "aim-there": aim_there, "aim-should": aim_should,
}  # fmt: skip
