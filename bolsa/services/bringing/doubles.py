"""Bookings that stand here twice because two files told them: found as a new file would find them, and mended in one step."""

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import StoredRow
from bolsa.core.bringing.bookings import Here, Source, Verdict
from bolsa.core.bringing.likelihood import DAYS_SAME_ID
from bolsa.core.bringing.matching import judge_rows
from bolsa.core.known import known
from bolsa.core.ledger.entries import StoredEntry
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.remembering import remembered
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, coverage, merging, told_before
from bolsa.store.ledger import entries

ONE_OF_TWO = "the same booking as in another file; one of the two was taken out"


@dataclass(frozen=True)
class Double:
    """One booking that stands twice: the entry that stays and the one that goes, each with the name of the file that brought it.
    `problem` says why neither can go by itself, "" if one can."""

    account: Account
    stays: StoredEntry
    goes: StoredEntry
    amount_minor: int
    stays_from: str
    goes_from: str
    row_id: int  # of what goes
    line_id: int  # of what stays
    problem: str = ""


def list_doubles(db: sqlite3.Connection) -> tuple[Double, ...]:
    """The bookings that two files told of the same days, and that stand twice; in order of account and day."""
    return remembered(db, "doubles", (), lambda: tuple(_find(db)))


def _find(db: sqlite3.Connection) -> Iterator[Double]:
    for account_id in coverage.list_accounts_covered_twice(db):
        account = accounts.get_account(db, account_id)
        gone: set[int] = set()
        for batch_id, first, last in coverage.list_batches_covering(db, account_id):
            for row, line_id in _twice_in(db, account, batch_id, first, last):
                if row.line_id is not None and not {row.line_id, line_id} & gone:
                    found = _double(db, account, row, line_id)
                    gone.add(row.line_id if found.row_id == row.id else line_id)
                    yield found


def _twice_in(
    db: sqlite3.Connection, account: Account, batch_id: int, first: date, last: date
) -> Iterator[tuple[StoredRow, int]]:
    """The rows of a batch that made a line though an earlier one had told that booking, with the line it has."""
    around = first - timedelta(days=DAYS_SAME_ID), last + timedelta(days=DAYS_SAME_ID)
    before = coverage.list_coverage_beside(db, batch_id, account.id, *around, before=True)
    if not before:
        return
    rows = [row for row in brought.list_rows_made(db, batch_id, account.id) if not row.is_overruled]
    listed = told_before.list_bookings(db, account.id, *around, batch_id, before=True)
    told = [one for one in listed if one.line_id and not one.is_asked]
    own = {row.line_id for row in brought.list_rows(db, batch_id) if row.line_id or row.match_line_id}
    own |= {row.match_line_id for row in brought.list_rows(db, batch_id) if row.verdict == "known"}
    bookings = [one for one in told if one.line_id not in own]
    source = Source(coverage.get_layout(db, batch_id), tuple(coverage.list_coverage_of(db, batch_id, account.id)))
    verdicts = judge_rows([row.as_brought() for row in rows], Here(bookings, (), before), source, account.currency)
    for row, verdict in zip(rows, verdicts, strict=True):
        if verdict.kind == "known" and verdict.line_id and not verdict.reason.startswith("the file holds it twice"):
            yield row, verdict.line_id


def _double(db: sqlite3.Connection, account: Account, row: StoredRow, line_id: int) -> Double:
    """Which of the two goes: the later one, unless someone worked on that and not on the other."""
    later, earlier = (entries.get_entry_of_line(db, id_) for id_ in (known(row.line_id), line_id))
    earlier_row = brought.find_row_of_line(db, line_id)
    later_name, earlier_name = (batches.get_batch(db, one.batch_id).name if one else "" for one in (row, earlier_row))
    worked_later, worked_earlier = (merging.is_worked_on(db, entry.id) for entry in (later, earlier))
    if worked_later and not worked_earlier and earlier_row is not None:
        problem = _problem(earlier, both_worked=False)
        amount = row.amount_minor
        return Double(account, later, earlier, amount, later_name, earlier_name, earlier_row.id, known(row.line_id), problem)
    problem = _problem(later, both_worked=worked_later and worked_earlier)
    return Double(account, earlier, later, row.amount_minor, earlier_name, later_name, row.id, line_id, problem)


def _problem(goes: StoredEntry, *, both_worked: bool) -> str:
    """Why an entry cannot go by itself, "" if it can."""
    if both_worked:
        return "both were changed by hand"
    if any(line.state == "reconciled" for line in goes.account_lines):
        return "it is reconciled"
    return "it is one side of a transfer" if len(goes.account_lines) > 1 else ""


def take_out_doubles(db: sqlite3.Connection, by: By) -> Done:
    """Moves one of each two to the trash, in one step. What was added to it by hand is why the other goes. Raises: Conflict if
    there are none."""
    with change(db, by) as done:
        found = [one for one in _find(db) if not one.problem]
        if not found:
            raise Conflict("No booking is here twice any more.")
        for one in found:
            entries.move_to_trash(db, one.goes.id, f"{one.goes.day.isoformat()} {one.goes.payee}, here twice", by.at)
            brought.change_row_verdict(db, one.row_id, Verdict("known", False, ONE_OF_TWO, one.line_id))
            brought.set_lines_of_rows(db, [(None, None, one.row_id)])
        done.sentence = f"Moved {counted(len(found), 'duplicate booking')} to the trash"
        done.made = len(found)
    return done
