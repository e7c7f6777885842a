"""Suspects of a statement's difference: the evidence the books hold, and what each cure does."""

import sqlite3
from dataclasses import replace

from bolsa.core.checking.statement import Statement
from bolsa.core.checking.suspects import Cure, Evidence, Findings, Usual, find_left_open, find_suspects
from bolsa.core.known import known
from bolsa.core.ledger.entries import Line, Part, entry_on_account
from bolsa.core.months import Month
from bolsa.errors import Conflict
from bolsa.services.bringing.written_rows import bring_row
from bolsa.services.changes import Done, change
from bolsa.services.checking.checking import check_of, require_open
from bolsa.services.clock import By
from bolsa.services.ledger import correcting
from bolsa.store.accounts import accounts
from bolsa.store.checking import statements
from bolsa.store.connection import reading
from bolsa.store.ledger import entries

DAYS_AFTER = 5  # how far past the closing day an entry may be dated and still belong to the statement


def find_findings(db: sqlite3.Connection, statement: Statement) -> Findings:
    """The suspects of an open statement, surest first; then old lines that are not ticked, also where it agrees without them."""
    account = accounts.get_account(db, statement.account_id)
    with reading(db):
        check = check_of(db, statement)
        found = find_suspects(check, _evidence(db, statement), account.currency)
        named = {item.line_id for suspect in found.suspects for item in suspect.items}
        left_open = (one for one in find_left_open(check, statement.closing_day) if one.items[0].line_id not in named)
        return replace(found, suspects=(*found.suspects, *left_open))


def _evidence(db: sqlite3.Connection, statement: Statement) -> Evidence:
    """What is known beside the open statement's lines."""
    past = [s for s in statements.list_statements(db, statement.account_id) if s.state == "reconciled"]
    before = next((s for s in past if s.closing_day < statement.closing_day), None)
    return Evidence(
        outside=statements.list_items_after(db, statement, DAYS_AFTER),
        missing=statements.list_missing_rows(db, statement, before.closing_day if before else None),
        changed=statements.list_changed_lines(db, statement.id),
        usual=tuple(_this_time(usual, statement) for usual in statements.list_usual(db, statement, before.closing_day))
        if before
        else (),
        before_minor=before.closing_minor if before else None,
    )


def _this_time(usual: Usual, statement: Statement) -> Usual:
    """The occurrence a month after the last one, within the statement."""
    month = Month.of(usual.day) + 1
    return replace(usual, day=min(month.day(usual.day.day), statement.closing_day))


def cure(db: sqlite3.Connection, by: By, statement_id: int, key: str) -> Done:
    """Does what a suspect's cure says, all of it as one step.

    Raises: Conflict if the suspect is not there any more.
    """
    with change(db, by) as done:
        statement = require_open(db, statement_id)
        suspect = next((s for s in find_findings(db, statement).suspects if s.key == key and s.cures), None)
        if suspect is None:
            raise Conflict("That does not explain the difference any more. Look at the suspects there are now.")
        done.sentence = f"{suspect.title}: {' and '.join(_cured(one) for one in suspect.cures)}"
        for one in suspect.cures:
            CURES[one.verb](db, by, statement, one)
    return done


def _cured(one: Cure) -> str:
    """The cure in the past tense."""
    past = {
        "tick": "ticked", "untick": "tick taken away", "delete": "deleted the double", "move": "dated within the statement",
        "bring": "brought in", "open": "opening balance carried", "put back": "put back",
    }  # fmt: skip
    return past.get(one.verb) or {"correct": "amount corrected", "enter": "entered"}[one.verb]


def _tick(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    for line_id in one.line_ids:
        statements.put_tick(db, statement.id, line_id)


def _untick(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    for line_id in one.line_ids:
        statements.remove_tick(db, statement.id, line_id)


def _correct(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    correcting.correct_amount(db, by, one.line_ids[0], one.amount_minor)


def _delete(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    statements.remove_tick(db, statement.id, one.line_ids[0])
    correcting.delete_side(db, by, one.line_ids[0])


def _move(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    entries.change_line_day(db, one.line_ids[0], statement.closing_day)
    _tick(db, by, statement, one)


def _bring(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    statements.put_tick(db, statement.id, bring_row(db, known(one.row_id)))


def _enter(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    account = accounts.get_account(db, statement.account_id)
    line = Line(one.amount_minor, account.currency, account_id=account.id, state="cleared")
    usual = known(one.usual)
    share = Part(usual.category_id, -one.amount_minor)
    _, line_ids = entries.insert_entries(db, [entry_on_account(usual.day, usual.payee, line, [share])])[0]
    statements.put_tick(db, statement.id, line_ids[0])


def _open(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    statements.change_statement(db, replace(statement, opening_minor=one.amount_minor))


def _put_back(db: sqlite3.Connection, by: By, statement: Statement, one: Cure) -> None:
    trash_id = entries.find_trash_of_line(db, one.line_ids[0])
    if trash_id is None:
        raise Conflict("The entry is not in the trash any more. Enter it again.")
    entries.restore_from_trash(db, trash_id)
    _tick(db, by, statement, one)


CURES = {
    "tick": _tick,
    "untick": _untick,
    "correct": _correct,
    "delete": _delete,
    "move": _move,
    "bring": _bring,
    "enter": _enter,
    "open": _open,
    "put back": _put_back,
}
