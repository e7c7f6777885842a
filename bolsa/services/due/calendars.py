"""The dues as a calendar that other programs subscribe to (iCalendar, RFC 5545)."""

import sqlite3
from datetime import datetime, timedelta
from pathlib import Path

from bolsa.core.units import Money
from bolsa.services.clock import By
from bolsa.services.due.dues import list_kept
from bolsa.services.due.reminding import list_open
from bolsa.store import private

DAYS = 366


def save_calendar(db: sqlite3.Connection, by: By, path: Path) -> None:
    """Writes the calendar into a file; one that is there is replaced when all of it is written. Raises: FileUnusable."""
    private.write_text(path, write_calendar(db, by))


def write_calendar(db: sqlite3.Connection, by: By) -> str:
    """A year of dues ahead, an all-day event each: what is paid or comes, how much, and on which account; and what is to be
    thought of."""
    from icalendar import Calendar, Event  # only who asks for a calendar waits for it

    calendar = Calendar()
    calendar.add("prodid", "-//Bolsa//Due//EN")
    calendar.add("version", "2.0")
    for one in list_kept(db, by, by.today + timedelta(days=DAYS)):
        for due in one.dues:
            if due.state not in ("awaited", "late"):
                continue
            event = Event()
            amount = Money(due.expected_minor, one.series.currency)
            event.add("summary", f"{one.series.payee} {amount}")
            event.add("dtstart", due.day)
            event.add("dtend", due.day + timedelta(days=1))
            event.add("dtstamp", datetime.fromisoformat(by.at.replace("Z", "+00:00")))
            event.add("uid", f"series-{one.series.id}-{due.day:%Y%m%d}@bolsa")
            event.add("description", f"{one.account.name}")
            event.add("transp", "TRANSPARENT")
            calendar.add_component(event)
    for reminder in list_open(db):
        if reminder.day >= by.today:
            event = Event()
            event.add("summary", reminder.words)
            event.add("dtstart", reminder.day)
            event.add("dtend", reminder.day + timedelta(days=1))
            event.add("dtstamp", datetime.fromisoformat(by.at.replace("Z", "+00:00")))
            event.add("uid", f"reminder-{reminder.id}@bolsa")
            event.add("transp", "TRANSPARENT")
            calendar.add_component(event)
    return calendar.to_ical().decode()
