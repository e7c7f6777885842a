"""The working behind each figure that opens to a slip: the parts it is made of, down to entries."""

import sqlite3
from collections.abc import Callable
from datetime import date

from bolsa.core.holdings.shares import KINDS, Move
from bolsa.core.money import decimal_text
from bolsa.core.months import Month
from bolsa.core.working import SHARES, Working, total_of
from bolsa.errors import NotFound
from bolsa.services.budget.budgeting import budget_view
from bolsa.services.checking.checking import check_of
from bolsa.services.clock import By
from bolsa.services.holdings.shares import Holding, shares_page
from bolsa.services.worth.worth import rate_on, worth_view
from bolsa.store.accounts import accounts
from bolsa.store.budget import budget
from bolsa.store.checking import statements
from bolsa.store.house import household
from bolsa.store.ledger import register
from bolsa.store.sorting import categories

MOST_ENTRIES = 150


def working_of(db: sqlite3.Connection, by: By, kind: str, key: str, month: Month) -> Working:
    """The working of a figure. Raises: NotFound if there is no such kind of figure, or no such thing."""
    make = WORKINGS.get(kind)
    if make is None:
        raise NotFound("There is no working of that name.")
    return make(db, by, key, month)


def _id(key: str) -> int:
    if not key.isdigit():
        raise NotFound("There is no such figure.")
    return int(key)


def balance(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """An account's balance at the month's end (the last day with entries, for the present): what stood before, and its lines."""
    account = accounts.get_account(db, _id(key))
    last = date(9999, 12, 31) if month >= Month.of(by.today) else month.last_day
    before = accounts.sum_balance(db, account.id, (month + -1).last_day)
    parts = [Working(f"At the end of {(month + -1).last_day:%B %Y}", before, account.currency)]
    parts += _entry_parts(register.list_lines_between(db, account.id, month.first_day, last), account.currency)
    return total_of(f"Balance of {account.name}", parts, account.currency, ref=("account", account.id))


def _entry_parts(rows: list[sqlite3.Row], currency: str, sign: int = 1) -> list[Working]:
    """A part an entry; beyond the most that are listed, one part for all the rest."""
    parts = [
        Working(r["payee"], sign * r["amount_minor"], currency, note=_short(r["day"]), ref=("entry", r["entry_id"]))
        for r in rows[:MOST_ENTRIES]
    ]
    rest = rows[MOST_ENTRIES:]
    if rest:
        parts.append(Working(f"{len(rest)} more entries", sign * sum(r["amount_minor"] for r in rest), currency))
    return parts


def _short(day: str) -> str:
    return f"{date.fromisoformat(day):%-d %b}"


def bank_difference(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the bank says less what the books hold as cleared on that day."""
    state = accounts.get_account_state(db, _id(key))
    account = state.account
    if state.bank_day is None:
        raise NotFound("The bank has not said what this account holds.")
    cleared = accounts.sum_cleared(db, account.id, state.bank_day)
    parts = [
        Working("The bank says", state.bank_minor, account.currency, note=_short(state.bank_day.isoformat())),
        Working("Cleared here by that day", -cleared, account.currency, ref=("account", account.id)),
    ]
    return total_of(f"Difference of {account.name}", parts, account.currency)


def unplaced(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The money in everyday accounts that no category holds."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    held = [
        Working(a.name, accounts.sum_balance(db, a.id, month.last_day), home, ref=("account", a.id))
        for a in accounts.list_accounts(db)
        if a.everyday
    ]
    lefts = [
        Working(category.name, -row.left_minor, home, ref=("category", category.id))
        for group in view.groups
        for category, row in group.rows
        if row.left_minor
    ]
    parts = [total_of("In everyday accounts", held, home), total_of("Left in categories", lefts, home)]
    if view.budget.placed_later_minor:
        parts.append(Working("Placed in later months", -view.budget.placed_later_minor, home))
    return total_of("Unplaced", parts, home)


def still_needed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the categories still need this month: needs less what is placed, where that is above zero."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    parts = [
        Working(
            category.name, row.still_needs_minor, home, ref=("category", category.id),
            note=f"need {decimal_text(row.need_minor, home)}, placed {decimal_text(row.placed_minor, home)}",
        )
        for group in view.groups for category, row in group.rows if row.still_needs_minor
    ]  # fmt: skip
    return total_of("Still needed", parts, home)


def need(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A category's need: what is expected, less what was carried in, not below zero."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    row, category = _row(view, key)
    since = "never set" if row.expected_from is None else f"set in {row.expected_from.first_day:%B %Y}"
    parts = [Working("Expected this month", row.expected_minor, home, note=since)]
    covered = row.need_minor - row.expected_minor
    if covered:
        note = f"{decimal_text(row.carried_minor, home)} carried in" if row.carried_minor > 0 else "the minus carried in"
        parts.append(Working("Carried in", covered, home, note=note))
    return total_of(f"Need of {category.name}", parts, home)


def left(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a category holds: carried in, each placing, each entry."""
    view, home = budget_view(db, by, month), household.get_household(db).home_currency
    row, category = _row(view, key)
    names = {c.id: c.name for c, _ in view.plans}
    parts = [Working(f"Carried in from {(month + -1).first_day:%B}", row.carried_minor, home)]
    for placing in budget.list_placings(db, category.id, month):
        verb = "Placed" if placing.amount_minor > 0 else "Taken back"
        if placing.other_id:
            verb = f"Shifted {'from' if placing.amount_minor > 0 else 'to'} {names.get(placing.other_id, 'another')}"
        note = " · ".join(filter(None, (_short(placing.made_on.isoformat()), placing.reason)))
        parts.append(Working(verb, placing.amount_minor, home, note=note))
    rows = categories.list_category_lines(db, category.id, month.first_day, month.last_day, most=2000)
    parts += _entry_parts(rows, home, sign=-1)
    return total_of(f"Left in {category.name}", parts, home, ref=("category", category.id))


def spent(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The entries behind what a category spent in a month."""
    category, home = categories.get_category(db, _id(key)), household.get_household(db).home_currency
    rows = categories.list_category_lines(db, category.id, month.first_day, month.last_day, most=2000)
    return total_of(f"{category.name} in {month.first_day:%B %Y}", _entry_parts(rows, home), home)


def _row(view, key: str):
    row = next((r for r in view.budget.rows if r.category_id == _id(key)), None)
    if row is None:
        raise NotFound("That category is not in the budget.")
    return row, view.category(row.category_id)


def net_worth(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """Net worth at the month's end: every account, foreign ones at that day's rate."""
    view = worth_view(db, month, 1)
    rates = accounts.list_rates(db)
    parts = []
    for row in view.rows:
        note = ""
        if row.currency != view.currency:
            rate = rate_on(row.currency, month.last_day, view.currency, rates)
            note = f"{decimal_text(row.balance_minor, row.currency)} {row.currency} at {rate / 1e8:.4f}"
        parts.append(Working(row.name, row.home_minor, view.currency, note=note, ref=("account", row.account_id)))
    return total_of("Net worth", parts, view.currency)


def check_difference(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the ticked lines still lack to lead from the opening to the closing balance of a statement."""
    statement = statements.get_statement(db, _id(key))
    account, check = accounts.get_account(db, statement.account_id), check_of(db, statement)
    ticked = [
        Working(i.payee, -i.amount_minor, account.currency, note=_short(i.day.isoformat()), ref=("entry", i.entry_id))
        for i in check.items
        if i.ticked
    ]
    parts = [
        Working("Closing balance", check.closing_minor, account.currency, note="as the statement says"),
        Working("Opening balance", -check.opening_minor, account.currency, note="carried from the last statement"),
        total_of("Ticked lines", ticked, account.currency),
    ]
    return total_of("Difference", parts, account.currency)


def shares_now(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account holds today; the key is "account-security"."""
    holding, moves = _holding(db, by, key)
    return _moves_until(holding, moves, by.today, "shares today")


def shares_then(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account held on the day of the institution's list."""
    holding, moves = _holding(db, by, key)
    day = holding.declared.day if holding.declared else by.today
    return _moves_until(holding, moves, day, f"shares on {day.day} {day:%B %Y}")


def _holding(db: sqlite3.Connection, by: By, key: str) -> tuple[Holding, list[Move]]:
    account_id, _, security_id = key.partition("-")
    page = shares_page(db, by, _id(account_id))
    holding = next((h for h in page.holdings if h.security.id == _id(security_id)), None)
    if holding is None:
        raise NotFound("There is no such figure.")
    return holding, [move for move, security in reversed(page.moves) if security.id == holding.security.id]


def _moves_until(holding: Holding, moves: list[Move], day: date, label: str) -> Working:
    parts = [
        Working(KINDS[move.kind].capitalize(), move.shares_e8, SHARES, note=f"{move.day:%-d %b %Y}. {move.reason}".rstrip(". "))
        for move in moves
        if move.day <= day
    ]
    return total_of(f"{holding.security.name}: {label}", parts, SHARES)


WORKINGS: dict[str, Callable[[sqlite3.Connection, By, str, Month], Working]] = {
    "balance": balance,
    "bank-difference": bank_difference,
    "unplaced": unplaced,
    "still-needed": still_needed,
    "need": need,
    "left": left,
    "spent": spent,
    "net-worth": net_worth,
    "check-difference": check_difference,
    "shares-now": shares_now,
    "shares-then": shares_then,
}
