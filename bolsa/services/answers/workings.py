"""The workings of answers: the entries of a cut, a mean out of its months, a difference out of two cuts, what stayed.

A figure's key is its cut as text (core/answers/cut.py); what else it needs follows after "@".
"""

import sqlite3

from bolsa.core.answers.cut import Cut
from bolsa.core.money import mean_of, median_of
from bolsa.core.months import Month, months_between
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
    cut, months = _cut_and_months(key)
    home = household.get_household(db).home_currency
    amounts = answers.answer(db, cut, "").whole.amounts(months)
    parts = [_in_month(cut, m, amount, home) for m, amount in zip(months, amounts, strict=True)]
    taken = mean_of(amounts) - sum(amounts)
    if len(months) > 1:
        parts.append(Working(f"Divided by {len(months)} months", Money(taken, home), note=f"of {Money(sum(amounts), home)}"))
    return total_of(f"{_label(db, cut)}, a month", parts, Money(0, home))


def median(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The median of a cut over months: the one in the middle, or the two there and what halving takes off."""
    cut, months = _cut_and_months(key)
    home = household.get_household(db).home_currency
    amounts = answers.answer(db, cut, "").whole.amounts(months)
    ordered = sorted(zip(amounts, months, strict=True))
    middle = ordered[(len(ordered) - 1) // 2 : len(ordered) // 2 + 1]
    parts = [_in_month(cut, m, amount, home) for amount, m in middle]
    if len(parts) > 1:
        parts.append(Working("Half of the two", Money(median_of(amounts) - sum(amount for amount, _ in middle), home)))
    return total_of(f"{_label(db, cut)}, the month in the middle of {len(months)}", parts, Money(0, home))


def grew(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """How much more a month of a cut came to in later months than in earlier ones: cut@earlier@later."""
    earlier, _, later = key.rpartition("@")
    text = earlier.partition("@")[0]
    home = household.get_household(db).home_currency
    parts = []
    for words, one, sign in (("Second half, a month", f"{text}@{later}", 1), ("First half, a month", earlier, -1)):
        cut, months = _cut_and_months(one)
        amount = sign * mean_of(answers.answer(db, cut, "").whole.amounts(months))
        parts.append(Working(words, Money(amount, home), ref=("answer-mean", one)))
    return total_of(f"{_label(db, Cut.parse(text))}, grew by a month", parts, Money(0, home))


def _cut_and_months(key: str) -> tuple[Cut, list[Month]]:
    """A cut and the months that follow its key, single ones and stretches: …@2026-01,2026-03..2026-05."""
    text, _, months_text = key.partition("@")
    months = []
    for token in filter(None, months_text.split(",")):
        first, _, last = token.partition("..")
        months += months_between(Month.parse(first), Month.parse(last or first))
    return Cut.parse(text), months


def _in_month(cut: Cut, month: Month, amount_minor: int, home: str) -> Working:
    ref = ("answer", str(cut.over(month.first_day, month.last_day)))
    return Working(f"In {month}", Money(amount_minor, home), ref=ref)


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


WORKINGS: dict[str, Make] = {
    "answer": whole, "answer-mean": mean, "answer-median": median, "answer-made": made, "answer-grew": grew,
    "answer-stayed": stayed,
}  # fmt: skip
