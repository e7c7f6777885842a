"""The workings of answers: the entries of a cut, a mean out of its months, a difference out of two cuts, what stayed.

A figure's key is its cut as text (core/answers/cut.py); what else it needs follows after "@".
"""

import sqlite3

from bolsa.core.answers.cut import Cut
from bolsa.core.answers.questions import mean_of
from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.answers import answers
from bolsa.services.clock import By
from bolsa.services.working_parts import MOST_ENTRIES, Make, parse_key, rest_part
from bolsa.store.house import household

_WORDS = {"spent": "Spent", "received": "Received"}


def whole(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The entries of a cut; "…@150" begins after so many."""
    text, _, after = key.partition("@")
    cut, offset = Cut.parse(text), parse_key(after) if after else 0
    home = household.get_household(db).home_currency
    found = answers.list_entries(db, cut, MOST_ENTRIES, offset)
    parts = [
        Working(
            one.line.payee,
            Money(one.amount_minor, home),
            note=f"{one.line.day} · {one.category}",
            ref=("entry", one.line.entry_id),
        )
        for one in found
    ]
    lines = answers.count_entries(db, cut)
    if lines > offset + MOST_ENTRIES:
        total = answers.answer(db, cut, "").total_minor
        before = sum(one.amount_minor for one in answers.list_entries(db, cut, offset)) if offset else 0
        rest = total - before - sum(one.amount_minor for one in found)
        parts += rest_part(lines - offset - MOST_ENTRIES, rest, home, ("answer", f"{cut}@{offset + MOST_ENTRIES}"))
    further = " (further entries)" if offset else ""
    return total_of(f"{_label(db, cut)}{further}", parts, Money(0, home))


def mean(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The mean of a cut over the months that follow its key: each month, and what dividing takes off."""
    text, _, months_text = key.partition("@")
    cut, months = Cut.parse(text), [Month.parse(one) for one in months_text.split(",") if one]
    home = household.get_household(db).home_currency
    amounts = answers.answer(db, cut, "").whole.amounts(months)
    parts = [
        Working(f"In {m}", Money(amount, home), ref=("answer", str(cut.over(m.first_day, m.last_day))))
        for m, amount in zip(months, amounts, strict=True)
    ]
    taken = mean_of(amounts) - sum(amounts)
    if len(months) > 1:
        parts.append(Working(f"Divided by {len(months)} months", Money(taken, home), note=f"of {Money(sum(amounts), home)}"))
    return total_of(f"{_label(db, cut)}, a month", parts, Money(0, home))


def made(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What made a difference: the later cut less the earlier one, which follows its key."""
    later, _, earlier = key.partition("@")
    after, before = Cut.parse(later), Cut.parse(earlier)
    home = household.get_household(db).home_currency
    parts = [
        Working(
            f"{cut.first} to {cut.last}", Money(sign * answers.answer(db, cut, "").total_minor, home), ref=("answer", str(cut))
        )
        for cut, sign in ((after, 1), (before, -1))
    ]
    return total_of(f"Made by {_label(db, after)}", parts, Money(0, home))


def stayed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What stayed: received less spent."""
    cut, home = Cut.parse(key), household.get_household(db).home_currency
    if cut.measure != "received":
        raise NotFound("There is no such figure.")
    out = Cut("spent", cut.first, cut.last, cut.conditions)
    parts = [
        Working(_WORDS[one.measure], Money(sign * answers.answer(db, one, "").total_minor, home), ref=("answer", str(one)))
        for one, sign in ((cut, 1), (out, -1))
    ]
    return total_of(f"Stayed, {cut.first} to {cut.last}", parts, Money(0, home))


def _label(db: sqlite3.Connection, cut: Cut) -> str:
    names = [answers.name_of(db, condition) for condition in cut.conditions if not condition.is_left_out]
    return f"{_WORDS[cut.measure]}{' on ' if names else ''}{', '.join(names)}"


WORKINGS: dict[str, Make] = {"answer": whole, "answer-mean": mean, "answer-made": made, "answer-stayed": stayed}
