"""What comes again and again, as found from history."""

import sqlite3
from collections.abc import Iterable
from datetime import date, timedelta

from bolsa.core.due.series import Occurrence, Series, find_series
from bolsa.store.due import repeating
from bolsa.store.ledger import payees


def list_series(db: sqlite3.Connection, today: date, among: Iterable[int] | None = None) -> list[Series]:
    """What comes again and again on everyday accounts, found from the last two years; of all payees, or of those `among`."""
    found = []
    by_payee: dict[tuple[str, int], list[Occurrence]] = {}
    for row in repeating.list_occurrences(db, today - timedelta(days=800), today, among):
        by_payee.setdefault((row.payee, row.account_id), []).append(Occurrence(row.day, row.amount_minor))
    for (payee, account_id), occurrences in by_payee.items():
        series = find_series(payee, account_id, occurrences)
        if series:
            found.append(series)
    return found


def list_series_payees(db: sqlite3.Connection, today: date, among: Iterable[int] | None = None) -> list[int]:
    """The ids of the payees whose entries make a series; of all, or of those `among`."""
    names = {series.payee for series in list_series(db, today, among)}
    ids = payees.list_payee_names(db)
    return sorted(ids[name] for name in names if name in ids)
