"""Reminders as they are kept."""

import sqlite3
from datetime import date

from bolsa.core.due.reminders import Reminder
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

COLUMNS = "id, day, words, done_on"


def _reminder(row: sqlite3.Row) -> Reminder:
    done_on = date.fromisoformat(row["done_on"]) if row["done_on"] else None
    return Reminder(row["id"], date.fromisoformat(row["day"]), row["words"], done_on)


def list_open(db: sqlite3.Connection) -> list[Reminder]:
    """The reminders that are not done, in order of day."""
    rows = db.execute(f"SELECT {COLUMNS} FROM reminder WHERE done_on IS NULL ORDER BY day, id")
    return [_reminder(row) for row in rows]


def get_reminder(db: sqlite3.Connection, reminder_id: int) -> Reminder:
    row = db.execute(f"SELECT {COLUMNS} FROM reminder WHERE id = :id", {"id": reminder_id}).fetchone()
    if row is None:
        raise NotFound("That reminder is not here any more.")
    return _reminder(row)


def insert_reminder(db: sqlite3.Connection, day: date, words: str) -> int:
    return new_id(db.execute("INSERT INTO reminder (day, words) VALUES (:day, :words)", {"day": day.isoformat(), "words": words}))


def put_done(db: sqlite3.Connection, reminder_id: int, day: date) -> None:
    """Notes that a reminder was done on a day."""
    db.execute("UPDATE reminder SET done_on = :day WHERE id = :id", {"day": day.isoformat(), "id": reminder_id})


def remove_reminder(db: sqlite3.Connection, reminder_id: int) -> None:
    db.execute("DELETE FROM reminder WHERE id = :id", {"id": reminder_id})
