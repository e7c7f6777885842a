"""What the market made of shares between two days, as flows of net worth; and what was gained by sales in a year."""

import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.lots import Disposal
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import KIND_BY_KEY, Trade
from bolsa.core.worth.changes import Flow
from bolsa.services.holdings.book import own_values, prices_on
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import lots, securities, trades
from bolsa.store.house import household


def market_flows(db: sqlite3.Connection, first: date, last: date) -> list[Flow]:
    """What shares brought to net worth from the end of one day to the end of another, in accounts counted by their shares.

    Of each security: what it is worth more, and the cash its trades made, less what came in without being bought; in its own
    currency, at the last day's rate ("value"). What came in or went out without cash counts as it was worth that day ("opening").
    """
    values = own_values(db, [first, last])
    if not values:
        return []
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    kept = {account.id: account for account in accounts.list_accounts(db)}
    known = {security.id: security for security in securities.list_securities(db)}
    within: dict[tuple[int, int], list[Trade]] = {}
    for trade in trades.list_between(db, first, last):
        within.setdefault((trade.account_id, trade.security_id), []).append(trade)
    found = []
    for pair, (before, after) in values.items():
        account, security = kept[pair[0]], known[pair[1]]
        exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
        gained = after - before
        for trade in within.get(pair, ()):
            gained += exchange.amounts(trade.cash_minor, trade.day).own_minor or 0
            if trade.shares_e8 and not KIND_BY_KEY[trade.kind].cash_way and trade.kind not in ("split", "reinvest"):
                priced = prices_on(db, [pair[1]], [trade.day])[pair[1]][0]
                came = priced.value_of(trade.shares_e8, exchange.own) if priced else 0
                gained -= came
                found.append(Flow(account.id, "opening", exchange.own_at_home(came, trade.day) or 0))
        found.append(Flow(account.id, "value", exchange.own_at_home(gained, last) or 0))
    return found


@dataclass(frozen=True)
class Sale:
    """Shares of one lot that were sold, in which account and of what."""

    account: Account
    security: Security
    disposal: Disposal


@dataclass(frozen=True)
class Income:
    """One distribution: what was received (or reinvested), its parts, in home currency; None where a rate is missing."""

    account: Account
    security: Security
    trade: Trade
    home_minor: int | None
    withheld_minor: int | None
    credit_minor: int | None


@dataclass(frozen=True)
class YearOfGains:
    """What sales and distributions brought in a year, in home currency; costs at the rate of their day, as proceeds are."""

    year: int
    home: str
    sales: tuple[Sale, ...]
    income: tuple[Income, ...]

    def gained_minor(self, *, is_long: bool) -> int:
        return sum(one.disposal.gain_home_minor or 0 for one in self.sales if one.disposal.is_long == is_long)

    @property
    def gain_minor(self) -> int:
        return sum(one.disposal.gain_home_minor or 0 for one in self.sales)

    @property
    def currency_minor(self) -> int:
        return sum(one.disposal.currency_minor or 0 for one in self.sales)

    @property
    def income_minor(self) -> int:
        return sum(one.home_minor or 0 for one in self.income)

    @property
    def withheld_minor(self) -> int:
        return sum(one.withheld_minor or 0 for one in self.income)


def gains_of_year(db: sqlite3.Connection, year: int) -> YearOfGains:
    """What was sold and distributed in a year."""
    with reading(db):
        first, last = date(year, 1, 1), date(year, 12, 31)
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        kept = {account.id: account for account in accounts.list_accounts(db)}
        known = {security.id: security for security in securities.list_securities(db)}
        sales = tuple(Sale(kept[a], known[s], one) for a, s, one in lots.list_disposals(db, first, last))
        income = []
        for trade in trades.list_between(db, first, last, with_first=True):
            if not trade.income_minor:
                continue
            account, security = kept[trade.account_id], known[trade.security_id]
            exchange = Exchange(account.currency, security.currency or account.currency, home, rates)
            parts = (trade.income_minor, trade.withheld_minor or 0, trade.credit_minor or 0)
            income.append(Income(account, security, trade, *(exchange.amounts(x, trade.day).home_minor for x in parts)))
        return YearOfGains(year, home, sales, tuple(income))
