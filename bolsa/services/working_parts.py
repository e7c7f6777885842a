"""What the workings of every area share: a part an entry, the rest of a long list in one part that opens further, days in short.

Words about days and amounts are put together here once; the web shows figures, these are the notes beside them.
"""

import sqlite3
from collections.abc import Callable, Sequence

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.whole_numbers import number_of
from bolsa.core.working import Working
from bolsa.errors import NotFound
from bolsa.services.clock import By

MOST_ENTRIES = 150
Make = Callable[[sqlite3.Connection, By, str, Month], Working]


def parse_key(key: str) -> int:
    """The id a figure's key holds. Raises: NotFound."""
    found = number_of(key)
    if found is None:
        raise NotFound("There is no such figure.")
    return found


def split_key(key: str) -> tuple[int, int]:
    """The id of a figure's key and how many entries were shown before: "7" is (7, 0), "7.150" the entries that follow."""
    first, _, offset = key.partition(".")
    return parse_key(first), parse_key(offset) if offset else 0


def entry_parts(rows: Sequence[sqlite3.Row], currency: str, sign: int = 1) -> list[Working]:
    """A part an entry."""
    return [
        Working(r["payee"], Money(sign * r["amount_minor"], currency), note=r["day"], ref=("entry", r["entry_id"])) for r in rows
    ]


def rest_part(lines: int, amount_minor: int, currency: str, ref: tuple[str, object]) -> list[Working]:
    """One part for all entries that are not listed, which opens to them; none if none is left."""
    if lines <= 0:
        return []
    return [Working(f"{lines} more {'entry' if lines == 1 else 'entries'}", Money(amount_minor, currency), ref=ref)]
