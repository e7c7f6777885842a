"""What seems to come again and again, found from history, and offered to be kept."""

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.rhythm import times_a_year
from bolsa.core.due.series import FoundSeries, Occurrence, counts_along, find_series, without_number
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.due import repeating, series
from bolsa.store.due.repeating import RepeatedLine
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
    return found if among is not None else found + _find_numbered(db, today, {(one.payee, one.account_id) for one in found})


def _find_numbered(db: sqlite3.Connection, today: date, found: set[tuple[str, int]]) -> list[FoundSeries]:
    """What comes again under a name with another number each time: that of the month, the week, or a run."""
    by_name: dict[tuple[str, int], list[tuple[RepeatedLine, int]]] = {}
    for row in repeating.list_numbered(db, today - timedelta(days=800), today):
        named = without_number(row.payee)
        if named:
            by_name.setdefault((named[0], row.account_id), []).append((row, named[1]))
    series_found = []
    for (name, account_id), rows in by_name.items():
        if (name, account_id) in found or not counts_along([(row.day, number) for row, number in rows]):
            continue
        one = find_series(name, account_id, [Occurrence(row.day, row.amount_minor) for row, _ in rows])
        if one:
            spellings = tuple(dict.fromkeys(row.payee for row, _ in rows))
            series_found.append(replace(one, spellings=spellings))
    return series_found


def list_series_payees(db: sqlite3.Connection, today: date, among: Iterable[int] | None = None) -> list[int]:
    """The ids of the payees whose entries make a series; of all, or of those `among`."""
    names = {found.payee for found in list_found(db, today, among)}
    ids = payees.list_payee_names(db)
    return sorted(ids[name] for name in names if name in ids)


@dataclass(frozen=True)
class Proposal:
    """A found series that is neither kept nor refused, and the category its entries have. Of one found under several spellings
    `payee_id` is the latest, and `other_ids` are the others; they become one payee."""

    found: FoundSeries
    payee_id: int
    account: Account
    category_id: int | None
    other_ids: tuple[int, ...] = ()

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
        of_late = [one for one in list_found(db, today) if one.rhythm.next_days(one.last_day, 2)[-1] >= today]
        spelled = [(one, [ids[name] for name in one.spellings or (one.payee,)]) for one in of_late]
        found = [(one, own) for one, own in spelled if not any((id_, one.account_id) in known for id_ in own)]
        usual = series.list_last_categories(db, {own[-1] for _, own in found})
    proposals = [Proposal(one, own[-1], by_id[one.account_id], usual.get(own[-1]), tuple(own[:-1])) for one, own in found]
    return sorted(proposals, key=lambda p: (-abs(p.yearly_minor), p.found.payee))
