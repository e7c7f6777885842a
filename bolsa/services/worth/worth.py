"""Net worth: on a day account by account, and by month."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.months import Month, months_between
from bolsa.core.units import Money, Rate
from bolsa.core.worth.net_worth import WorthPoint, WorthRow, worth_point
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.store.accounts import accounts, values
from bolsa.store.connection import reading
from bolsa.store.house import household


@dataclass(frozen=True)
class WorthView:
    """Net worth by month, and the accounts at the end of the last one (or on the day, for the present month).

    `without_rate` names currencies for which no rate is known: their accounts are left out, and said so.
    """

    points: tuple[WorthPoint, ...]
    rows: tuple[WorthRow, ...]
    without_rate: tuple[str, ...]
    currency: str
    market_minor: int  # gain or loss of noted values since the first point, in home currency

    @property
    def now(self) -> WorthPoint:
        return self.points[-1]


def worth_view(db: sqlite3.Connection, month: Month, months: int = 24) -> WorthView:
    """Net worth at the end of each of the months up to this one, from the kept totals by month."""
    with reading(db):
        home = household.get_household(db).home_currency
        kept, totals, rates = accounts.list_accounts(db), accounts.sum_by_month(db), accounts.list_rates(db)
    first = month + (1 - months)
    started = min((m for by_month in totals.values() for m in by_month), default=month)
    first = min(max(first, started), month)
    points, rows = [], []
    for m in months_between(first, month):
        rows = [row for account in kept if (row := _row(account, totals.get(account.id, {}), m, home, rates))]
        points.append(worth_point(m, rows))
    missing = {a.currency for a in kept if a.currency != home and a.currency not in rates}
    market = _market_gain(db, first + 1, month, home, rates)
    return WorthView(tuple(points), tuple(rows), tuple(sorted(missing)), home, market)


def worth_on(db: sqlite3.Connection, day: date) -> WorthView:
    """Net worth at the end of a day, account by account at that day's rates."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        rows, missing = [], set()
        for account in accounts.list_accounts(db):
            rate = rate_on(account.currency, day, home, rates)
            if rate is None:
                missing.add(account.currency)
                continue
            rows.append(_row_at(account, accounts.sum_balance(db, account.id, day), rate))
    return WorthView((worth_point(Month.of(day), rows),), tuple(rows), tuple(sorted(missing)), home, 0)


def _row_at(account: Account, balance_minor: int, rate: Rate) -> WorthRow:
    """An account's balance in its own currency and, at a rate, in home currency."""
    in_home = rate.convert(Money(balance_minor, account.currency)).minor
    return WorthRow(account.id, account.name, account.kind, account.side, account.shown, account.currency, balance_minor, in_home)


def _market_gain(db: sqlite3.Connection, first: Month, last: Month, home: str, rates: Rates) -> int:
    """What noted values gained in these months, each at its month's rate."""
    total = 0
    for month_text, currency, amount in values.list_market_gains(db, str(first), str(last)):
        rate = rate_on(currency, Month.parse(month_text).last_day, home, rates)
        total += rate.convert(Money(amount, currency)).minor if rate is not None else 0
    return total


def _row(account: Account, by_month: dict[Month, int], month: Month, home: str, rates: Rates) -> WorthRow | None:
    balance = sum(amount for m, amount in by_month.items() if m <= month)
    rate = rate_on(account.currency, month.last_day, home, rates)
    if rate is None:
        return None
    return _row_at(account, balance, rate)


def everyday_balance(db: sqlite3.Connection, month: Month) -> int:
    """The balance of everyday accounts at the month's end, in home currency."""
    return accounts.sum_everyday_balance(db, month)
