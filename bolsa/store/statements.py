"""Statements, the lines ticked on them, and reconciling."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.checking import OpenItem
from bolsa.errors import NotFound


@dataclass(frozen=True)
class Statement:
    """What a bank says an account held at the end of a day; "open" while it is checked, then "reconciled"."""

    id: int
    account_id: int
    closing_day: date
    opening_minor: int
    closing_minor: int
    state: str
    reconciled_at: str | None


COLUMNS = "id, account_id, closing_day, opening_minor, closing_minor, state, reconciled_at"


def _statement(row: sqlite3.Row) -> Statement:
    return Statement(**{**dict(row), "closing_day": date.fromisoformat(row["closing_day"])})


def get_statement(db: sqlite3.Connection, statement_id: int) -> Statement:
    row = db.execute(f"SELECT {COLUMNS} FROM statement WHERE id = :id", {"id": statement_id}).fetchone()
    if row is None:
        raise NotFound("There is no such statement.")
    return _statement(row)


def list_statements(db: sqlite3.Connection, account_id: int) -> list[Statement]:
    """An account's statements, the latest first."""
    sql = f"SELECT {COLUMNS} FROM statement WHERE account_id = :id ORDER BY closing_day DESC, id DESC"
    return [_statement(row) for row in db.execute(sql, {"id": account_id})]


INSERT_STATEMENT = """
    INSERT INTO statement (account_id, closing_day, opening_minor, closing_minor, state)
    VALUES (:account_id, :closing_day, :opening_minor, :closing_minor, 'open')"""


def insert_statement(db: sqlite3.Connection, account_id: int, closing_day: date, opening_minor: int, closing_minor: int) -> int:
    values = {"account_id": account_id, "closing_day": closing_day.isoformat()}
    return db.execute(INSERT_STATEMENT, values | {"opening_minor": opening_minor, "closing_minor": closing_minor}).lastrowid


CHANGE_STATEMENT = """
    UPDATE statement SET closing_day = :closing_day, closing_minor = :closing_minor, state = :state,
        reconciled_at = :reconciled_at WHERE id = :id"""


def change_statement(db: sqlite3.Connection, statement: Statement) -> None:
    db.execute(CHANGE_STATEMENT, {**statement.__dict__, "closing_day": statement.closing_day.isoformat()})


def remove_statement(db: sqlite3.Connection, statement_id: int) -> None:
    """Forgets a statement that was never reconciled, with its ticks."""
    db.execute("DELETE FROM statement_tick WHERE statement_id = :id", {"id": statement_id})
    db.execute("DELETE FROM statement WHERE id = :id", {"id": statement_id})


LIST_ITEMS = """
    SELECT l.id AS line_id, e.id AS entry_id, l.day, l.amount_minor, p.name AS payee, t.id IS NOT NULL AS ticked
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    LEFT JOIN statement_tick t ON t.line_id = l.id AND t.statement_id = :statement_id
    WHERE l.account_id = :account_id AND l.state <> 'reconciled' AND l.day <= :day
    ORDER BY l.day, l.id"""


def list_items(db: sqlite3.Connection, statement: Statement) -> tuple[OpenItem, ...]:
    """The lines up to the closing day that no statement has reconciled, oldest first."""
    values = {"statement_id": statement.id, "account_id": statement.account_id}
    rows = db.execute(LIST_ITEMS, values | {"day": statement.closing_day.isoformat()})
    return tuple(OpenItem(**{**dict(r), "day": date.fromisoformat(r["day"]), "ticked": bool(r["ticked"])}) for r in rows)


TICK_CLEARED = """
    INSERT INTO statement_tick (statement_id, line_id)
    SELECT :statement_id, l.id FROM line l
    WHERE l.account_id = :account_id AND l.state = 'cleared' AND l.day <= :day
        AND NOT EXISTS (SELECT 1 FROM statement_tick t WHERE t.line_id = l.id)"""


def tick_cleared_lines(db: sqlite3.Connection, statement: Statement) -> None:
    """Ticks what the bank has said already: every cleared line up to the closing day."""
    values = {"statement_id": statement.id, "account_id": statement.account_id}
    db.execute(TICK_CLEARED, values | {"day": statement.closing_day.isoformat()})


def put_tick(db: sqlite3.Connection, statement_id: int, line_id: int) -> None:
    sql = "INSERT INTO statement_tick (statement_id, line_id) VALUES (:statement_id, :line_id) ON CONFLICT DO NOTHING"
    db.execute(sql, {"statement_id": statement_id, "line_id": line_id})


def remove_tick(db: sqlite3.Connection, statement_id: int, line_id: int) -> None:
    sql = "DELETE FROM statement_tick WHERE statement_id = :statement_id AND line_id = :line_id"
    db.execute(sql, {"statement_id": statement_id, "line_id": line_id})


LOCK_LINES = """
    UPDATE line SET state = 'reconciled', statement_id = :id
    WHERE id IN (SELECT line_id FROM statement_tick WHERE statement_id = :id)"""
OPEN_LINES = """
    INSERT INTO statement_tick (statement_id, line_id) SELECT :id, id FROM line WHERE statement_id = :id"""
UNLOCK_LINES = "UPDATE line SET state = 'cleared', statement_id = NULL WHERE statement_id = :id"


def lock_ticked_lines(db: sqlite3.Connection, statement_id: int) -> None:
    """Reconciles the ticked lines with the statement; the ticks have done their work."""
    db.execute(LOCK_LINES, {"id": statement_id})
    db.execute("DELETE FROM statement_tick WHERE statement_id = :id", {"id": statement_id})


def unlock_lines(db: sqlite3.Connection, statement_id: int) -> None:
    """Opens the statement's lines again: cleared, and ticked on it."""
    db.execute(OPEN_LINES, {"id": statement_id})
    db.execute(UNLOCK_LINES, {"id": statement_id})
