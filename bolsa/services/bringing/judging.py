"""What the rows of a batch are: each gets its verdict against what is here now, some days of a long file at a time."""

import sqlite3
from collections.abc import Iterable, Iterator
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import StoredRow
from bolsa.core.bringing.bookings import Booking, Here, OpenLine, Source, Verdict
from bolsa.core.bringing.likelihood import DAYS_APART, DAYS_SAME_ID, DAYS_TO_BOOK
from bolsa.core.bringing.matching import asked_if_checked, judge_rows
from bolsa.core.bringing.pending import judge_pending
from bolsa.core.bringing.rows import BroughtRow
from bolsa.services.bringing.proving import prove_by_balances
from bolsa.services.changes import note
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought, coverage, merging, told_before
from bolsa.store.checking import statements

JUDGED_TOGETHER = 5_000  # rows


def judge_batch(db: sqlite3.Connection, batch_id: int, account: Account, *, lists_all: bool, report: Report = silent) -> None:
    """Gives each of a batch's rows for an account its verdict against what is here now; what the user decided stays decided.

    A long file is judged some days at a time, so that memory does not grow with it.
    """
    checked_until = statements.find_account_checked_until(db, account.id)
    stretches = tuple(coverage.list_coverage_of(db, batch_id, account.id))
    source = Source(coverage.get_layout(db, batch_id), stretches)
    claims = brought.list_claims(db, batch_id)
    used_lines = {claim.line_id for claim in claims if claim.by_hand}
    announced = [line for line in merging.list_pending_lines(db, account.id) if line.line_id not in used_lines]
    used_bookings: dict[int, date] = {}
    counts = brought.count_by_day(db, batch_id, account.id)
    total, done = sum(count for _, count in counts), 0
    for first, last, seen_until in _windows(counts):
        report(done, total, f"Comparing row {done + 1:,} of {total:,} with what is here")
        rows = brought.list_rows_of_days(db, batch_id, account.id, first, seen_until)
        around = first - timedelta(days=DAYS_SAME_ID), seen_until + timedelta(days=DAYS_SAME_ID)
        here = Here(
            [one for one in told_before.list_bookings(db, account.id, *around, batch_id) if one.key not in used_bookings],
            [
                line
                for line in (*merging.list_open_lines(db, account.id, *around), *announced)
                if line.line_id not in used_lines and around[0] <= line.day <= around[1]
            ],
            coverage.list_coverage_beside(db, batch_id, account.id, *around),
        )
        verdicts = judge_rows([row.as_brought() for row in rows], here, source, account.currency)
        judged = [
            (row, asked_if_checked(verdict, row.day, checked_until))
            for row, verdict in zip(rows, verdicts, strict=True)
            if row.day <= last
        ]
        done += len(judged)
        reach = first - timedelta(days=2 * DAYS_SAME_ID)  # what lies further back is not seen again
        used_bookings = {key: day for key, day in used_bookings.items() if day >= reach}
        used_bookings |= {verdict.known_id: row.day for row, verdict in judged if verdict.known_id}
        used_lines |= {verdict.line_id for _, verdict in judged if verdict.line_id and verdict.kind != "new"}
        _note(db, judged)
    left = [line for line in announced if line.line_id not in used_lines]
    _judge_announced(db, batch_id, account, left, used_lines, set(used_bookings), lists_all=lists_all)


def ask_about_untold(db: sqlite3.Connection, batch_id: int, account: Account) -> None:
    """Asks about bookings that the same kind of source told before, and that are missing now that it tells of their days again:
    sent by mistake, with the wrong sign, or twice. Nothing becomes of them unless someone says so."""
    layout = coverage.get_layout(db, batch_id)
    for one in coverage.list_coverage_of(db, batch_id, account.id):
        if not one.is_declared:
            continue
        found = told_before.list_untold(db, batch_id, account.id, layout, one.first, one.last - timedelta(days=1))
        for line_id, row in found:
            untold = Verdict("vanished", False, "the bank listed it before, but no longer does", line_id)
            brought.insert_rows(db, batch_id, account.id, [row], untold)


def _judge_announced(
    db: sqlite3.Connection,
    batch_id: int,
    account: Account,
    left: list[OpenLine],
    used: set[int],
    used_keys: set[int],
    *,
    lists_all: bool,
) -> None:
    """Gives the rows that are announced their verdicts, and says which announced entries have vanished."""
    waiting = brought.list_pending_rows(db, batch_id, account.id)
    over: list[Booking] = []
    typed: list[OpenLine] = []
    if waiting:
        first, last = min(row.day for row in waiting), max(row.day for row in waiting) + timedelta(days=DAYS_TO_BOOK)
        # What was booked, and is none of the rows booked here, may be what this file still announces.
        told = told_before.list_bookings(db, account.id, first, last, batch_id)
        over = [one for one in told if one.line_id not in used and one.key not in used_keys and not one.is_asked]
        over += told_before.list_announced_deleted(db, account.id, first, batch_id)
        days = first - timedelta(days=DAYS_APART), last
        pending = {line.line_id for line in merging.list_pending_lines(db, account.id)}
        typed = [o for o in merging.list_open_lines(db, account.id, *days) if o.line_id not in used | pending]
    verdicts, vanished = judge_pending(
        [row.as_brought() for row in waiting], left, account.currency, lists_all=lists_all, booked=over, typed=typed
    )
    _note(db, zip(waiting, verdicts, strict=True))
    for line in vanished:
        row = BroughtRow(line.day, line.amount_minor, line.payee, bank_ref=line.bank_ref, pending=True)
        gone = Verdict("vanished", True, "the bank announced it and does so no longer; it goes to the trash", line.line_id)
        brought.insert_rows(db, batch_id, account.id, [row], gone)


def _note(db: sqlite3.Connection, judged: Iterable[tuple[StoredRow, Verdict]]) -> None:
    """Writes the verdicts that say something else than what stands there, but for rows the user decided about."""
    said = [
        (row.id, verdict)
        for row, verdict in judged
        if not row.is_overruled
        and (row.verdict, row.take, row.reason, row.match_line_id)
        != (verdict.kind, verdict.take, verdict.reason, verdict.line_id)
    ]
    brought.change_verdicts(db, said)


def _windows(counts: list[tuple[date, int]]) -> Iterator[tuple[date, date, date]]:
    """Stretches of days with about JUDGED_TOGETHER rows: first and last day, and the day until which rows are looked at, since
    an entry typed for a last day may belong to a row of the next stretch."""
    first, rows = None, 0
    for i, (day, count) in enumerate(counts):
        first, rows = first or day, rows + count
        is_last = i == len(counts) - 1
        if is_last or rows >= JUDGED_TOGETHER:
            yield first, day, day if is_last else day + timedelta(days=DAYS_SAME_ID)
            first, rows = None, 0


def judge_again(db: sqlite3.Connection, batch_id: int) -> None:
    """Judges a batch anew when another was brought in while it waited: what that one brought is here now.

    What the user decided stays decided.
    """
    with note(db):
        for account_id in brought.list_accounts_of_batch(db, batch_id):
            account = accounts.get_account(db, account_id)
            judge_batch(db, batch_id, account, lists_all=False)
            prove_by_balances(db, batch_id, account)
