"""What is noted of accounts by day, and what goes with one."""

from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.valuation import Noted


@dataclass(frozen=True)
class NotedRate:
    """What one unit of a currency was worth in home currency on a day, times 1e8, and whether by hand or from the feed."""

    currency: str
    day: date
    rate_e8: int
    source: str


@dataclass(frozen=True)
class Belongings:
    """What goes with an account: entries on it alone, transfers whose other side stays, statements, values, bank rows, trades,
    series."""

    entries: int
    transfers: int
    statements: int
    values: int
    bank_rows: int
    trades: int
    series: int
    first_day: date | None
    last_day: date | None


@dataclass(frozen=True)
class ValueNote:
    """A noted value with the entry that books what led to it, None where nothing had to be booked."""

    id: int
    account_id: int
    day: date
    amount_minor: int
    source: str
    entry_id: int | None
    grown_minor: int | None = None

    def as_noted(self) -> Noted:
        return Noted(self.day, self.amount_minor, self.source, self.grown_minor)
