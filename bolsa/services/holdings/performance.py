"""How holdings did: money-weighted and time-weighted, for any of them over any stretch, beside what is followed alone."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from operator import add

from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.holding import HoldingRow
from bolsa.core.holdings.returns import Point, a_year, by_stretch, large_flows, linked, money_weighted, time_weighted
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import KINDS, Trade
from bolsa.core.money import converted_minor
from bolsa.core.months import Month, months_between
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.services.holdings.book import exchange_of, own_values, positions_at, prices_on
from bolsa.services.remembering import remembered
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.worth import flows

WITH_CASH = tuple(kind.key for kind in KINDS if kind.cash_way)
BARE = ("opening", "in", "out")  # without cash
MOST_EXACT = 500  # flows on more days than this, but for large ones, are weighted by day within each month,
MOST_MONTHS = 120  # and within each quarter over more months than this, instead of valuing every day


@dataclass(frozen=True)
class Compared:
    """What one unit of something that is followed grew by over the same days, in home currency."""

    security: Security
    total: float | None
    yearly: float | None


@dataclass(frozen=True)
class Performance:
    """How some holdings did from the end of one day to the end of another, in home currency. Rates are fractions; `yearly` is the
    time-weighted one a year, linked by `stretch`: "day" of a flow, "month" or "quarter". earned = worth at the end − worth at the
    start − what was put in."""

    first: date
    last: date
    start_minor: int
    end_minor: int
    put_in_minor: int
    money_weighted: float | None
    time_weighted: float | None
    yearly: float | None
    stretch: str
    compared: tuple[Compared, ...]

    @property
    def earned_minor(self) -> int:
        return self.end_minor - self.start_minor - self.put_in_minor


def performance(db: sqlite3.Connection, rows: Sequence[HoldingRow], last: date, first: date | None = None) -> Performance:
    """How rows of holdings did; without a first day since the first of them was held. Cash does not count."""
    wanted = [row for row in rows if not row.is_cash]
    asked = (tuple(row.key for row in wanted), last, first)
    return remembered(db, "performance", asked, lambda: _performance(db, wanted, last, first))


def _performance(db: sqlite3.Connection, wanted: Sequence[HoldingRow], last: date, first: date | None) -> Performance:
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        put_in = _flows(db, wanted, last, home, rates)
        began = min(put_in, default=last)
        start = max(first, began - timedelta(days=1)) if first else began - timedelta(days=1)
        within = {day: amount for day, amount in put_in.items() if start < day <= last}
        months = months_between(Month.of(start), Month.of(last))
        stretch = "day" if len(within) <= MOST_EXACT else "month" if len(months) <= MOST_MONTHS else "quarter"
        each = 3 if stretch == "quarter" else 1
        ends = list(within)
        if stretch != "day":
            ends = large_flows(sorted(put_in.items())) + [month.last_day for month in months if month.number % each == 0]
        days = sorted({start, last, *(day for day in ends if start < day < last)})
        worth = _worth_at(db, wanted, days, home, rates)
        since = start if first and start == first else began
        compared = tuple(_compared(db, security, since, last, home, rates) for security in _followed(db))
    points = [Point(day, value, within.get(day, 0)) for day, value in zip(days, worth, strict=True)]
    if stretch != "day":
        total = linked(by_stretch(points, sorted(within.items())))
        paid = [Point(start, worth[0]), *(Point(day, 0, within[day]) for day in sorted(within)), Point(last, worth[-1])]
        rate = money_weighted(paid)
    else:
        total, rate = time_weighted(points), money_weighted(points)
    return Performance(
        start, last, worth[0], worth[-1], sum(within.values()), rate, total, a_year(total, (last - start).days), stretch,
        compared,
    )  # fmt: skip


def _flows(db: sqlite3.Connection, rows: Sequence[HoldingRow], last: date, home: str, rates: Rates) -> dict[date, int]:
    """By day: the money that was put into rows (below zero: taken out), in home currency at the day's rate."""
    found: dict[date, int] = {}

    def add(day: date, amount: int | None) -> None:
        if amount:
            found[day] = found.get(day, 0) + amount

    shares = [(row.account, row.security) for row in rows if row.security]
    exchanges = {(account.id, security.id): exchange_of(account, security, home, rates) for account, security in shares}
    for row in rows:
        if row.security is None:
            exchange = Exchange(row.account.currency, row.account.currency, home, rates)
            for day, amount in flows.list_paid_in(db, row.account.id, last):
                add(day, exchange.at_home(amount, day))
    for account_id, security_id, day, minor in trades.list_totals(db, WITH_CASH, last):
        own = exchanges.get((account_id, security_id))
        if own and (at_home := own.at_home(minor, day)):
            found[day] = found.get(day, 0) - at_home
    for trade in trades.list_of_kinds(db, BARE, last):
        if (trade.account_id, trade.security_id) in exchanges:
            add(trade.day, _worth_then(db, trade, exchanges[trade.account_id, trade.security_id]))
    return found


def _worth_then(db: sqlite3.Connection, trade: Trade, exchange: Exchange) -> int:
    """What shares that come or go without cash were worth that day, which they count as."""
    priced = prices_on(db, [trade.security_id], [trade.day])[trade.security_id][0]
    own = priced.value_of(trade.shares_e8, exchange.own) if priced else 0
    return exchange.own_at_home(own, trade.day) or 0


def _worth_at(db: sqlite3.Connection, rows: Sequence[HoldingRow], days: list[date], home: str, rates: Rates) -> list[int]:
    """What rows were worth at the ends of days, in home currency."""
    values = own_values(db, days, {row.account.id for row in rows if row.security})
    total = [0] * len(days)
    known: dict[str, list[int]] = {}
    for row in rows:
        if row.security is None:
            currency, own = row.account.currency, positions_at(flows.list_moved(db, row.account.id), days)
        else:
            currency = exchange_of(row.account, row.security, home, rates).own
            own = values.get((row.account.id, row.security.id), [0] * len(days))
        if currency != home and currency not in known:
            found = [rate_on(currency, day, home, rates) for day in days]
            known[currency] = [rate.e8 if rate else 0 for rate in found]
        worths = own if currency == home else converted_minor(own, known[currency], currency, home)
        total = list(map(add, total, worths))
    return total


def _followed(db: sqlite3.Connection) -> list[Security]:
    return [security for security in securities.list_securities(db) if security.is_compared]


def _compared(db: sqlite3.Connection, security: Security, first: date, last: date, home: str, rates: Rates) -> Compared:
    before, after = prices_on(db, [security.id], [first, last])[security.id]
    exchange = Exchange(security.currency, security.currency, home, rates)
    if before is None or after is None or before.day > first:
        return Compared(security, None, None)
    shares = 10**13  # so many that minor units round nothing away
    then = exchange.own_at_home(before.value_of(shares, security.currency), first)
    now = exchange.own_at_home(after.value_of(shares, security.currency), last)
    total = now / then - 1 if then and now else None
    return Compared(security, total, a_year(total, (last - first).days))
