"""Connections to institutions and the accounts they know."""

import sqlite3
from datetime import date

from bolsa.core.bringing.batch import Connection, RemoteAccount
from bolsa.core.known import known
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

COLUMNS = "id, institution, base_url, token, state, last_success, last_error"


def insert_connection(db: sqlite3.Connection, institution: str, base_url: str, token: str) -> int:
    sql = "INSERT INTO connection (institution, base_url, token, state) VALUES (:institution, :base_url, :token, 'working')"
    return new_id(db.execute(sql, {"institution": institution, "base_url": base_url, "token": token}))


def get_connection(db: sqlite3.Connection, connection_id: int) -> Connection:
    row = db.execute(f"SELECT {COLUMNS} FROM connection WHERE id = :id", {"id": connection_id}).fetchone()
    if row is None:
        raise NotFound("There is no such connection.")
    return Connection(**row)


def list_connections(db: sqlite3.Connection) -> list[Connection]:
    """The connections that were not cut off."""
    sql = f"SELECT {COLUMNS} FROM connection WHERE state <> 'cut off' ORDER BY id"
    return [Connection(**row) for row in db.execute(sql)]


CHANGE_CONNECTION = """
    UPDATE connection SET base_url = :base_url, token = :token, state = :state, last_success = :last_success,
        last_error = :last_error WHERE id = :id"""


def change_connection(db: sqlite3.Connection, connection: Connection) -> None:
    db.execute(CHANGE_CONNECTION, connection.__dict__)


PUT_REMOTE = """
    INSERT INTO connection_account (connection_id, remote_number, remote_name, remote_kind, currency, account_id)
    VALUES (:connection_id, :remote_number, :remote_name, :remote_kind, :currency, :account_id)
    ON CONFLICT (connection_id, remote_number) DO UPDATE SET remote_name = excluded.remote_name"""


def put_remote_account(db: sqlite3.Connection, remote: RemoteAccount) -> None:
    """Keeps an account the institution told of; a link that is there stays."""
    words = ("connection_id", "remote_number", "remote_name", "remote_kind", "currency", "account_id")
    db.execute(PUT_REMOTE, {name: getattr(remote, name) for name in words})


REMOTE_COLUMNS = """
    id, connection_id, remote_number, remote_name, remote_kind, currency, account_id, last_seen, missing_since"""


def _remote(row: sqlite3.Row) -> RemoteAccount:
    days = {name: date.fromisoformat(row[name]) if row[name] else None for name in ("last_seen", "missing_since")}
    return RemoteAccount(**{**dict(row), **days})


def list_remote_accounts(db: sqlite3.Connection, connection_id: int) -> list[RemoteAccount]:
    sql = f"SELECT {REMOTE_COLUMNS} FROM connection_account WHERE connection_id = :id ORDER BY id"
    return [_remote(row) for row in db.execute(sql, {"id": connection_id})]


LIST_MISSING = f"SELECT {REMOTE_COLUMNS} FROM connection_account WHERE missing_since IS NOT NULL AND account_id IS NOT NULL"


def list_missing_accounts(db: sqlite3.Connection) -> dict[int, date]:
    """The accounts here that are missing at their institution, and since when."""
    return {known(remote.account_id): known(remote.missing_since) for remote in map(_remote, db.execute(LIST_MISSING))}


NOTE_SEEN = "UPDATE connection_account SET last_seen = :seen, missing_since = :missing WHERE id = :id"


def note_seen(db: sqlite3.Connection, remote_id: int, *, last_seen: date | None, missing_since: date | None) -> None:
    """Notes when the institution last sent an account, and since when it is missing there."""
    values = {
        "id": remote_id,
        "seen": last_seen and last_seen.isoformat(),
        "missing": missing_since and missing_since.isoformat(),
    }
    db.execute(NOTE_SEEN, values)


FIND_LINKED = """
    SELECT remote_name FROM connection_account WHERE account_id = :account_id AND id <> :id
        AND connection_id IN (SELECT id FROM connection WHERE state <> 'cut off') LIMIT 1"""


def find_linked(db: sqlite3.Connection, account_id: int, but_id: int) -> str | None:
    """The name of another account at an institution that is linked to an account here, None if none is."""
    row = db.execute(FIND_LINKED, {"account_id": account_id, "id": but_id}).fetchone()
    return row["remote_name"] if row else None


FIND_LINKED_BESIDE = """
    SELECT 1 FROM connection_account WHERE account_id = :account_id
        AND NOT (connection_id = :connection_id AND remote_number = :number)
        AND connection_id IN (SELECT id FROM connection WHERE state <> 'cut off') LIMIT 1"""


def find_linked_beside(db: sqlite3.Connection, account_id: int, connection_id: int, number: str) -> bool:
    """Whether another account at an institution than this one is linked to an account here."""
    values = {"account_id": account_id, "connection_id": connection_id, "number": number}
    return db.execute(FIND_LINKED_BESIDE, values).fetchone() is not None


def link_remote_account(db: sqlite3.Connection, remote_id: int, account_id: int | None) -> None:
    # Another account has nothing of what was sent before: it is asked for from the beginning.
    sql = """UPDATE connection_account SET last_seen = CASE WHEN account_id IS :account_id THEN last_seen END,
                 account_id = :account_id WHERE id = :id"""
    db.execute(sql, {"id": remote_id, "account_id": account_id})
