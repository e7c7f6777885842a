"""The one clock. Web and command line ask it once a request and pass the answer on as `By`."""

import sqlite3
from dataclasses import dataclass
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from bolsa.store.house import household


@dataclass(frozen=True)
class By:
    """Who does something, and when: the household's day, the instant in UTC as text, and whether they may change anything."""

    today: date
    at: str
    member_id: int | None = None
    may_change: bool = True


def by_now(db: sqlite3.Connection, member_id: int | None = None) -> By:
    """The present, as the household's clock tells it: the day it is set to, or the machine's in its time zone."""
    now = datetime.now(UTC)
    kept = household.find_household(db)
    today = now.astimezone(ZoneInfo(kept.time_zone)).date() if kept else now.date()
    if kept and kept.set_day:
        today = kept.set_day
    return By(today, now.strftime("%Y-%m-%dT%H:%M:%SZ"), member_id)
