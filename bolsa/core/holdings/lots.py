"""Lots: which shares are held and what they had cost, and what was gained by those that were sold.

A lot is what one trade brought. What takes shares out takes them from lots in the order of the account's method:

- first: the ones held longest first (first in, first out);
- highest: those that cost most a share first;
- average: all shares cost the same, the mean of what is held; the days are those of the ones held longest;
- chosen: the lots named for the trade, the rest first in, first out.

The lots of a security always add up to its position, whatever the order in which trades were entered. What is sold and was never
bought stands as a lot below zero, until a trade brings the shares it lacks.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from fractions import Fraction

from bolsa.core.holdings.exchange import NOTHING, Amounts, Exchange
from bolsa.core.holdings.trades import BRINGS_IN, Trade, in_order
from bolsa.core.money import split_minor
from bolsa.core.months import add_months

METHODS = {
    "first": "first in, first out", "average": "average cost", "highest": "highest cost first", "chosen": "chosen by hand",
}  # fmt: skip
LONG_TERM_MONTHS = 12  # what is held for more than so many months is held long

Picks = Mapping[int, Sequence[tuple[int, int]]]  # by trade: (the trade that brought the lot, shares of 1e-8)


@dataclass(frozen=True)
class Lot:
    """Shares that are held: the trade that brought them, since when, and what they cost. Shares below zero lack their
    purchase."""

    trade_id: int
    day: date
    shares_e8: int
    cost: Amounts
    is_known: bool


@dataclass(frozen=True)
class Disposal:
    """Shares of one lot that were sold, what they had cost and what they brought; no shares where capital was returned beyond
    the cost. `currency_minor` is what the rate alone made of the cost, in home currency."""

    trade_id: int
    lot_id: int | None
    bought_on: date
    sold_on: date
    shares_e8: int
    cost: Amounts
    proceeds: Amounts
    currency_minor: int | None
    is_known: bool

    @property
    def gain_home_minor(self) -> int | None:
        proceeds, cost = self.proceeds.home_minor, self.cost.home_minor
        return None if proceeds is None or cost is None else proceeds - cost

    @property
    def price_minor(self) -> int | None:
        """What the price alone made, in home currency."""
        gain = self.gain_home_minor
        return None if gain is None or self.currency_minor is None else gain - self.currency_minor

    @property
    def is_long(self) -> bool:
        return is_long_term(self.bought_on, self.sold_on)


def is_long_term(bought_on: date, sold_on: date) -> bool:
    """Whether shares are held for more than a year: sold after the day of the year after.

    >>> is_long_term(date(2024, 2, 29), date(2025, 2, 28)), is_long_term(date(2024, 2, 29), date(2025, 3, 1))
    (False, True)
    """
    return sold_on > add_months(bought_on, LONG_TERM_MONTHS)


@dataclass(frozen=True)
class Lots:
    """What the trades of one security in one account lead to."""

    held: tuple[Lot, ...]
    disposals: tuple[Disposal, ...]

    @property
    def shares_e8(self) -> int:
        return sum(lot.shares_e8 for lot in self.held)

    @property
    def cost(self) -> Amounts:
        return sum((lot.cost for lot in self.held), NOTHING)


def find_lots(trades: Iterable[Trade], method: str, exchange: Exchange, picks: Picks | None = None) -> Lots:
    """The lots and disposals of one security's trades in one account."""
    book = _Book(method, exchange, picks or {})
    for trade in in_order(list(trades)):
        book.take(trade)
    return Lots(tuple(book.lots), tuple(book.sold))


class _Book:
    def __init__(self, method: str, exchange: Exchange, picks: Picks):
        self.method, self.exchange, self.picks = method, exchange, picks
        self.lots: list[Lot] = []
        self.sold: list[Disposal] = []

    def take(self, trade: Trade) -> None:
        if trade.kind in BRINGS_IN:
            self._bring(trade)
        elif trade.kind == "out":
            self._take_out(trade, None)
        elif trade.kind in ("sell", "lieu"):
            self._take_out(trade, self.exchange.amounts(trade.total_minor or 0, trade.day))
        elif trade.kind == "split":
            self._split(trade)
        elif trade.kind == "return":
            self._return(trade)

    def _bring(self, trade: Trade) -> None:
        cost = -self.exchange.amounts(trade.total_minor or 0, trade.held_since)
        new = Lot(trade.id, trade.held_since, trade.shares_e8, cost, trade.total_minor is not None)
        new = self._cover(new)
        if new.shares_e8:
            self.lots.append(new)
            self.lots.sort(key=lambda lot: lot.day)
        self._level()

    def _cover(self, new: Lot) -> Lot:
        """Gives what was sold before it was bought its cost; the rest of the new lot."""
        for lot in [lot for lot in self.lots if lot.shares_e8 < 0]:
            count = min(new.shares_e8, -lot.shares_e8)
            if not count:
                break
            cost, rest = new.cost.cut(count, new.shares_e8)
            new = replace(new, shares_e8=new.shares_e8 - count, cost=rest)
            self.lots.remove(lot)
            if lot.shares_e8 + count:
                self.lots.append(replace(lot, shares_e8=lot.shares_e8 + count))
            self._cost_later(lot.trade_id, replace(new, shares_e8=count, cost=cost))
        return new

    def _cost_later(self, trade_id: int, bought: Lot) -> None:
        """The disposal that lacked its cost, cut where only a part of it has one now; none where the shares only went out."""
        for at, one in enumerate(self.sold):
            if one.trade_id != trade_id or one.lot_id is not None or not one.shares_e8:
                continue
            count = min(one.shares_e8, bought.shares_e8)
            proceeds, rest = one.proceeds.cut(count, one.shares_e8)
            mine = [self._disposal(trade_id, one.sold_on, bought, count, bought.cost, proceeds)]
            if one.shares_e8 > count:
                mine.append(replace(one, shares_e8=one.shares_e8 - count, proceeds=rest))
            self.sold[at : at + 1] = mine
            return

    def _take_out(self, trade: Trade, proceeds: Amounts | None) -> None:
        left = -trade.shares_e8
        for trade_id, most in self._order(trade):
            at = next((at for at, lot in enumerate(self.lots) if lot.trade_id == trade_id and lot.shares_e8 > 0), None)
            if at is None or not left:
                continue
            lot = self.lots[at]
            count = min(left, most, lot.shares_e8)
            cost, rest = lot.cost.cut(count, lot.shares_e8)
            kept = replace(lot, shares_e8=lot.shares_e8 - count, cost=rest)
            self.lots[at : at + 1] = [kept] if kept.shares_e8 else []
            if proceeds is not None:
                got, proceeds = proceeds.cut(count, left)
                self.sold.append(self._disposal(trade.id, trade.day, lot, count, cost, got))
            left -= count
        if left > 0:
            missing = Lot(trade.id, trade.day, -left, NOTHING, is_known=False)
            self.lots.append(missing)
            if proceeds is not None:
                bare = replace(missing, trade_id=0)
                self.sold.append(replace(self._disposal(trade.id, trade.day, bare, left, NOTHING, proceeds), lot_id=None))

    def _order(self, trade: Trade) -> list[tuple[int, int]]:
        """By the trades that brought them: the lots in the order of the method, each with how many shares may be taken of it."""
        there = [lot for lot in self.lots if lot.shares_e8 > 0]
        if self.method == "highest":
            there.sort(key=lambda lot: (-Fraction(lot.cost.minor, lot.shares_e8), lot.day))
        named = list(self.picks.get(trade.id, ())) if self.method == "chosen" else []
        return named + [(lot.trade_id, lot.shares_e8) for lot in there]

    def _disposal(self, trade_id: int, day: date, lot: Lot, count: int, cost: Amounts, proceeds: Amounts) -> Disposal:
        then = self.exchange.own_at_home(cost.own_minor, day)
        currency = None if then is None or cost.home_minor is None else then - cost.home_minor
        return Disposal(trade_id, lot.trade_id, lot.day, day, count, cost, proceeds, currency, lot.is_known)

    def _split(self, trade: Trade) -> None:
        held = sum(lot.shares_e8 for lot in self.lots)
        if held > 0 and held + trade.shares_e8 > 0 and all(lot.shares_e8 > 0 for lot in self.lots):
            counts = split_minor(held + trade.shares_e8, [lot.shares_e8 for lot in self.lots])
            self.lots = [replace(lot, shares_e8=count) for lot, count in zip(self.lots, counts, strict=True) if count]
        elif trade.shares_e8 > 0:
            self._bring(replace(trade, total_minor=None))
        elif trade.shares_e8:
            self._take_out(trade, None)

    def _return(self, trade: Trade) -> None:
        there = [at for at, lot in enumerate(self.lots) if lot.shares_e8 > 0]
        got = self.exchange.amounts(trade.total_minor or 0, trade.day)
        if not there:
            bare = Lot(0, trade.day, 0, NOTHING, is_known=True)
            self.sold.append(replace(self._disposal(trade.id, trade.day, bare, 0, NOTHING, got), lot_id=None))
            return
        for at, part in zip(there, got.parts([self.lots[at].shares_e8 for at in there]), strict=True):
            lot = self.lots[at]
            if part.minor <= lot.cost.minor:
                self.lots[at] = replace(lot, cost=lot.cost - self._as_cost(part, lot))
            else:
                self.sold.append(self._disposal(trade.id, trade.day, lot, 0, lot.cost, part))
                self.lots[at] = replace(lot, cost=NOTHING)

    @staticmethod
    def _as_cost(part: Amounts, lot: Lot) -> Amounts:
        """A returned part of a lot's cost, in every currency by the same share of it, so that no rate is gained by it."""
        if part.minor == lot.cost.minor:
            return lot.cost
        taken, _ = lot.cost.cut(part.minor, lot.cost.minor)
        return taken

    def _level(self) -> None:
        """By average cost, every share that is held costs the same."""
        if self.method != "average":
            return
        there = [at for at, lot in enumerate(self.lots) if lot.shares_e8 > 0]
        if len(there) < 2:
            return
        whole = sum((self.lots[at].cost for at in there), NOTHING)
        known = all(self.lots[at].is_known for at in there)
        for at, part in zip(there, whole.parts([self.lots[at].shares_e8 for at in there]), strict=True):
            self.lots[at] = replace(self.lots[at], cost=part, is_known=known)
