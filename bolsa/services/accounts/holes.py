"""Holes: accounts whose value is not known since a day. Their last value is carried and marked, never counted as zero."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.valuation import DAYS_KNOWN
from bolsa.store.accounts import accounts, values
from bolsa.store.bringing import connections


@dataclass(frozen=True)
class Hole:
    """An account not known since a day, and why in words."""

    account_id: int
    name: str
    since: date
    reason: str


def list_holes(db: sqlite3.Connection, today: date) -> list[Hole]:
    """The accounts that are open and not known now, in the household's order: missing at their institution, or valued and
    not noted for longer than a quarter."""
    missing, noted = connections.list_missing_accounts(db), values.list_last_values(db)
    holes = []
    for account in accounts.list_accounts(db):
        if account.closed_on is not None:
            continue
        if account.id in missing:
            holes.append(Hole(account.id, account.name, missing[account.id], "missing at its institution"))
        elif account.is_valued:
            last = noted[account.id].day if account.id in noted else account.opened_on
            if (today - last).days > DAYS_KNOWN:
                holes.append(Hole(account.id, account.name, last, "no value was noted"))
    return holes


def list_unnoted(db: sqlite3.Connection, day: date) -> list[str]:
    """The names of accounts that were there on a day and counted by noted values, of which none was noted for longer than a
    quarter until then."""
    noted = values.list_last_values(db, day)
    found = []
    for account in accounts.list_accounts(db):
        is_there = account.opened_on <= day and (account.closed_on is None or account.closed_on > day)
        last = noted[account.id].day if account.id in noted else account.opened_on
        if account.is_valued and is_there and (day - last).days > DAYS_KNOWN:
            found.append(account.name)
    return found
