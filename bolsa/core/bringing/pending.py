"""The life of a pending entry: announced by the bank, perhaps changed, then booked, or gone without a word.

A bank gives a pending entry a reference of its own that need not return when it is booked (OFX 2.2, section 11.4.3.5: REFNUM),
and its amount may still move: a pump is reserved at 100 and books 63.20. So a booking is recognised by reference, else by amount
and likeness, else by likeness alone where the amount has moved a little and no other fits.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

from bolsa.core.bringing.matching import LIKE_ENOUGH, Verdict
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import likeness
from bolsa.core.units import Money

DAYS_TO_BOOK = 10
SURELY_ALIKE = 85


@dataclass(frozen=True)
class PendingLine:
    """A line here that stands for a pending row: what the bank called it, and the amount it has here."""

    line_id: int
    day: date
    amount_minor: int
    text: str
    bank_ref: str


def find_booked(rows: list[BroughtRow], pending: list[PendingLine], currency: str) -> dict[int, Verdict]:
    """By the place of a booked row: the verdict that it is a pending line, now booked. Each line is used once."""
    found: dict[int, Verdict] = {}
    used: set[int] = set()
    pairs = sorted(_bookings(rows, pending), key=lambda b: (b[0], b[1], b[2].line_id))
    rivals = Counter(i for (strength, _), i, _ in pairs if strength == 2)
    for (strength, _), i, line in pairs:
        if i in found or line.line_id in used:
            continue
        if strength == 2 and rivals[i] > 1:
            continue  # two pending lines of one shop with other amounts: which one it is cannot be told
        used.add(line.line_id)
        moved = rows[i].amount_minor != line.amount_minor
        before = f" with {_words(line.amount_minor, currency)}" if moved else ""
        found[i] = Verdict("matched", True, f"announced before as pending{before}, now booked", line.line_id)
    return found


def _bookings(rows: list[BroughtRow], pending: list[PendingLine]) -> Iterator[tuple[tuple[int, int], int, PendingLine]]:
    """The pairs that may be one: ((strength, days apart), place of the row, line)."""
    by_amount: dict[int, list[PendingLine]] = {}
    for line in pending:
        by_amount.setdefault(line.amount_minor, []).append(line)
    for i, row in enumerate(rows) if pending else ():
        for line in pending:
            apart = abs((row.day - line.day).days)
            if apart > DAYS_TO_BOOK:
                continue
            alike = likeness(line.text, row.raw_text)
            if row.bank_ref and row.bank_ref == line.bank_ref:
                yield (0, apart), i, line
            elif row.amount_minor == line.amount_minor and alike >= LIKE_ENOUGH:
                yield (1, apart), i, line
            elif alike >= SURELY_ALIKE and _moved_a_little(line.amount_minor, row.amount_minor):
                yield (2, apart), i, line


def judge_pending(
    rows: list[BroughtRow], pending: list[PendingLine], currency: str, *, lists_all: bool
) -> tuple[list[Verdict], list[PendingLine]]:
    """A verdict for each pending row, against the pending lines no booking has claimed; and the lines that have vanished:
    those the bank would list now, were they still pending."""
    left = list(pending)
    verdicts = []
    for row in rows:
        line = next((line for line in left if _is_same(row, line)), None)
        if line is None:
            verdicts.append(Verdict("new", True, "announced by the bank, not booked yet"))
            continue
        left.remove(line)
        if line.amount_minor == row.amount_minor:
            verdicts.append(Verdict("known", False, "still pending", line.line_id))
        else:
            before = _words(line.amount_minor, currency)
            verdicts.append(Verdict("changed", True, f"still pending, announced with {before} before", line.line_id))
    return verdicts, left if lists_all else []


def _is_same(row: BroughtRow, line: PendingLine) -> bool:
    if row.bank_ref or line.bank_ref:
        return row.bank_ref == line.bank_ref
    return row.day == line.day and likeness(row.raw_text, line.text) >= SURELY_ALIKE


def _moved_a_little(before: int, now: int) -> bool:
    """Whether a reservation may have become this booking: same direction, and not more than doubled or halved."""
    return (before < 0) == (now < 0) and abs(now) <= 2 * abs(before) <= 4 * abs(now)


def _words(amount_minor: int, currency: str) -> str:
    return str(Money(amount_minor, currency))
