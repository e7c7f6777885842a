"""The workings of years ahead: debts, what there is at the end of a year, what the books say a year costs."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.whole_numbers import is_number
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.ahead import plans
from bolsa.services.ahead.debts import debt_view
from bolsa.services.clock import By
from bolsa.services.working_parts import Make, parse_key


def debt(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A sum over debts: "owed", or the interest by the plan or by least payments alone, of a sum and an order that is tried:
    "interest:20000.rate", "least:20000.rate"."""
    kind, _, tried = key.partition(":")
    more, _, order = tried.partition(".")
    if (
        kind not in ("owed", "interest", "least")
        or (more and not is_number(more))
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


def total(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What there is at the end of a year of a case, pot by pot, in today's money: "1.2059"."""
    case_id, _, year = key.partition(".")
    books = plans.read_books(db, by)
    view = next((one for one in plans.list_views(db, books) if one.case.id == parse_key(case_id)), None)
    found = next((one for one in view.years if one.year == parse_key(year)), None) if view else None
    if view is None or found is None:
        raise NotFound("There is no such figure.")
    parts = [
        Working(
            pot.name,
            Money(held, books.home),
            note=f"earned {Money(earned, books.home)}, put in {Money(put, books.home)}, drawn {Money(drawn, books.home)}",
        )
        for pot, held, earned, put, drawn in zip(
            view.case.plan.pots, found.held, found.earned, found.put_in, found.drawn, strict=True
        )
    ]
    if found.owing_minor:
        parts.append(Working("Missing so far", Money(-found.owing_minor, books.home)))
    return total_of(f"{view.case.name}: at the end of {found.year}", parts, Money(0, books.home))


def spending(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a year costs by the books, without the interest of debts: twelve times the mean of the last full months."""
    books = plans.read_books(db, by)
    whole = books.spending_minor + books.interest_minor
    parts = [
        Working("Twelve times the mean month", Money(whole, books.home), note=f"of the last {books.months_counted} full months"),
        Working("The interest of debts, which is counted by itself", Money(-books.interest_minor, books.home)),
    ]
    return total_of("Spending a year", parts, Money(0, books.home))


WORKINGS: dict[str, Make] = {"debt": debt, "ahead-total": total, "ahead-spending": spending}
