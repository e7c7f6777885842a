"""What an account knows where rows are brought in: bookings that sources told before, lines nobody told, and the days that are
covered."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from bolsa.core.bringing.coverage import Coverage


class Told(NamedTuple):
    """A booking as one source told it; `layout` names the kind of source, `id` is the number of the row that keeps it."""

    id: int
    layout: str
    day: date
    amount_minor: int
    text: str
    bank_ref: str = ""
    value_day: date | None = None


@dataclass(frozen=True)
class Booking:
    """A booking brought before, with all that was told of it, or rows left out by hand. `line_id` is the line it became, None
    if that was deleted since. `is_asked`: nobody has said yet whether it is one of its own, or
    what `line_id` stands for."""

    key: int
    line_id: int | None
    told: tuple[Told, ...]
    left_out: bool = False  # by hand
    is_asked: bool = False

    @property
    def amounts(self) -> set[int]:
        return {one.amount_minor for one in self.told}


@dataclass(frozen=True)
class OpenLine:
    """An account line no booked row has claimed: typed by hand, the far side of a transfer, or announced by the bank, which
    gave it `bank_ref` then."""

    line_id: int
    day: date
    amount_minor: int
    payee: str
    is_far_side: bool = False
    is_announced: bool = False
    bank_ref: str = ""
    is_payday: bool = False  # of a confirmed payslip, from which the deposit may differ a little


@dataclass(frozen=True)
class Source:
    """Where rows come from: the layout of their file, and the stretches of days of which it tells all bookings."""

    layout: str
    stretches: tuple[Coverage, ...] = ()


@dataclass(frozen=True)
class Here:
    """What an account knows where rows are brought in: bookings told before, lines nobody told, and the days other sources
    covered."""

    bookings: Sequence[Booking] = ()
    open_lines: Sequence[OpenLine] = ()
    covered: Sequence[Coverage] = ()


@dataclass(frozen=True)
class Verdict:
    """What a row is, why in words, whether to bring it in, and the line it belongs to, if any.

    `known_id` is the booking it was recognised as, which no other row may be.
    """

    kind: str  # "new", "known", "matched", "suspicious"; of pending rows also "changed", "vanished"
    take: bool
    reason: str = ""
    line_id: int | None = None
    known_id: int | None = None
