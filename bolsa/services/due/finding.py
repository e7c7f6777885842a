"""What seems to come again and again, found from history, and offered to be kept."""

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.rhythm import times_a_year
from bolsa.core.due.series import FoundSeries, Occurrence, find_series
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.due import repeating, series
from bolsa.store.ledger import payees


def list_found(db: sqlite3.Connection, today: date, among: Iterable[int] | None = None) -> list[FoundSeries]:
    """What comes again and again on everyday accounts, found from the last two years; of all payees, or of those `among`."""
    found = []
    by_payee: dict[tuple[str, int], list[Occurrence]] = {}
    for row in repeating.list_occurrences(db, today - timedelta(days=800), today, among):
        by_payee.setdefault((row.payee, row.account_id), []).append(Occurrence(row.day, row.amount_minor))
    for (payee, account_id), occurrences in by_payee.items():
        one = find_series(payee, account_id, occurrences)
        if one:
            found.append(one)
    return found


def list_series_payees(db: sqlite3.Connection, today: date, among: Iterable[int] | None = None) -> list[int]:
    """The ids of the payees whose entries make a series; of all, or of those `among`."""
    names = {found.payee for found in list_found(db, today, among)}
    ids = payees.list_payee_names(db)
    return sorted(ids[name] for name in names if name in ids)


@dataclass(frozen=True)
class Proposal:
    """A found series that is neither kept nor refused, and the category its entries have."""

    found: FoundSeries
    payee_id: int
    account: Account
    category_id: int | None

    @property
    def key(self) -> str:
        """By which the page names it."""
        return f"{self.payee_id}-{self.account.id}"

    @property
    def yearly_minor(self) -> int:
        """What it comes to in a year, at the last amount. Rounding: half up, once."""
        return round(self.found.amount_minor * times_a_year(self.found.rhythm))


def list_proposals(db: sqlite3.Connection, today: date) -> list[Proposal]:
    """What seems to come again, still came of late, and is neither kept nor refused; the dearest a year first."""
    with reading(db):
        ids = payees.list_payee_names(db)
        by_id = {account.id: account for account in accounts.list_accounts(db)}
        known = series.list_refused(db) | {(kept.payee_id, kept.account_id) for kept in series.list_series(db)}
        found = [
            one for one in list_found(db, today)
            if (ids[one.payee], one.account_id) not in known and one.rhythm.next_days(one.last_day, 2)[-1] >= today
        ]  # fmt: skip
        usual = series.list_last_categories(db, {ids[one.payee] for one in found})
    proposals = [Proposal(one, ids[one.payee], by_id[one.account_id], usual.get(ids[one.payee])) for one in found]
    return sorted(proposals, key=lambda p: (-abs(p.yearly_minor), p.found.payee))
