"""What accounts are known to have held, and the lines their opening balances are reckoned from."""

import sqlite3
from datetime import date

from bolsa.core.accounts.opening import KnownBalance
from bolsa.store.bringing.reach import ACCOUNTS_TOUCHED

FIND_KNOWN = "SELECT id AS account_id, day, amount_minor, entry_id FROM known_balance WHERE id = :id"
PUT_KNOWN = """
    INSERT INTO known_balance (id, day, amount_minor, entry_id) VALUES (:id, :day, :amount, :entry_id)
    ON CONFLICT (id) DO UPDATE SET day = excluded.day, amount_minor = excluded.amount_minor, entry_id = excluded.entry_id"""


def find_known(db: sqlite3.Connection, account_id: int) -> KnownBalance | None:
    """What an account is known to have held, if anyone said so."""
    row = db.execute(FIND_KNOWN, {"id": account_id}).fetchone()
    return KnownBalance(**{**dict(row), "day": date.fromisoformat(row["day"])}) if row else None


def put_known(db: sqlite3.Connection, known: KnownBalance) -> None:
    """Keeps what an account is known to have held, in place of what was known before."""
    day, amount = known.day.isoformat(), known.amount_minor
    db.execute(PUT_KNOWN, {"id": known.account_id, "day": day, "amount": amount, "entry_id": known.entry_id})


def remove_known(db: sqlite3.Connection, account_id: int) -> None:
    """Nothing is known any more; the opening entry stays as it is."""
    db.execute("DELETE FROM known_balance WHERE id = :id", {"id": account_id})


FIND_FIRST_DAY = """
    SELECT l.day FROM line l WHERE l.account_id = :id AND l.day < :day AND l.id <> :without ORDER BY l.day LIMIT 1"""


def find_first_day(db: sqlite3.Connection, account_id: int, before: date, without_line: int = 0) -> date | None:
    """The day of an account's first line before a day, one line not counted."""
    row = db.execute(FIND_FIRST_DAY, {"id": account_id, "day": before.isoformat(), "without": without_line}).fetchone()
    return date.fromisoformat(row["day"]) if row else None


LIST_TOUCHED = f"""
    SELECT k.id FROM known_balance k WHERE k.id IN (
        SELECT c.row_id FROM journal_change c WHERE c.step_id = :step AND c.table_name IN ('known_balance', 'account')
        UNION {ACCOUNTS_TOUCHED})"""


def list_touched(db: sqlite3.Connection, step_id: int) -> list[int]:
    """The accounts with a known balance whose lines a step changed, or that what it brought in reaches."""
    return [row["id"] for row in db.execute(LIST_TOUCHED, {"step": step_id})]


def was_changed(db: sqlite3.Connection, step_id: int, line_id: int) -> bool:
    """Whether a step changed a line."""
    sql = "SELECT EXISTS (SELECT 1 FROM journal_change WHERE step_id = :step AND table_name = 'line' AND row_id = :line)"
    return bool(db.execute(sql, {"step": step_id, "line": line_id}).fetchone()[0])


KNOWN_CHANGES = """
    SELECT coalesce(max(before ->> 'day' IS NOT after ->> 'day'
                        OR before ->> 'amount_minor' IS NOT after ->> 'amount_minor'), 0) AS said,
        coalesce(max(before ->> 'entry_id' IS NOT NULL AND after ->> 'entry_id' IS NULL), 0) AS lost
    FROM journal_change WHERE step_id = :step AND table_name = 'known_balance' AND row_id = :id"""


def was_said(db: sqlite3.Connection, step_id: int, account_id: int) -> bool:
    """Whether a step says what an account held."""
    return bool(db.execute(KNOWN_CHANGES, {"step": step_id, "id": account_id}).fetchone()["said"])


def lost_its_entry(db: sqlite3.Connection, step_id: int, account_id: int) -> bool:
    """Whether a step took an account's opening entry out."""
    return bool(db.execute(KNOWN_CHANGES, {"step": step_id, "id": account_id}).fetchone()["lost"])


# An account of which nothing was known before its first file: no line that the file did not bring, and no statement.
LIST_UNKNOWN = """
    SELECT b.account_id, b.day, b.amount_minor FROM bank_balance b JOIN account a ON a.id = b.account_id
    WHERE b.batch_id = :batch AND NOT EXISTS (SELECT 1 FROM known_balance k WHERE k.id = b.account_id)
        AND NOT EXISTS (SELECT 1 FROM statement s WHERE s.account_id = b.account_id)
        AND NOT EXISTS (SELECT 1 FROM line l JOIN entry e ON e.id = l.entry_id
                        WHERE l.account_id = b.account_id AND e.batch_id IS NOT :batch)
    ORDER BY b.account_id, b.day"""


def list_unknown(db: sqlite3.Connection, batch_id: int) -> dict[int, tuple[date, int]]:
    """By account a batch is the first to bring anything to: the last day its bank told the balance of, and that balance."""
    rows = db.execute(LIST_UNKNOWN, {"batch": batch_id})
    return {row["account_id"]: (date.fromisoformat(row["day"]), row["amount_minor"]) for row in rows}
