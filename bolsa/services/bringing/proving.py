"""Comparing a batch in preview with the balances its bank declares: what is asked is decided where they prove it, and what they
speak against is marked."""

import sqlite3

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.bringing.doubts import find_doubtful, find_proven
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought

TOLD_BEFORE = 2  # balances that agree on what an account was off by before


def prove_by_balances(db: sqlite3.Connection, batch_id: int, account: Account) -> None:
    """Decides about the rows of an account that are asked about where the declared balance counts them, or does not; marks the
    row it speaks against. A row the user decided about stays as it was decided.

    The account meets the declared balance then, or is off by what it was off before, where the bank's last two balances agree
    on that: it says nothing of these rows.
    """
    declared = batches.find_declared(db, batch_id, account.id)
    before = accounts.list_differences_near(db, account.id, declared[0], TOLD_BEFORE) if declared else []
    if declared is None or not before:
        return
    day, balance_minor = declared
    lacking = balance_minor - accounts.sum_cleared(db, account.id, day)
    lacking -= brought.sum_to_clear_minor(db, batch_id, account.id, day)
    asked = [row for row in brought.list_asked_rows(db, batch_id, account.id, day) if not row.is_overruled]
    amounts = [row.amount_minor for row in asked]
    proven = find_proven(amounts, lacking) if asked else None
    if asked and proven is None and len(before) == TOLD_BEFORE and len(set(before)) == 1:
        proven = find_proven(amounts, lacking - before[0])
    if proven is not None:
        for place, row in enumerate(asked):
            if place in proven:
                verdict = Verdict("new", True, "the bank’s balance counts it")
            else:
                verdict = Verdict("known", False, "the bank’s balance agrees without it", row.match_line_id)
            brought.change_row_verdict(db, row.id, verdict)
    elif not asked and lacking:
        _doubt(db, batch_id, account, before[0] - lacking)


def _doubt(db: sqlite3.Connection, batch_id: int, account: Account, off_minor: int) -> None:
    alike = brought.list_fresh_rows(db, batch_id, account.id, off_minor, off_minor // 2)
    fresh = [row for row in alike if not row.is_overruled]
    known = [row.as_brought() for row in brought.list_known_alike(db, batch_id, account.id, off_minor)]
    found = find_doubtful([row.as_brought() for row in fresh], off_minor, known)
    if found:
        row, reason = fresh[found[0]], found[1]
        kind = "suspicious" if row.verdict == "new" else row.verdict
        brought.change_row_verdict(db, row.id, Verdict(kind, row.take, reason, row.match_line_id))
