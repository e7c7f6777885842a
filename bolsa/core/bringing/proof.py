"""What a file declares beside what an account would come to with it, and which rows would explain what lies between.

Every difference here is what the bank says, less what would be here.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import ChangedHere, StoredRow

MOST_EXPLAINED = 5


class Untold(NamedTuple):
    """A cleared line of the days a file covers, which none of its rows is."""

    entry_id: int
    day: date
    amount_minor: int
    payee: str


class Explanation(NamedTuple):
    """A row of a file, or an entry here, that alone would explain a difference, and why; `cure` is what to decide about the row,
    "" where nothing in the file would help."""

    day: date
    amount_minor: int
    payee: str
    reason: str
    cure: str = ""
    row_id: int | None = None
    entry_id: int | None = None


@dataclass(frozen=True)
class Proof:
    """The balance a file declares for an account at the end of a day, what the account would come to with it, and the
    difference there was before the file's rows, with its day, where that is known."""

    account: Account
    day: date
    declared_minor: int
    comes_to_minor: int
    before: tuple[date, int] | None = None
    explained: tuple[Explanation, ...] = ()

    @property
    def difference_minor(self) -> int:
        return self.declared_minor - self.comes_to_minor

    @property
    def since_minor(self) -> int:
        """The part of the difference that is not older than the file's rows."""
        return self.difference_minor - (self.before[1] if self.before else 0)


def find_explanations(
    since_minor: int, rows: Sequence[StoredRow], changed: Sequence[ChangedHere], untold: Sequence[Untold]
) -> list[Explanation]:
    """What would alone explain that a file's declared balance is so much more than the account would come to; the surest
    first.

    >>> row = StoredRow(7, 1, 1, date(2026, 3, 2), -1240, "Grebe", "", "", None, 0, False, "new", True, "", None, None, None)
    >>> [(one.cure, one.row_id) for one in find_explanations(1240, [row], [], [])]
    [('leave', 7)]
    """
    if not since_minor:
        return []
    found = [
        _of_row(row, "isn’t brought in; with it, the account agrees", "bring")
        for row in rows
        if not row.take and row.amount_minor == since_minor
    ]
    found += [
        Explanation(
            one.day, one.amount_minor, one.payee, "stands here with another amount", "correct" if one.is_curable else "",
            one.row_id, one.entry_id,
        )
        for one in changed
        if one.amount_minor - one.here_minor == since_minor
    ]  # fmt: skip
    found += [
        Explanation(one.day, one.amount_minor, one.payee, "is here, but not in the file", entry_id=one.entry_id)
        for one in untold
        if one.amount_minor == -since_minor
    ]
    fresh = [row for row in rows if row.take and row.verdict in ("new", "suspicious")]
    found += [
        _of_row(row, "isn’t counted by the bank; without it, the account agrees", "leave")
        for row in fresh
        if row.amount_minor == -since_minor
    ]
    found += [
        _of_row(row, "is counted the other way round by the bank: its sign may be wrong")
        for row in fresh
        if 2 * row.amount_minor == -since_minor
    ]
    return found[:MOST_EXPLAINED]


def _of_row(row: StoredRow, reason: str, cure: str = "") -> Explanation:
    return Explanation(row.day, row.amount_minor, row.payee, reason, cure, row.id)
