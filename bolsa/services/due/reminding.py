"""Reminders: making one, those that are open, doing and forgetting them."""

import sqlite3
from datetime import date

from bolsa.core.due.reminders import Reminder, check_words
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.due import reminders


def list_open(db: sqlite3.Connection) -> list[Reminder]:
    """The reminders that are not done, in order of day."""
    return reminders.list_open(db)


def list_near(db: sqlite3.Connection, today: date) -> list[Reminder]:
    """The open reminders whose day is past, or near."""
    return [one for one in reminders.list_open(db) if one.is_near(today)]


def add_reminder(db: sqlite3.Connection, by: By, day: date, words: str) -> Done:
    """Reminds of something on a day; makes the reminder's id. Raises: InvalidInput."""
    with change(db, by) as done:
        words = check_words(words)
        if day < by.today:
            raise InvalidInput("That day is past.", field="day")
        done.sentence = f"Will remind on {day}: {words}"
        done.made = reminders.insert_reminder(db, day, words)
    return done


def do_reminder(db: sqlite3.Connection, by: By, reminder_id: int) -> Done:
    """Notes that it was thought of. Raises: NotFound."""
    with change(db, by) as done:
        done.sentence = f"Done: {reminders.get_reminder(db, reminder_id).words}"
        reminders.put_done(db, reminder_id, by.today)
    return done


def forget_reminder(db: sqlite3.Connection, by: By, reminder_id: int) -> Done:
    """Takes a reminder out. Raises: NotFound."""
    with change(db, by) as done:
        done.sentence = f"Forgot: {reminders.get_reminder(db, reminder_id).words}"
        reminders.remove_reminder(db, reminder_id)
    return done
