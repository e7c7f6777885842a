"""Checking an account against a statement: the difference, and what may lie behind it."""

import itertools
from dataclasses import dataclass
from datetime import date

from bolsa.core.money import decimal_text


@dataclass(frozen=True)
class OpenItem:
    """An account line that no statement has reconciled yet."""

    line_id: int
    entry_id: int
    day: date
    amount_minor: int
    payee: str
    ticked: bool


@dataclass(frozen=True)
class Check:
    """A statement against the books. Every amount is from the account's side.

    `difference_minor` is what the ticked lines still lack to lead from the opening to the closing balance.
    """

    opening_minor: int
    closing_minor: int
    items: tuple[OpenItem, ...]

    @property
    def ticked_minor(self) -> int:
        return sum(item.amount_minor for item in self.items if item.ticked)

    @property
    def reached_minor(self) -> int:
        return self.opening_minor + self.ticked_minor

    @property
    def difference_minor(self) -> int:
        return self.closing_minor - self.reached_minor

    @property
    def agrees(self) -> bool:
        return self.difference_minor == 0


@dataclass(frozen=True)
class Suspect:
    """A line that would explain the difference, and the reason in words, surest first in a list."""

    item: OpenItem
    reason: str


def find_suspects(check: Check, currency: str = "EUR") -> list[Suspect]:
    """Lines that by themselves explain the difference, each with its reason; empty when it agrees.

    A line not ticked that equals it; a ticked line that is its mirror (here, not at the bank); half of it (the sign is
    wrong); a pair of equal ticked lines on one day (there twice); swapped digits (the difference divides by nine).
    """
    d = check.difference_minor
    if not d:
        return []
    found: list[tuple[int, Suspect]] = []
    for item in check.items:
        rank, reason = _explain(item, d, currency)
        if reason:
            found.append((rank, Suspect(item, reason)))
    doubles = _doubles(check.items, d)
    found = [(r, s) for r, s in found if s.item.line_id not in {x.item.line_id for x in doubles}]
    return doubles + [suspect for _, suspect in sorted(found, key=lambda f: (f[0], f[1].item.day, f[1].item.line_id))]


def _explain(item: OpenItem, d: int, currency: str) -> tuple[int, str]:
    if not item.ticked and item.amount_minor == d:
        return 1, "equals the difference and is not ticked"
    if item.ticked and item.amount_minor == -d:
        return 2, "equals the difference and is ticked; perhaps the bank does not have it"
    if item.ticked and item.amount_minor * 2 == -d:
        return 3, "is half the difference; perhaps its sign is wrong"
    if item.ticked and _swapped(item.amount_minor, item.amount_minor + d):
        here, there = (decimal_text(abs(amount), currency) for amount in (item.amount_minor, item.amount_minor + d))
        return 4, f"two digits may be swapped: {here} for {there}"
    return 9, ""


def _doubles(items: tuple[OpenItem, ...], d: int) -> list[Suspect]:
    ticked = [i for i in items if i.ticked and i.amount_minor == -d]
    pairs = [b for a, b in itertools.pairwise(ticked) if abs((b.day - a.day).days) <= 3]
    return [Suspect(item, "is there twice") for item in pairs]


def _swapped(one: int, other: int) -> bool:
    """Whether two amounts of one sign differ by two neighbouring digits exchanged."""
    if one == other or (one - other) % 9 or (one < 0) != (other < 0):
        return False
    a, b = str(abs(one)), str(abs(other)).zfill(len(str(abs(one))))
    places = [i for i in range(len(a)) if a[i] != b[i]] if len(a) == len(b) else []
    return len(places) == 2 and places[1] - places[0] == 1 and a[places[0]] == b[places[1]]
