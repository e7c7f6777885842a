"""Connections to institutions and the accounts they know."""

import sqlite3
from dataclasses import dataclass

from bolsa.errors import NotFound


@dataclass(frozen=True)
class Connection:
    """A consent to download from an institution; "working", "broken" (with the last error), or "cut off"."""

    id: int
    institution: str
    base_url: str
    token: str
    state: str
    last_success: str | None
    last_error: str


@dataclass(frozen=True)
class RemoteAccount:
    """An account at the institution, and the one here it is linked to, if any."""

    id: int
    connection_id: int
    remote_number: str
    remote_name: str
    remote_kind: str
    currency: str
    account_id: int | None


COLUMNS = "id, institution, base_url, token, state, last_success, last_error"


def insert_connection(db: sqlite3.Connection, institution: str, base_url: str, token: str) -> int:
    sql = "INSERT INTO connection (institution, base_url, token, state) VALUES (:institution, :base_url, :token, 'working')"
    return db.execute(sql, {"institution": institution, "base_url": base_url, "token": token}).lastrowid


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
    db.execute(PUT_REMOTE, remote.__dict__)


REMOTE_COLUMNS = "id, connection_id, remote_number, remote_name, remote_kind, currency, account_id"


def list_remote_accounts(db: sqlite3.Connection, connection_id: int) -> list[RemoteAccount]:
    sql = f"SELECT {REMOTE_COLUMNS} FROM connection_account WHERE connection_id = :id ORDER BY id"
    return [RemoteAccount(**row) for row in db.execute(sql, {"id": connection_id})]


def link_remote_account(db: sqlite3.Connection, remote_id: int, account_id: int | None) -> None:
    sql = "UPDATE connection_account SET account_id = :account_id WHERE id = :id"
    db.execute(sql, {"id": remote_id, "account_id": account_id})
