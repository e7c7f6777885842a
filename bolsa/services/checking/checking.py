"""Checking an account against a statement: ticking, reconciling, writing off, reopening.

Suspects and their cures are in curing.py.
"""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from bolsa.core.accounts.account import Account, AccountState
from bolsa.core.checking.check import Check, Period, seam_between
from bolsa.core.checking.statement import Statement, WrittenOff
from bolsa.core.ledger.entries import Line, Part, entry_on_account
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.ledger.entries import TypedEntry, record_entry
from bolsa.store.accounts import accounts, openings
from bolsa.store.checking import statements
from bolsa.store.connection import reading
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories


@dataclass(frozen=True)
class PastStatement:
    """A reconciled statement, what is odd where it meets the one before, and the later ones a reopening would touch."""

    statement: Statement
    seam: str
    later: tuple[Statement, ...]


@dataclass(frozen=True)
class CheckPage:
    """An account's checking: the open statement with its check and suspects (None when there is none), and the past."""

    state: AccountState
    statement: Statement | None
    check: Check | None
    past: tuple[PastStatement, ...]
    opening_minor: int
    written_off: tuple[WrittenOff, ...]


def check_page(db: sqlite3.Connection, account_id: int) -> CheckPage:
    """What the check page of an account shows."""
    with reading(db):
        state = accounts.get_account_state(db, account_id)
        known = statements.list_statements(db, account_id)
        open_one = next((s for s in known if s.state == "open"), None)
        past = [s for s in known if s.state == "reconciled"]
        check = check_of(db, open_one) if open_one else None
        written_off = tuple(w for w in statements.list_written_off(db) if w.currency == state.account.currency)
    opening = past[0].closing_minor if past else 0
    return CheckPage(state, open_one, check, _with_seams(past), opening, written_off)


def _with_seams(past: list[Statement]) -> tuple[PastStatement, ...]:
    """The statements, latest first, each with the one before it and those after it."""
    periods = [Period(s.closing_day, s.opening_minor, s.closing_minor, s.opening_day) for s in past]
    return tuple(
        PastStatement(
            s, seam_between(periods[i + 1], periods[i]) if i + 1 < len(past) else "", tuple(reversed(past[:i]))
        )
        for i, s in enumerate(past)
    )  # fmt: skip


def check_of(db: sqlite3.Connection, statement: Statement) -> Check:
    return Check(statement.opening_minor, statement.closing_minor, statements.list_items(db, statement))


def begin_statement(
    db: sqlite3.Connection,
    by: By,
    account_id: int,
    closing_day: date,
    closing_minor: int,
    *,
    opening_minor: int | None = None,
    opening_day: date | None = None,
    seen: int | None = None,
) -> Done:
    """Opens a statement, or changes the open one; what the bank has said already is ticked. Gives its id.

    The opening balance is carried from the statement before unless the bank's says another; so is the day.
    Raises: InvalidInput if the day is not after the last reconciled one, or is in the future; Conflict if the open one was
    changed after the version seen.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        known = statements.list_statements(db, account_id)
        reconciled = [s for s in known if s.state == "reconciled"]
        open_one = next((s for s in known if s.state == "open"), None)
        if closing_day > by.today:
            raise InvalidInput("A statement cannot close in the future.", field="closing_day")
        if closing_day < (begins := _begins(db, account)):
            sentence = f"{account.name} begins on {begins}; a statement of it cannot close before that."
            raise InvalidInput(sentence, field="closing_day")
        later = [s for s in reconciled if s.closing_day >= closing_day]
        if later and not (open_one and open_one.closing_day == closing_day):
            raise InvalidInput(
                f"{account.name} is checked until {reconciled[0].closing_day}. Give a later day, or reopen that one.",
                field="closing_day",
            )
        if opening_day and opening_day > closing_day:
            raise InvalidInput("A statement begins before it closes.", field="opening_day")
        opening = max((s for s in reconciled if s.closing_day < closing_day), key=lambda s: s.closing_day, default=None)
        done.sentence = f"Began to check {account.name} to {closing_day.isoformat()}"
        carried = opening_minor if opening_minor is not None else (opening.closing_minor if opening else 0)
        if open_one:
            require_version(db, "statement", open_one.id, seen, str(Money(closing_minor, account.currency)))
            words: dict[str, Any] = {"closing_day": closing_day, "closing_minor": closing_minor, "opening_day": opening_day}
            kept = open_one.opening_minor if opening_minor is None else opening_minor
            statements.change_statement(db, replace(open_one, **words, opening_minor=kept))
            statement_id = open_one.id
        else:
            statement_id = statements.insert_statement(db, account_id, closing_day, carried, closing_minor, opening_day)
        statements.tick_cleared_lines(db, statements.get_statement(db, statement_id))
        done.made = statement_id
    return done


def _begins(db: sqlite3.Connection, account: Account) -> date:
    """The day an account begins: it was opened, or its first line's, whichever is the earlier."""
    first = openings.find_first_day(db, account.id, date.max)
    return min(account.opened_on, first) if first else account.opened_on


def abandon_statement(db: sqlite3.Connection, by: By, statement_id: int) -> Done:
    """Gives up a statement that is still open; the lines stay as they are."""
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        done.sentence = "Gave up a check"
        statements.remove_statement(db, statement.id)
    return done


def enter_missing(db: sqlite3.Connection, by: By, statement_id: int, typed: TypedEntry) -> Done:
    """Enters what the statement shows and is missing here, and ticks it. Raises: InvalidInput for a day after its closing one."""
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        if typed.day > statement.closing_day:
            raise InvalidInput(f"The statement closes on {statement.closing_day}; this is dated later.", field="missing_day")
        made = record_entry(db, by, statement.account_id, replace(typed, state="cleared")).made
        line = next(one for one in entries.get_entry(db, made).account_lines if one.account_id == statement.account_id)
        statements.put_tick(db, statement_id, line.stored_id)
        done.sentence = f"Entered what was missing of {typed.payee}"
        done.made = made
    return done


def set_ticks(db: sqlite3.Connection, by: By, statement_id: int, line_ids: list[int], ticked: bool) -> Done:
    """Ticks lines on an open statement, or takes the ticks away."""
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        allowed = {item.line_id for item in statements.list_items(db, statement)}
        done.sentence = f"{'Ticked' if ticked else 'Unticked'} {len(line_ids)} lines of a statement"
        for line_id in line_ids:
            if line_id not in allowed:
                raise InvalidInput("That line does not belong to this statement.")
            (statements.put_tick if ticked else statements.remove_tick)(db, statement_id, line_id)
    return done


def reconcile(db: sqlite3.Connection, by: By, statement_id: int, *, seen: int | None = None) -> Done:
    """Locks the ticked lines with the statement. Raises: Conflict while a difference remains, and if the statement was changed
    after the version seen."""
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        require_version(db, "statement", statement_id, seen, "that it agrees")
        account = accounts.get_account(db, statement.account_id)
        check = check_of(db, statement)
        if not check.agrees:
            left = Money(abs(check.difference_minor), account.currency)
            raise Conflict(f"A difference of {left} remains. Find it, or write it off, first.")
        done.sentence = f"Checked {account.name} to {statement.closing_day.isoformat()}"
        if check.open_items:
            open_minor = Money(check.open_minor, account.currency)
            many = counted(len(check.open_items), "entry stays", "entries stay")
            done.sentence += f"; {many} open, {open_minor} in all"
        statements.lock_ticked_lines(db, statement_id)
        statements.change_statement(db, replace(statement, state="reconciled", reconciled_at=by.at))
    return done


def write_off(db: sqlite3.Connection, by: By, statement_id: int, category_id: int, *, seen_minor: int | None = None) -> Done:
    """Enters what the difference is under a category and ticks it, so that the statement agrees.

    Raises: Conflict if the difference is not any more what the page had shown (`seen_minor`).
    """
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        account = accounts.get_account(db, statement.account_id)
        category = categories.get_category(db, category_id)
        difference = check_of(db, statement).difference_minor
        if not difference:
            raise InvalidInput("There is no difference to write off.")
        if seen_minor is not None and difference != seen_minor:
            now, shown = Money(difference, account.currency), Money(seen_minor, account.currency)
            raise Conflict(f"The difference is {now} by now; you saw {shown}. Look again, then decide.")
        line = Line(difference, account.currency, account_id=account.id, state="cleared")
        entry = entry_on_account(
            statement.closing_day, "Adjustment", line, [Part(category.id, -difference)], memo="Difference at the check"
        )
        entry = replace(entry, origin="adjustment")
        done.sentence = f"Wrote off {Money(difference, account.currency)} under {category.name}"
        _, line_ids = entries.insert_entries(db, [entry])[0]
        statements.put_tick(db, statement_id, line_ids[0])
    return done


def reopen(db: sqlite3.Connection, by: By, statement_id: int) -> Done:
    """Opens a reconciled statement again, its lines cleared and ticked.

    Raises: Conflict while another statement of the account is open.
    """
    with change(db, by) as done:
        statement = statements.get_statement(db, statement_id)
        account = accounts.get_account(db, statement.account_id)
        known = statements.list_statements(db, statement.account_id)
        if statement.state != "reconciled":
            raise Conflict("This statement is open already.")
        if any(s.state == "open" for s in known):
            raise Conflict("Another statement of this account is being checked. Finish it, or give it up, first.")
        done.sentence = f"Reopened {account.name} to {statement.closing_day.isoformat()}"
        statements.unlock_lines(db, statement_id)
        statements.change_statement(db, replace(statement, state="open", reconciled_at=None))
    return done


def later_statements(db: sqlite3.Connection, statement_id: int) -> list[Statement]:
    """The reconciled statements that build on this one, oldest first: a reopening touches them."""
    statement = statements.get_statement(db, statement_id)
    later = [s for s in statements.list_statements(db, statement.account_id) if s.closing_day > statement.closing_day]
    return [s for s in reversed(later) if s.state == "reconciled"]


def require_open(db: sqlite3.Connection, statement_id: int) -> Statement:
    """The statement, if it is still being checked. Raises: Conflict if it is reconciled."""
    statement = statements.get_statement(db, statement_id)
    if statement.state != "open":
        raise Conflict("This statement is reconciled. Reopen it first.")
    return statement


def account_of(db: sqlite3.Connection, statement_id: int) -> int:
    """The id of the account a statement is of. Raises: NotFound."""
    return statements.get_statement(db, statement_id).account_id


def checked_until(db: sqlite3.Connection) -> date | None:
    """The day until which every everyday account but cash is checked, None while one never was."""
    return statements.find_checked_until(db)
