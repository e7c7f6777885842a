"""Checking an account against a statement: what is ticked, what it leads to, and the difference that remains.

What may lie behind a difference is found in suspects.py.
"""

from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.whole_numbers import counted


@dataclass(frozen=True)
class OpenItem:
    """An account line that no statement has reconciled yet.

    `bank_minor` is the amount the bank sent for it, None if the bank never spoke of it. `can_change` says whether its
    amount may be corrected in one stroke: one category against it, or one other account that is not reconciled.
    """

    line_id: int
    entry_id: int
    day: date
    amount_minor: int
    payee: str
    ticked: bool
    bank_minor: int | None = None
    can_change: bool = True


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
    def open_items(self) -> tuple[OpenItem, ...]:
        """The lines up to the closing day that are not ticked: they stay open, and the account differs from the bank by them."""
        return tuple(item for item in self.items if not item.ticked)

    @property
    def open_minor(self) -> int:
        return sum(item.amount_minor for item in self.open_items)

    @property
    def agrees(self) -> bool:
        return self.difference_minor == 0


@dataclass(frozen=True)
class Period:
    """What a statement covers. `first_day` is None where it simply follows the one before."""

    closing_day: date
    opening_minor: int
    closing_minor: int
    first_day: date | None = None


def seam_between(before: Period, after: Period) -> str:
    """What is wrong where two statements meet, in words; "" if the second goes on where the first ended."""
    if after.first_day and after.first_day <= before.closing_day:
        days = (before.closing_day - after.first_day).days + 1
        return f"overlaps the one before by {counted(days, 'day')}"
    if after.first_day and after.first_day > before.closing_day + timedelta(days=1):
        days = (after.first_day - before.closing_day).days - 1
        return f"leaves {counted(days, 'day')} unchecked since the one before"
    if after.opening_minor != before.closing_minor:
        return "does not open with what the one before closed with"
    return ""
