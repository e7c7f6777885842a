"""What a file declares beside what an account would come to with it, and which rows would explain what lies between.

Every difference here is what the bank says, less what would be here.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import combinations
from typing import NamedTuple

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import ChangedHere, StoredRow

MOST_EXPLAINED = 5
MOST_DOUBTFUL = 40  # ways of which each two are tried together
_SUREST_FIRST = ("bring", "correct", "", "leave")  # by what is to be done


class Untold(NamedTuple):
    """A cleared line of the days a file covers, which none of its rows is."""

    entry_id: int
    day: date
    amount_minor: int
    payee: str


class Explanation(NamedTuple):
    """A row of a file, or an entry here, that would explain a difference, and why; `cure` is what to decide about the row,
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
    takes_both: bool = False  # the two that are named explain it together; otherwise each does alone

    @property
    def difference_minor(self) -> int:
        return self.declared_minor - self.comes_to_minor

    @property
    def since_minor(self) -> int:
        """The part of the difference that is not older than the file's rows."""
        return self.difference_minor - (self.before[1] if self.before else 0)


class _Way(NamedTuple):
    """One thing that may be done about a difference, and how much more the account comes to with it."""

    explanation: Explanation
    effect_minor: int
    is_doubtful: bool  # of a row that is out, or not as the bank counts it: it may explain a part of a difference


def find_explanations(
    since_minor: int, rows: Sequence[StoredRow], changed: Sequence[ChangedHere], untold: Sequence[Untold]
) -> tuple[list[Explanation], bool]:
    """What would explain that a file's declared balance is so much more than the account would come to: each alone, the surest
    first; where none does, the two doubtful rows that do together (true then), if no others would.

    >>> row = StoredRow(7, 1, 1, date(2026, 3, 2), -1240, "Grebe", "", "", None, 0, False, "new", True, "", None, None, None)
    >>> [(one.cure, one.row_id) for one in find_explanations(1240, [row], [], [])[0]]
    [('leave', 7)]
    """
    if not since_minor:
        return [], False
    ways = [*_ways_of_rows(rows), *_ways_of_changed(changed), *_ways_of_untold(untold)]
    ways.sort(key=lambda way: _SUREST_FIRST.index(way.explanation.cure))
    alone = [way.explanation for way in ways if way.effect_minor == since_minor]
    if alone:
        return alone[:MOST_EXPLAINED], False
    doubtful = [way for way in ways if way.is_doubtful][:MOST_DOUBTFUL]
    pairs = [
        (one.explanation, other.explanation)
        for one, other in combinations(doubtful, 2)
        if one.explanation.row_id != other.explanation.row_id and one.effect_minor + other.effect_minor == since_minor
    ]
    return (list(pairs[0]), True) if len(pairs) == 1 else ([], False)


def _ways_of_rows(rows: Sequence[StoredRow]) -> Iterator[_Way]:
    for row in rows:
        is_fresh = row.take and row.verdict in ("new", "suspicious")
        is_suspicious = row.verdict == "suspicious"
        if not row.take:
            yield _Way(_of_row(row, "isn’t brought in", "bring"), row.amount_minor, is_doubtful=True)
        elif is_fresh:
            yield _Way(_of_row(row, "isn’t counted by the bank", "leave"), -row.amount_minor, is_suspicious)
            reason = "is counted the other way round by the bank: its sign may be wrong"
            yield _Way(_of_row(row, reason), -2 * row.amount_minor, is_suspicious)


def _ways_of_changed(changed: Sequence[ChangedHere]) -> Iterator[_Way]:
    for one in changed:
        cure = "correct" if one.is_curable else ""
        reason = "is here with a different amount"
        shown = Explanation(one.day, one.amount_minor, one.payee, reason, cure, one.row_id, one.entry_id)
        yield _Way(shown, one.amount_minor - one.here_minor, is_doubtful=True)


def _ways_of_untold(untold: Sequence[Untold]) -> Iterator[_Way]:
    for one in untold:
        shown = Explanation(one.day, one.amount_minor, one.payee, "is here, but not in the file", entry_id=one.entry_id)
        yield _Way(shown, -one.amount_minor, is_doubtful=False)


def _of_row(row: StoredRow, reason: str, cure: str = "") -> Explanation:
    return Explanation(row.day, row.amount_minor, row.payee, reason, cure, row.id)
