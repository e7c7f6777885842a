"""Taking an account out whole: what hangs on it, and removing all of it."""

import sqlite3
from datetime import date

from bolsa.core.accounts.noted import Belongings
from bolsa.core.ledger.entries import Line
from bolsa.store.tables import ACCOUNT_BELONGINGS, ACCOUNT_ITSELF

COUNT_BELONGINGS = """
    WITH mine AS (SELECT DISTINCT entry_id FROM line WHERE account_id = :id),
         shared AS (SELECT DISTINCT l.entry_id FROM line l JOIN mine USING (entry_id)
                    WHERE l.account_id IS NOT NULL AND l.account_id <> :id)
    SELECT (SELECT count(*) FROM mine) - (SELECT count(*) FROM shared) AS entries, (SELECT count(*) FROM shared) AS transfers,
        (SELECT count(*) FROM statement WHERE account_id = :id) AS statements,
        (SELECT count(*) FROM value_note WHERE account_id = :id) AS 'values',
        (SELECT count(*) FROM brought_row WHERE account_id = :id) AS bank_rows,
        (SELECT count(*) FROM trade WHERE account_id = :id) AS trades,
        (SELECT count(*) FROM series WHERE account_id = :id) AS series,
        (SELECT min(day) FROM line WHERE account_id = :id) AS first_day,
        (SELECT max(day) FROM line WHERE account_id = :id) AS last_day"""


def count_belongings(db: sqlite3.Connection, account_id: int) -> Belongings:
    row = db.execute(COUNT_BELONGINGS, {"id": account_id}).fetchone()
    days = {name: date.fromisoformat(row[name]) if row[name] else None for name in ("first_day", "last_day")}
    return Belongings(**{**dict(row), **days})


LIST_LEFT_EMPTY = """
    SELECT a.id FROM account a WHERE a.made_by_batch = :batch
        AND NOT EXISTS (SELECT 1 FROM line l WHERE l.account_id = a.id AND l.entry_id IS NOT (
            SELECT k.entry_id FROM known_balance k WHERE k.id = a.id))
        AND NOT EXISTS (SELECT 1 FROM statement s WHERE s.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM value_note v WHERE v.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM trade t WHERE t.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM series s WHERE s.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM position_note p WHERE p.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM connection_account c WHERE c.account_id = a.id)
        AND NOT EXISTS (SELECT 1 FROM brought_row r JOIN batch b ON b.id = r.batch_id
                        WHERE r.account_id = a.id AND r.batch_id <> :batch AND b.state IN ('waiting', 'brought'))"""


def list_left_empty(db: sqlite3.Connection, batch_id: int) -> list[int]:
    """The accounts a batch's file made to which nothing else came."""
    return [row["id"] for row in db.execute(LIST_LEFT_EMPTY, {"batch": batch_id})]


def count_pending(db: sqlite3.Connection, account_id: int) -> int:
    """How many of an account's lines are pending."""
    # The second condition says nothing new; it lets SQLite use the index of the lines that are not reconciled.
    sql = "SELECT count(*) FROM line WHERE account_id = :id AND state = 'pending' AND state <> 'reconciled'"
    return db.execute(sql, {"id": account_id}).fetchone()[0]


def clear_pending(db: sqlite3.Connection, account_id: int) -> None:
    """Counts an account's pending lines as cleared."""
    db.execute("UPDATE line SET state = 'cleared' WHERE account_id = :id AND state = 'pending'", {"id": account_id})


LIST_OWN_ENTRIES = """
    SELECT DISTINCT entry_id FROM line l WHERE l.account_id = :id AND NOT EXISTS (
        SELECT 1 FROM line o WHERE o.entry_id = l.entry_id AND o.account_id IS NOT NULL AND o.account_id <> :id)"""
LIST_SHARED_LINES = "SELECT id, entry_id, amount_minor, currency, day FROM line WHERE account_id = :id"


def list_own_entries(db: sqlite3.Connection, account_id: int) -> list[int]:
    """The entries that touch no other account."""
    return [row["entry_id"] for row in db.execute(LIST_OWN_ENTRIES, {"id": account_id})]


def list_lines(db: sqlite3.Connection, account_id: int) -> list[tuple[int, Line]]:
    """The account's lines, each with its entry's id."""
    return [
        (r["entry_id"], Line(r["amount_minor"], r["currency"], account_id, day=date.fromisoformat(r["day"]), id=r["id"]))
        for r in db.execute(LIST_SHARED_LINES, {"id": account_id})
    ]


# A transfer's other side stays: a category takes the place of the line that goes, with the amount mirrored as categories have it.
TURN_INTO_CATEGORY = """
    UPDATE line SET account_id = NULL, category_id = :category_id, state = NULL, bank_ref = '', value_day = NULL, raw_text = ''
    WHERE account_id = :id"""


def remove_belongings(db: sqlite3.Connection, account_id: int) -> None:
    """Takes out statements, values, bank rows and links; the account's lines are free then."""
    for sql in ACCOUNT_BELONGINGS:
        db.execute(sql, {"id": account_id})


def turn_lines_into_category(db: sqlite3.Connection, account_id: int, category_id: int) -> None:
    """Gives the account's remaining lines to a category: the far sides of transfers keep their entries in balance."""
    db.execute(TURN_INTO_CATEGORY, {"id": account_id, "category_id": category_id})


def remove_account(db: sqlite3.Connection, account_id: int) -> None:
    """Takes out the account itself."""
    for sql in ACCOUNT_ITSELF:
        db.execute(sql, {"id": account_id})
