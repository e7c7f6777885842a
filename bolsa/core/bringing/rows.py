"""What a file or a connection brings: statements of rows, before anything is decided about them."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import NamedTuple


class BroughtRow(NamedTuple):
    """One row as the bank sent it. `amount_minor` is signed from the account's side; `file_line` counts from 1.

    A `pending` row is announced and not booked: its amount may change, and it may never be booked.
    """

    day: date
    amount_minor: int
    payee: str
    memo: str = ""
    bank_ref: str = ""
    value_day: date | None = None
    file_line: int = 0
    pending: bool = False

    @property
    def raw_text(self) -> str:
        return f"{self.payee} · {self.memo}" if self.payee and self.memo else self.payee or self.memo


class BroughtMove(NamedTuple):
    """A trade as the institution sent it; `code` is what its files call the security."""

    code: str
    name: str
    day: date
    kind: str  # a key of core/holdings/trades.KINDS
    shares_e8: int
    total_minor: int | None = None
    reason: str = ""
    bank_ref: str = ""
    fee_minor: int = 0
    withheld_minor: int | None = None
    ratio_new: int | None = None
    ratio_old: int | None = None
    basis_day: date | None = None  # since when shares that were held before are held
    id: int = 0  # of the row that keeps it in preview


class BroughtPosition(NamedTuple):
    """How many shares the institution says are held at the end of a day."""

    code: str
    name: str
    day: date
    shares_e8: int


class BroughtShares(NamedTuple):
    """What an investment statement says of shares."""

    moves: tuple[BroughtMove, ...] = ()
    positions: tuple[BroughtPosition, ...] = ()


@dataclass(frozen=True)
class BroughtStatement:
    """The rows of one account in a file. `currency` is "" where the file does not say; the balance is as of its day.

    `warnings` are sentences about what was odd yet could be read. `lists_pending` says that the rows hold all that is pending
    now, so that what was pending before and is not among them was booked or has vanished. `rows` may lie outside memory: they
    are read through, not collected.
    """

    rows: Sequence[BroughtRow]
    number: str = ""
    kind: str = ""
    currency: str = ""
    balance_minor: int | None = None
    balance_day: date | None = None
    warnings: tuple[str, ...] = field(default=())
    lists_pending: bool = False
    shares: BroughtShares | None = None  # of an investment statement
    first_day: date | None = None  # the period the source says it tells all bookings of, both days included
    last_day: date | None = None
    opening_minor: int | None = None  # the balance before the first row, at the end of `opening_day`
    opening_day: date | None = None

    @property
    def balances(self) -> list[tuple[date, int]]:
        """The days at whose end the file says what the account held, and what it held: before its rows, and after them."""
        opening = [(self.opening_day, self.opening_minor)] if self.opening_day and self.opening_minor is not None else []
        closing = [self.declared] if self.declared else []
        return [*opening, *closing] if closing and (not opening or opening[0][0] < closing[0][0]) else closing

    @property
    def declared(self) -> tuple[date, int] | None:
        """The day of the balance and the balance, where the file says both."""
        return (self.balance_day, self.balance_minor) if self.balance_day and self.balance_minor is not None else None
