"""The workings of debts: what is owed, and the interest of each."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.ahead.debts import debt_view
from bolsa.services.clock import By
from bolsa.services.working_parts import Make


def debt(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A sum over debts: "owed", or the interest by the plan or by least payments alone, of a sum and an order that is tried:
    "interest:20000.rate", "least:20000.rate"."""
    kind, _, tried = key.partition(":")
    more, _, order = tried.partition(".")
    if (
        kind not in ("owed", "interest", "least")
        or (more and not more.isdecimal())
        or order not in ("", "rate", "balance", "hand")
    ):
        raise NotFound("There is no such figure.")
    view = debt_view(db, by, int(more) if more else None, order or None)
    payoff = view.least if kind == "least" else view.planned
    parts = []
    for course in payoff.courses:
        note = f"done in {course.done}" if course.done else "never done"
        amount = course.debt.owed_minor if kind == "owed" else course.interest_minor
        ref = ("account", course.debt.id)
        parts.append(Working(course.debt.name, Money(amount, view.home), note="" if kind == "owed" else note, ref=ref))
    words = {"owed": "Owed", "interest": "Interest by this plan", "least": "Interest by the least payments alone"}
    return total_of(words[kind], parts, Money(0, view.home))


WORKINGS: dict[str, Make] = {"debt": debt}
