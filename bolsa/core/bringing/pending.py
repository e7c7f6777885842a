"""The life of a pending entry: announced by the bank, perhaps changed, then booked, or gone without a word.

A bank gives a pending entry a reference of its own that need not return when it is booked (OFX 2.2, section 11.4.3.5: REFNUM),
and its amount may still move: a pump is reserved at 100 and books 63.20. So a booking is recognised by reference, else by amount
and likeness, else by likeness alone where the amount has moved a little and no other fits.
"""

from collections import Counter
from collections.abc import Iterator, Sequence

from bolsa.core.bringing.bookings import Booking, OpenLine, Verdict
from bolsa.core.bringing.likelihood import DAYS_APART, DAYS_TO_BOOK, LIKE_ENOUGH, LIKE_SURELY
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import likeness
from bolsa.core.units import Money


def find_booked(
    rows: Sequence[BroughtRow], announced: Sequence[OpenLine], currency: str, *, by_reference: bool
) -> dict[int, Verdict]:
    """By the place of a booked row: the verdict that it is an announced line, by the bank's reference, or else by alike words
    where the amount moved a little. Each line is used once; those booked with the amount announced are found otherwise
    (matching.py)."""
    found: dict[int, Verdict] = {}
    used: set[int] = set()
    pairs = sorted(_booked_pairs(rows, announced, by_reference=by_reference), key=lambda b: (b[0], b[1], b[2].line_id))
    rivals = Counter(i for _, i, _ in pairs)
    for _, i, line in pairs:
        if i in found or line.line_id in used or (not by_reference and rivals[i] > 1):
            continue  # of two announced by one shop with other amounts it cannot be told which it is
        used.add(line.line_id)
        before = f" with {_words(line.amount_minor, currency)}" if rows[i].amount_minor != line.amount_minor else ""
        found[i] = Verdict("matched", True, f"announced before as pending{before}, now booked", line.line_id)
    return found


def _booked_pairs(
    rows: Sequence[BroughtRow], announced: Sequence[OpenLine], *, by_reference: bool
) -> Iterator[tuple[int, int, OpenLine]]:
    """The pairs that may be one: (days apart, place of the row, line)."""
    for i, row in enumerate(rows) if announced else ():
        for line in announced:
            apart = abs((row.day - line.day).days)
            if apart > DAYS_TO_BOOK:
                continue
            if by_reference:
                is_it = bool(row.bank_ref) and row.bank_ref == line.bank_ref
            else:
                is_it = _moved_a_little(line.amount_minor, row.amount_minor) and likeness(line.payee, row.raw_text) >= LIKE_SURELY
            if is_it:
                yield apart, i, line


def judge_pending(
    rows: Sequence[BroughtRow],
    pending: Sequence[OpenLine],
    currency: str,
    *,
    lists_all: bool,
    booked: Sequence[Booking] = (),
    typed: Sequence[OpenLine] = (),
) -> tuple[list[Verdict], list[OpenLine]]:
    """A verdict for each pending row, against the pending lines no booking has claimed; and the lines that have vanished:
    those the bank would list now, were they still pending.

    `booked` are bookings that only what was announced can be and announced rows that were deleted or left out by hand, `typed`
    the lines that nobody told.
    """
    left, over, untold = list(pending), list(booked), list(typed)
    verdicts = []
    for row in rows:
        line = next((line for line in left if _is_same(row, line)), None)
        if line is None and (booking := min((o for o in over if _is_over(row, o)), key=lambda o: _days_to(row, o), default=None)):
            over.remove(booking)
            reason = (
                "left out before, as you decided" if booking.left_out else "booked already" if booking.line_id else "in the trash"
            )
            verdicts.append(Verdict("known", False, reason, booking.line_id, booking.key))
            continue
        if line is None and (own := next((one for one in untold if _is_typed(row, one)), None)):
            untold.remove(own)
            verdicts.append(Verdict("matched", True, f"entered before as “{own.payee}”, announced by the bank now", own.line_id))
            continue
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


def _is_same(row: BroughtRow, line: OpenLine) -> bool:
    if row.bank_ref or line.bank_ref:
        return row.bank_ref == line.bank_ref
    return row.day == line.day and likeness(row.raw_text, line.payee) >= LIKE_SURELY


def _is_over(row: BroughtRow, booking: Booking) -> bool:
    """Whether what is announced was booked, or deleted, before it came."""
    return any(
        told.amount_minor == row.amount_minor
        and 0 <= (told.day - row.day).days <= DAYS_TO_BOOK
        and (
            row.bank_ref == told.bank_ref
            if row.bank_ref and told.layout == ""
            else likeness(told.text, row.raw_text) >= LIKE_ENOUGH
        )
        for told in booking.told
    )


def _days_to(row: BroughtRow, booking: Booking) -> int:
    return min(abs((told.day - row.day).days) for told in booking.told)


def _is_typed(row: BroughtRow, line: OpenLine) -> bool:
    apart = abs((row.day - line.day).days)
    return line.amount_minor == row.amount_minor and apart <= DAYS_APART and likeness(line.payee, row.raw_text) >= LIKE_ENOUGH


def _moved_a_little(before: int, now: int) -> bool:
    """Whether a reservation may have become this booking: same direction, and not more than doubled or halved."""
    return (before < 0) == (now < 0) and abs(now) <= 2 * abs(before) <= 4 * abs(now)


def _words(amount_minor: int, currency: str) -> str:
    return str(Money(amount_minor, currency))
