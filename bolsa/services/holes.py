"""Holes: accounts whose value is not known since a day. Their last value is carried and marked, never counted as zero."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.store import accounts, connections


@dataclass(frozen=True)
class Hole:
    """An account not known since a day, and why in words."""

    account_id: int
    name: str
    since: date
    reason: str


def list_holes(db: sqlite3.Connection) -> list[Hole]:
    """The accounts that are open and not known now, in the household's order."""
    missing = connections.list_missing_accounts(db)
    return [
        Hole(a.id, a.name, missing[a.id], "missing at its institution")
        for a in accounts.list_accounts(db)
        if a.id in missing and a.closed_on is None
    ]
