"""What was suspect or expected, was looked at, and is right as it is."""

import sqlite3


def list_kept(db: sqlite3.Connection) -> set[str]:
    """The keys of what is right as it is."""
    return {row["key"] for row in db.execute("SELECT key FROM suspect_kept")}


def keep(db: sqlite3.Connection, key: str) -> None:
    db.execute("INSERT INTO suspect_kept (key) VALUES (:key) ON CONFLICT DO NOTHING", {"key": key})
