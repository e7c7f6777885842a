"""The working of Today's lowest point."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.today.sittings import look_ahead
from bolsa.services.working_parts import Make
from bolsa.store.house import household


def everyday_ahead(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What all everyday accounts hold together at the end of a day ahead (the key): what they hold now and what is due. Raises:
    NotFound for another day."""
    home, view = household.get_household(db).home_currency, look_ahead(db, by)
    day = next((point.day for point in view.curve if point.day.isoformat() == key), None)
    if day is None:
        raise NotFound("Today does not look ahead to that day.")
    parts = [Working("Everyday accounts hold today", Money(view.now_minor, home))]
    open_ones = [due for due in (*view.late, *view.dues) if max(due.day, by.today) <= day]
    parts += [
        Working(due.series.payee, Money(due.expected_minor, home), f"late since {due.day}" if due.late_days else f"{due.day}")
        for due in open_ones
    ]
    parts += [Working("Entered ahead", Money(amount, home), f"{on}") for on, amount in view.dated if on <= day]
    return total_of(f"Everyday money at the end of {day}", parts, Money(0, home))


WORKINGS: dict[str, Make] = {"everyday-ahead": everyday_ahead}
