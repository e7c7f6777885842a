"""What the rows of a batch are: each gets its verdict against what is here now, some days of a long file at a time."""

import sqlite3
from collections.abc import Iterable, Iterator
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import StoredRow
from bolsa.core.bringing.doubts import find_doubtful
from bolsa.core.bringing.matching import DAYS_SAME_ID, Verdict, asked_if_checked, judge_rows
from bolsa.core.bringing.pending import DAYS_TO_BOOK, PendingLine, find_booked, judge_pending
from bolsa.core.bringing.rows import BroughtRow
from bolsa.services.changes import note
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, merging
from bolsa.store.checking import statements

JUDGED_TOGETHER = 5_000  # rows


def judge_batch(
    db: sqlite3.Connection, batch_id: int, account: Account, kind: str, *, lists_all: bool, report: Report = silent
) -> None:
    """Gives each of a batch's rows for an account its verdict against what is here now; what the user decided stays decided.

    A long file is judged some days at a time, so that memory does not grow with it.
    """
    checked_until = statements.find_account_checked_until(db, account.id)
    decided = {claim.line_id for claim in brought.list_claims(db, batch_id) if claim.by_hand}
    announced = [line for line in merging.list_pending_lines(db, account.id) if line.line_id not in decided]
    booked = _find_booked(db, batch_id, account, announced)
    used_known: dict[int, date] = {}
    counts = brought.count_by_day(db, batch_id, account.id)
    total, done = sum(count for _, count in counts), 0
    used_lines = decided | {verdict.line_id for verdict in booked.values()}
    for first, last, seen_until in _windows(counts):
        report(done, total, f"Comparing row {done + 1:,} of {total:,} with what is here")
        rows = brought.list_rows_of_days(db, batch_id, account.id, first, seen_until)
        around = first - timedelta(days=DAYS_SAME_ID), seen_until + timedelta(days=DAYS_SAME_ID)
        known = [row for row in brought.list_known_rows(db, account.id, *around) if row.id not in used_known]
        lines = [line for line in merging.list_open_lines(db, account.id, *around) if line.line_id not in used_lines]
        now_booked = {i: booked[row.id] for i, row in enumerate(rows) if row.id in booked}
        verdicts = judge_rows([row.as_brought() for row in rows], known, lines, kind, now_booked)
        judged = [
            (row, asked_if_checked(verdict, row.day, checked_until))
            for row, verdict in zip(rows, verdicts, strict=True)
            if row.day <= last
        ]
        done += len(judged)
        reach = first - timedelta(days=2 * DAYS_SAME_ID)  # what lies further back is not seen again
        used_known = {id_: day for id_, day in used_known.items() if day >= reach}
        used_known |= {verdict.known_id: row.day for row, verdict in judged if verdict.known_id}
        used_lines |= {verdict.line_id for _, verdict in judged if verdict.kind == "matched"}
        _note(db, judged)
    left = [line for line in announced if line.line_id not in used_lines]
    waiting = brought.list_pending_rows(db, batch_id, account.id)
    pending, vanished = judge_pending([row.as_brought() for row in waiting], left, account.currency, lists_all=lists_all)
    _note(db, zip(waiting, pending, strict=True))
    for line in vanished:
        row = BroughtRow(line.day, line.amount_minor, line.text, bank_ref=line.bank_ref, pending=True)
        gone = Verdict("vanished", True, "the bank announced it and does so no longer; it goes to the trash", line.line_id)
        brought.insert_rows(db, batch_id, account.id, [row], gone)


def doubt_by_balances(db: sqlite3.Connection, fresh: list[StoredRow], off_minor: int) -> None:
    """Marks the row that the declared balances speak against, if there is one."""
    found = find_doubtful([row.as_brought() for row in fresh], off_minor)
    if found:
        row, reason = fresh[found[0]], found[1]
        kind = "suspicious" if row.verdict == "new" else row.verdict
        brought.change_row_verdict(db, row.id, Verdict(kind, row.take, reason, row.match_line_id))


def _note(db: sqlite3.Connection, judged: Iterable[tuple[StoredRow, Verdict]]) -> None:
    """Writes the verdicts that say something else than what stands there, but for rows the user decided about."""
    said = [
        (row.id, verdict)
        for row, verdict in judged
        if not row.is_overruled
        and (row.verdict, row.reason, row.match_line_id) != (verdict.kind, verdict.reason, verdict.line_id)
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


def _find_booked(db: sqlite3.Connection, batch_id: int, account: Account, announced: list[PendingLine]) -> dict[int, Verdict]:
    """By row id: the verdict that it is an entry the bank had announced."""
    if not announced:
        return {}
    days = [line.day for line in announced]
    around = min(days) - timedelta(days=DAYS_TO_BOOK), max(days) + timedelta(days=DAYS_TO_BOOK)
    rows = brought.list_rows_of_days(db, batch_id, account.id, *around)
    found = find_booked([row.as_brought() for row in rows], announced, account.currency)
    return {rows[i].id: verdict for i, verdict in found.items()}


def judge_again(db: sqlite3.Connection, batch_id: int) -> None:
    """Judges a batch anew when another was brought in while it waited: what that one brought is here now.

    What the user decided stays decided.
    """
    with note(db):
        for account_id in brought.list_accounts_of_batch(db, batch_id):
            account = accounts.get_account(db, account_id)
            judge_batch(db, batch_id, account, batches.get_format(db, batch_id), lists_all=False)
