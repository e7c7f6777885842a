"""The workings of Sort's figures: what a payee comes to, the sum of a pile, what would be filed."""

import sqlite3
from collections import Counter

from bolsa.core.months import Month
from bolsa.core.sorting.category import Unsorted
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.sorting import sorting
from bolsa.services.working_parts import MOST_ENTRIES, Make, entry_parts, parse_key, rest_part
from bolsa.store.house import household
from bolsa.store.ledger import payee_facts, payees

MOST_MONTHS = 24  # that are listed one by one; more come together year by year


def payee(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What came from a payee less what went to it, in home currency: "7" by month or by year, "7.2025" a year by month,
    "7.2025-05:2026-04" a stretch by month, "7.2025-05" and "7.2025-05.150" a month by entry. Transfers and what is kept out of
    the answers do not count."""
    id_text, _, when = key.partition(".")
    payee_id = parse_key(id_text)
    name, home = payees.get_payee(db, payee_id).name, household.get_household(db).home_currency
    period, _, after = when.partition(".")
    first, _, last = period.partition(":")
    if "-" in first and not last:
        return _payee_month(db, payee_id, Month.parse(first), parse_key(after) if after else 0)
    by_month = payee_facts.sum_by_month(db, payee_id)
    months = {m: -amount for m, amount in by_month.items() if not period or first <= m <= (last or f"{first}-12")}
    by_year = not period and len(months) > MOST_MONTHS
    sums = Counter[str]()
    for one, amount in months.items():
        sums[one[:4] if by_year else one] += amount
    parts = [Working(f"In {when}", Money(sums[when], home), ref=("payee", f"{payee_id}.{when}")) for when in sorted(sums)]
    said = f", {first} to {last}" if last else f" in {period}" if period else " in all"
    return total_of(f"{name}{said}", parts, Money(0, home), ref=("payee-page", payee_id))


def _payee_month(db: sqlite3.Connection, payee_id: int, month: Month, offset: int) -> Working:
    name, home = payees.get_payee(db, payee_id).name, household.get_household(db).home_currency
    rows = payee_facts.list_lines(db, payee_id, month)
    shown, rest = rows[offset : offset + MOST_ENTRIES], rows[offset + MOST_ENTRIES :]
    parts = entry_parts(shown, home, -1)
    more = -sum(row["amount_minor"] for row in rest)
    parts += rest_part(len(rest), more, home, ("payee", f"{payee_id}.{month}.{offset + MOST_ENTRIES}"))
    return total_of(f"{name} in {month}{' (further entries)' if offset else ''}", parts, Money(0, home))


def pile(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The entries of a pile, each with what of it waits. Raises: NotFound once it is filed."""
    found = sorting.find_pile(db, key)
    if found is None:
        raise NotFound("This pile is sorted.")
    return total_of(f"{found.payee}, what waits", [_waits(one) for one in found.entries], Money(0, found.currency))


def certain(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What would be filed under a category (below 0 a transfer) at a certainty, pile by pile; the key is such as "90.6.EUR"."""
    least, _, rest = key.partition(".")
    wanted, _, currency = rest.partition(".")
    for one in sorting.what_to_sort(db).certain_at(parse_key(least) / 100):
        if (str(one.category_id), one.currency) == (wanted, currency):
            parts = []
            for of_pile, ids in one.piles:
                entries = [_waits(entry) for entry in of_pile.entries if entry.entry_id in ids]
                parts.append(total_of(of_pile.payee, entries, Money(0, currency)))
            return total_of("What would be filed", parts, Money(0, currency))
    raise NotFound("Nothing is as certain as that any more.")


def _waits(entry: Unsorted) -> Working:
    part = f", a part of {Money(entry.amount_minor, entry.currency)}" if entry.is_part else ""
    return Working(
        entry.payee, Money(entry.waits_minor, entry.currency), f"{entry.day} · {entry.account}{part}", ("entry", entry.entry_id)
    )


WORKINGS: dict[str, Make] = {"payee": payee, "pile": pile, "certain": certain}
