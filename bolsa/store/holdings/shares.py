"""Securities, what moved their shares, and the positions institutions declare."""

import sqlite3
from datetime import date

from bolsa.core.holdings.security import Declared, Security
from bolsa.core.holdings.shares import Move
from bolsa.store.connection import new_id


def list_securities(db: sqlite3.Connection) -> list[Security]:
    """All securities by name."""
    return [Security(**row) for row in db.execute("SELECT id, name, code FROM security ORDER BY name COLLATE NOCASE")]


FIND_SECURITY = """
    SELECT id FROM security WHERE (code = :code AND :code <> '') OR name = :name COLLATE NOCASE
    ORDER BY code = :code AND :code <> '' DESC LIMIT 1"""


def find_security(db: sqlite3.Connection, name: str, code: str = "") -> int | None:
    """The id of the security with that code, else of that name."""
    row = db.execute(FIND_SECURITY, {"name": name, "code": code}).fetchone()
    return row["id"] if row else None


def put_security(db: sqlite3.Connection, name: str, code: str = "") -> int:
    """The id of a security, made if it is not there; a code is noted where none was."""
    found = find_security(db, name, code)
    if found is None:
        return new_id(db.execute("INSERT INTO security (name, code) VALUES (:name, :code)", {"name": name, "code": code}))
    if code:
        db.execute("UPDATE security SET code = :code WHERE id = :id AND code = ''", {"id": found, "code": code})
    return found


MOVE_COLUMNS = "id, security_id, day, kind, shares_e8, total_minor, reason, bank_ref"


def _move(row: sqlite3.Row) -> Move:
    values = {name: row[name] for name in row.keys() if name != "account_id"}  # noqa: SIM118 (Row iterates over values)
    return Move(**{**values, "day": date.fromisoformat(row["day"])})


def list_moves(db: sqlite3.Connection, account_id: int) -> list[Move]:
    """An account's moves, the earliest first."""
    sql = f"SELECT {MOVE_COLUMNS} FROM share_move WHERE account_id = :id ORDER BY day, id"
    return [_move(row) for row in db.execute(sql, {"id": account_id})]


def find_move(db: sqlite3.Connection, move_id: int) -> tuple[int, Move] | None:
    """The account of a move, and the move."""
    row = db.execute(f"SELECT account_id, {MOVE_COLUMNS} FROM share_move WHERE id = :id", {"id": move_id}).fetchone()
    return (row["account_id"], _move(row)) if row else None


INSERT_MOVE = """
    INSERT INTO share_move (account_id, security_id, day, kind, shares_e8, total_minor, reason, bank_ref, batch_id)
    VALUES (:account_id, :security_id, :day, :kind, :shares_e8, :total_minor, :reason, :bank_ref, :batch_id)"""


def insert_move(db: sqlite3.Connection, account_id: int, move: Move, batch_id: int | None = None) -> int:
    values = {**move.__dict__, "day": move.day.isoformat(), "account_id": account_id, "batch_id": batch_id}
    return new_id(db.execute(INSERT_MOVE, values))


CHANGE_MOVE = """
    UPDATE share_move SET day = :day, kind = :kind, shares_e8 = :shares_e8, total_minor = :total_minor, reason = :reason
    WHERE id = :id"""


def change_move(db: sqlite3.Connection, move: Move) -> None:
    db.execute(CHANGE_MOVE, {**move.__dict__, "day": move.day.isoformat()})


def remove_move(db: sqlite3.Connection, move_id: int) -> None:
    db.execute("DELETE FROM share_move WHERE id = :id", {"id": move_id})


# The position of each security that was declared last: by day.
LIST_DECLARED = """
    SELECT security_id, day, shares_e8 FROM position_note p WHERE account_id = :id AND day = (
        SELECT max(day) FROM position_note o WHERE o.account_id = p.account_id AND o.security_id = p.security_id)"""


def list_declared(db: sqlite3.Connection, account_id: int) -> dict[int, Declared]:
    """By security: the position the institution declared last for an account."""
    return {
        row["security_id"]: Declared(**{**dict(row), "day": date.fromisoformat(row["day"])})
        for row in db.execute(LIST_DECLARED, {"id": account_id})
    }


PUT_POSITION = """
    INSERT INTO position_note (account_id, security_id, day, shares_e8, batch_id)
    VALUES (:account_id, :security_id, :day, :shares_e8, :batch_id)
    ON CONFLICT (account_id, security_id, day) DO UPDATE SET shares_e8 = excluded.shares_e8"""


def put_position(db: sqlite3.Connection, account_id: int, declared: Declared, batch_id: int | None = None) -> None:
    """Notes a declared position; another one of that day gives way."""
    values = {**declared.__dict__, "day": declared.day.isoformat(), "account_id": account_id, "batch_id": batch_id}
    db.execute(PUT_POSITION, values)


FORGET_POSITIONS = "DELETE FROM position_note WHERE account_id = :account_id AND security_id = :security_id"


def remove_positions(db: sqlite3.Connection, account_id: int, security_id: int) -> None:
    """Forgets every position that was declared of a security."""
    db.execute(FORGET_POSITIONS, {"account_id": account_id, "security_id": security_id})


def count_moves_of_batch(db: sqlite3.Connection, batch_id: int) -> int:
    """How many moves of shares a batch brought that are still its own."""
    return db.execute("SELECT count(*) FROM share_move WHERE batch_id = :id", {"id": batch_id}).fetchone()[0]


# What nobody changed since; a change leaves a row in the journal.
REMOVE_MOVES_OF_BATCH = """
    DELETE FROM share_move WHERE batch_id = :id AND NOT EXISTS (
        SELECT 1 FROM journal_change c WHERE c.table_name = 'share_move' AND c.row_id = share_move.id)"""


def remove_batch(db: sqlite3.Connection, batch_id: int) -> int:
    """Takes out what a batch brought of shares and nobody changed since; gives how many moves that were."""
    db.execute("DELETE FROM position_note WHERE batch_id = :id", {"id": batch_id})
    count = db.execute(REMOVE_MOVES_OF_BATCH, {"id": batch_id}).rowcount
    db.execute("UPDATE share_move SET batch_id = NULL WHERE batch_id = :id", {"id": batch_id})
    return count


LIST_DIFFERING = """
    SELECT account_id, count(*) AS securities FROM (
        SELECT p.account_id, p.security_id, p.shares_e8 - coalesce((
            SELECT sum(m.shares_e8) FROM share_move m
            WHERE m.account_id = p.account_id AND m.security_id = p.security_id AND m.day <= p.day), 0) AS missing_e8
        FROM position_note p WHERE p.day = (
            SELECT max(day) FROM position_note o WHERE o.account_id = p.account_id AND o.security_id = p.security_id))
    WHERE missing_e8 <> 0 GROUP BY account_id"""


def count_differing(db: sqlite3.Connection) -> dict[int, int]:
    """By account: how many securities have other shares here than their institution declared last."""
    return {row["account_id"]: row["securities"] for row in db.execute(LIST_DIFFERING)}
