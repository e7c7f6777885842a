"""The workings of net worth: its accounts, and what changed it."""

import sqlite3
from datetime import date
from urllib.parse import unquote

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.core.worth.changes import CAUSES, WorthChange
from bolsa.core.worth.rates import rate_on
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.working_parts import Make
from bolsa.services.worth import worth
from bolsa.services.worth.worth import Only
from bolsa.store.accounts import accounts
from bolsa.store.house import household

CAUSE_WORDS = {
    "saved": "Saved", "debt": "Debt paid", "market": "Market", "revaluation": "Revaluation", "currency": "Currency",
    "new": "Newly noted",
}  # fmt: skip


def net_worth(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """Net worth at the month's end, or at that of the day the key begins with: every account, foreign ones at that day's rate.
    After each "@" follows a facet and the place that is looked at alone: 2026-05-14@class.Invested@owner.Noor."""
    day, only = _day_and_place(key, month)
    view, rates = worth.worth_on(db, day, only), accounts.list_rates(db)
    parts = []
    for row in view.rows:
        note = ""
        rate = rate_on(row.currency, day, view.currency, rates)
        if row.currency != view.currency and rate is not None:
            note = f"{Money(row.balance_minor, row.currency)} at {rate}"
        parts.append(Working(row.name, Money(row.home_minor, view.currency), note=note, ref=("account", row.account_id)))
    label = f"{', '.join(place for _, place in only)} on {day}" if only else "Net worth"
    return total_of(label, [part for part in parts if part.figure], Money(0, view.currency))


def changed(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What changed net worth between two days, by cause, or one cause by account:
    2026-04-30..2026-05-14:market@class.Invested."""
    whole, *places = key.split("@")
    days, _, cause = whole.partition(":")
    first, _, last = days.partition("..")
    if cause and cause not in CAUSES:
        raise NotFound("There is no such figure.")
    change = worth.what_changed(db, _parse_day(first), _parse_day(last), parse_only(places))
    home = household.get_household(db).home_currency
    parts = [_cause(change, one, home) for one in ([cause] if cause else CAUSES)]
    if cause:
        return parts[0]
    return total_of(f"What changed, {first} to {last}", [part for part in parts if part.figure], Money(0, home))


def _cause(change: WorthChange, cause: str, home: str) -> Working:
    parts = [
        Working(own.name, Money(own.by_cause[cause], home), ref=("account", own.account_id))
        for own in change.accounts
        if own.by_cause[cause]
    ]
    return total_of(CAUSE_WORDS[cause], parts, Money(0, home))


def _day_and_place(key: str, month: Month) -> tuple[date, Only]:
    day, *places = key.split("@")
    return parse_day_key(day, month), parse_only(places)


def parse_day_key(text: str, month: Month) -> date:
    """The day a key begins with, else the month's end. Raises: NotFound."""
    return _parse_day(text) if text and text != "all" else month.last_day


def parse_only(places: list[str]) -> Only:
    """Facets and places as a key holds them: a place is quoted, since it may hold anything."""
    return tuple((facet, unquote(place)) for facet, _, place in (text.partition(".") for text in places))


def _parse_day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise NotFound("There is no such figure.") from error


WORKINGS: dict[str, Make] = {"net-worth": net_worth, "worth-changed": changed}
