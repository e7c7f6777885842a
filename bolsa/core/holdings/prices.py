"""Prices of securities by day, and what their markets tell of splits and distributions."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.known import known
from bolsa.core.money import worth_minor
from bolsa.core.units import Price

SOURCES = {"market": "the market’s close", "hand": "set by hand", "trade": "the price of a trade"}
DAYS_FRESH = 14  # a price is told to be old after so many days


@dataclass(frozen=True)
class Priced:
    """A price, times 1e8, in the security's currency: of which day, and from where ("market", "hand" or "trade")."""

    day: date
    price_e8: int
    source: str

    def value_of(self, shares_e8: int, currency: str) -> int:
        """What shares are worth at it, in minor units of the security's currency. Rounding: half away from zero, once."""
        return worth_minor(shares_e8, self.price_e8, currency)

    def in_(self, currency: str) -> Price:
        """The price with its currency."""
        return Price(self.price_e8, currency)

    def is_old(self, day: date) -> bool:
        return (day - self.day).days > DAYS_FRESH


@dataclass(frozen=True)
class MarketEvent:
    """A split of `ratio_new` for `ratio_old`, or a distribution of an amount a share (times 1e8); `day` is the first without
    it."""

    security_id: int
    kind: str
    day: date
    pay_day: date | None = None
    amount_e8: int | None = None
    ratio_new: int | None = None
    ratio_old: int | None = None

    def in_(self, currency: str) -> Price:
        """What is distributed a share, in its currency. Raises: ValueError for a split: a bug."""
        return Price(known(self.amount_e8), currency)


def latest_of(told: Priced | None, traded: Sequence[Priced], day: date) -> Priced | None:
    """The price to value by on a day: the newest of what the market, a person or a trade says of the days until then (of one day
    the trade's gives way); before anything is known the first trade's. `traded` is in order of day."""
    at = bisect_right(traded, day, key=lambda one: one.day)
    last = traded[at - 1] if at else None
    if told is None:
        return last or (traded[0] if traded else None)
    return last if last is not None and last.day > told.day else told
