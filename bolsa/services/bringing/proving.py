"""Comparing a batch in preview with the balances its bank declares: what is asked is decided where they prove it, what they speak
against is marked, and what still lies between is said with the rows that would explain it."""

import sqlite3
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import DAYS_UNSAID, StoredRow
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.bringing.coverage import DAYS_MOVED
from bolsa.core.bringing.doubts import find_doubtful, find_proven
from bolsa.core.bringing.proof import Proof, find_explanations
from bolsa.store.accounts import accounts, openings
from bolsa.store.bringing import batches, brought, coverage, merging, told_before

MOST_LOOKED_AT = 200  # rows
TOLD_BEFORE = 2  # balances that agree on what an account was off by before


def prove_by_balances(db: sqlite3.Connection, batch_id: int, account: Account) -> None:
    """Decides about the rows of an account that are asked about where the declared balance counts them, or does not; marks the
    row it speaks against. A row the user decided about stays as it was decided.

    The account meets the declared balance then, or is off by what it was off before its rows, where the file declares its
    opening balance as well, or the bank's last two balances agree on that: it says nothing of these rows.
    """
    declared = batches.list_declared_balances(db, batch_id, account.id)
    if not declared:
        return
    day, balance_minor = declared[-1]
    opening = _find_opening(db, batch_id, account, declared)
    before = [opening[1]] if opening else [n for _, n in accounts.list_differences_near(db, account.id, day, TOLD_BEFORE)]
    if not before:
        return
    lacking = balance_minor - _comes_to(db, batch_id, account, day)
    asked = [row for row in brought.list_asked_rows(db, batch_id, account.id, day) if not row.is_overruled]
    amounts = [row.amount_minor for row in asked]
    proven = find_proven(amounts, lacking) if asked else None
    if asked and proven is None and _is_sure(db, account, opening, before, amounts):
        proven = find_proven(amounts, lacking - before[0])
    if proven is not None:
        for place, row in enumerate(asked):
            brought.change_row_verdict(db, row.id, _proven(db, row, is_counted=place in proven))
    elif not asked and lacking:
        _doubt(db, batch_id, account, before[0] - lacking)


def _proven(db: sqlite3.Connection, row: StoredRow, *, is_counted: bool) -> Verdict:
    """What a row is that was asked about, by what the declared balance says. What is counted, and may be an entry here that still
    waits for its bank, is that entry: the balance counts either."""
    if not is_counted:
        return Verdict("known", False, "the bank’s balance agrees without it", row.match_line_id)
    waits = row.match_line_id is not None and merging.find_line_state(db, row.match_line_id) == "pending"
    if waits:
        return Verdict("matched", True, "the bank’s balance counts it, and it is awaited here", row.match_line_id)
    return Verdict("new", True, "the bank’s balance counts it")


def _is_sure(
    db: sqlite3.Connection, account: Account, opening: tuple[date, int] | None, before: list[int], amounts: list[int]
) -> bool:
    """Whether what the account was off by before says anything of rows with these amounts: two balances agree on it, or it is
    the file's own opening balance, and nothing like them is here so near to its day that another source may tell it on the
    other side."""
    if opening:
        near = opening[0] - timedelta(days=DAYS_MOVED), opening[0] + timedelta(days=DAYS_MOVED)
        return not told_before.is_any_of(db, account.id, amounts, *near)
    return len(before) == TOLD_BEFORE and len(set(before)) == 1


def _comes_to(db: sqlite3.Connection, batch_id: int, account: Account, day: date) -> int:
    """What an account would hold at the end of a day with what a waiting batch brings, as the bank counts."""
    return accounts.sum_cleared(db, account.id, day) + brought.sum_to_clear_minor(db, batch_id, account.id, day)


def _find_opening(
    db: sqlite3.Connection, batch_id: int, account: Account, declared: list[tuple[date, int]]
) -> tuple[date, int] | None:
    """The day of the balance a batch opens with, at the end of its first day at the latest, and by what the account differs from
    it; None if it declares none."""
    day, balance_minor = declared[0]
    if len(declared) == 1 or day > _first_day(db, batch_id, account, day):
        return None
    return day, balance_minor - _comes_to(db, batch_id, account, day)


def _first_day(db: sqlite3.Connection, batch_id: int, account: Account, otherwise: date) -> date:
    """The first day of which a batch tells."""
    return min((one.first for one in coverage.list_coverage_of(db, batch_id, account.id)), default=otherwise)


def _doubt(db: sqlite3.Connection, batch_id: int, account: Account, off_minor: int) -> None:
    """Marks the row that alone explains that an account would come to so much more than declared."""
    alike = brought.list_fresh_rows(db, batch_id, account.id, off_minor, off_minor // 2)
    fresh = [row for row in alike if not row.is_overruled]
    known = [row.as_brought() for row in brought.list_known_alike(db, batch_id, account.id, off_minor)]
    found = find_doubtful([row.as_brought() for row in fresh], off_minor, known)
    if found:
        row, reason = fresh[found[0]], found[1]
        kind = "suspicious" if row.verdict == "new" else row.verdict
        brought.change_row_verdict(db, row.id, Verdict(kind, row.take, reason, row.match_line_id))


def list_proofs(db: sqlite3.Connection, batch_id: int) -> list[Proof]:
    """For each account of a waiting batch what its file declares it holds, beside what it would come to. An account of which
    nothing was known takes its opening balance from the file, and agrees."""
    unknown = openings.list_unknown(db, batch_id)
    found = []
    for account_id in batches.list_declared_accounts(db, batch_id):
        if account_id not in unknown:
            found.append(_prove(db, batch_id, accounts.get_account(db, account_id)))
    return found


def _prove(db: sqlite3.Connection, batch_id: int, account: Account) -> Proof:
    declared = batches.list_declared_balances(db, batch_id, account.id)
    day, balance_minor = declared[-1]
    begins = _first_day(db, batch_id, account, day)
    before = _find_opening(db, batch_id, account, declared)
    if before is None:
        nearest = accounts.list_differences_near(db, account.id, begins - timedelta(days=1), 1)
        before = next((one for one in nearest if one[0] < begins), None)
    proof = Proof(account, day, balance_minor, _comes_to(db, batch_id, account, day), before)
    since = proof.since_minor
    if not since:
        return proof
    first = before[0] + timedelta(days=1) if before else begins
    rows = brought.list_explaining(db, batch_id, account.id, {-since, -since // 2}, MOST_LOOKED_AT)
    changed = [one for one in brought.list_changed_here(db, batch_id, DAYS_UNSAID) if one.account_id == account.id]
    untold = told_before.list_untold_alike(db, batch_id, account.id, -since, first, day)
    found, takes_both = find_explanations(since, rows, changed, untold)
    return Proof(account, day, balance_minor, proof.comes_to_minor, before, tuple(found), takes_both)
