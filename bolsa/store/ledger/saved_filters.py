"""Filters of registers saved under a name."""

import sqlite3

from bolsa.core.ledger.register import SavedFilter


def list_saved_filters(db: sqlite3.Connection) -> list[SavedFilter]:
    return [SavedFilter(**row) for row in db.execute("SELECT id, name, address FROM saved_filter ORDER BY name")]


PUT_FILTER = """
    INSERT INTO saved_filter (name, address) VALUES (:name, :address)
    ON CONFLICT (name) DO UPDATE SET address = excluded.address"""


def put_saved_filter(db: sqlite3.Connection, name: str, address: str) -> None:
    """Saves a filter; one of that name is replaced."""
    db.execute(PUT_FILTER, {"name": name, "address": address})


def remove_saved_filter(db: sqlite3.Connection, filter_id: int) -> None:
    db.execute("DELETE FROM saved_filter WHERE id = :id", {"id": filter_id})
