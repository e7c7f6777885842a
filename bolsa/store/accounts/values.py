"""Noted values of accounts, and the entries that book gain or loss up to them."""

import sqlite3
from datetime import date

from bolsa.core.accounts.noted import ValueNote
from bolsa.core.accounts.valuation import Noted
from bolsa.store.bringing.reach import ACCOUNTS_TOUCHED
from bolsa.store.ledger import entries

COLUMNS = "id, account_id, day, amount_minor, source, entry_id, grown_minor"


def _note(row: sqlite3.Row) -> ValueNote:
    kept = {name: row[name] for name in COLUMNS.split(", ")}
    return ValueNote(**{**kept, "day": date.fromisoformat(row["day"])})


def has_values(db: sqlite3.Connection, account_id: int) -> bool:
    """Whether any value of an account is noted."""
    return bool(db.execute("SELECT EXISTS (SELECT 1 FROM value_note WHERE account_id = :id)", {"id": account_id}).fetchone()[0])


def list_values(db: sqlite3.Connection, account_id: int) -> list[ValueNote]:
    """An account's noted values in order of day."""
    sql = f"SELECT {COLUMNS} FROM value_note WHERE account_id = :id ORDER BY day"
    return [_note(row) for row in db.execute(sql, {"id": account_id})]


LIST_LOCKED = """
    SELECT n.day FROM value_note n JOIN line l ON l.entry_id = n.entry_id AND l.account_id = n.account_id
    WHERE n.account_id = :id AND l.state = 'reconciled' ORDER BY n.day"""


def list_locked(db: sqlite3.Connection, account_id: int) -> list[date]:
    """The days of noted values whose gain or loss is reconciled."""
    return [date.fromisoformat(row["day"]) for row in db.execute(LIST_LOCKED, {"id": account_id})]


def list_last_values(db: sqlite3.Connection, day: date = date.max) -> dict[int, ValueNote]:
    """The latest noted value, of those until a day, of each account that has any."""
    sql = f"SELECT {COLUMNS}, max(day) AS latest FROM value_note WHERE day <= :day GROUP BY account_id"
    return {row["account_id"]: _note(row) for row in db.execute(sql, {"day": day.isoformat()})}


PUT_VALUE = """
    INSERT INTO value_note (account_id, day, amount_minor, source, grown_minor)
    VALUES (:account_id, :day, :amount_minor, :source, :grown_minor)
    ON CONFLICT (account_id, day) DO UPDATE SET amount_minor = excluded.amount_minor, source = excluded.source,
        grown_minor = excluded.grown_minor"""


def put_value(db: sqlite3.Connection, account_id: int, noted: Noted) -> None:
    """Notes a value; one of that day is replaced."""
    values = {"account_id": account_id, "day": noted.day.isoformat(), "amount_minor": noted.amount_minor}
    db.execute(PUT_VALUE, values | {"source": noted.source, "grown_minor": noted.grown_minor})


def remove_value(db: sqlite3.Connection, account_id: int, day: date) -> None:
    """Forgets a noted value and the entry it booked."""
    where = {"account_id": account_id, "day": day.isoformat()}
    db.execute("DELETE FROM value_note WHERE account_id = :account_id AND day = :day", where)


def remove_booking(db: sqlite3.Connection, entry_id: int) -> None:
    """Takes out the entry a forgotten value had booked."""
    entries.remove_entry(db, entry_id)


def set_entry(db: sqlite3.Connection, note_id: int, entry_id: int | None) -> None:
    """Notes which entry books what led to a value."""
    db.execute("UPDATE value_note SET entry_id = :entry_id WHERE id = :id", {"id": note_id, "entry_id": entry_id})


LIST_TOUCHED = f"SELECT DISTINCT account_id FROM value_note WHERE account_id IN ({ACCOUNTS_TOUCHED})"


def list_touched_accounts(db: sqlite3.Connection, step_id: int) -> list[int]:
    """The accounts with noted values whose lines or values a step changed, or that what it brought in reaches."""
    return [row["account_id"] for row in db.execute(LIST_TOUCHED, {"step": step_id})]


SUM_MARKET = """
    SELECT m.month, m.currency, sum(-m.report_minor) AS amount_minor FROM category_month m
    JOIN category c ON c.id = m.category_id AND c.role = 'market'
    WHERE m.month BETWEEN :first AND :last GROUP BY m.month, m.currency"""


def list_market_gains(db: sqlite3.Connection, first: str, last: str) -> list[tuple[str, str, int]]:
    """What values gained (or lost, negative) by month and currency."""
    return [(r["month"], r["currency"], r["amount_minor"]) for r in db.execute(SUM_MARKET, {"first": first, "last": last})]


def market_category(db: sqlite3.Connection) -> int:
    """The id of the category that gains and losses of value are booked under."""
    return db.execute("SELECT id FROM category WHERE role = 'market'").fetchone()["id"]


def trades_category(db: sqlite3.Connection) -> int:
    """The id of the category that the cash of trades comes from and goes to."""
    return db.execute("SELECT id FROM category WHERE role = 'trades'").fetchone()["id"]
