"""What is held on a day, valued; and what the shares of accounts were worth at the ends of many days."""

import sqlite3
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from operator import itemgetter

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.exchange import Amounts, Exchange
from bolsa.core.holdings.holding import Held, HoldingRow, held_of, places_of_row, value_row
from bolsa.core.holdings.lots import Lot
from bolsa.core.holdings.prices import Priced, latest_of
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import INCOME, Trade, price_of
from bolsa.core.money import worths_minor
from bolsa.core.units import Money
from bolsa.core.worth.net_worth import INVESTED, class_of
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.services.holdings.settling import lots_of
from bolsa.services.remembering import remembered
from bolsa.store.accounts import accounts
from bolsa.store.connection import reading
from bolsa.store.holdings import lots as lot_store
from bolsa.store.holdings import securities, trades
from bolsa.store.house import household
from bolsa.store.worth import flows

Pair = tuple[int, int]  # an account and a security


@dataclass(frozen=True)
class Book:
    """Everything that is held at the end of a day, in the household's order of accounts, securities by name."""

    day: date
    home: str
    rows: tuple[HoldingRow, ...]

    def row(self, key: str) -> HoldingRow | None:
        return next((row for row in self.rows if row.key == key), None)

    @property
    def unpriced(self) -> list[HoldingRow]:
        """Shares for which nobody tells a price, or a rate."""
        return [row for row in self.rows if row.shares_e8 and not row.is_valued]


def holdings_on(db: sqlite3.Connection, day: date) -> Book:
    """What is held at the end of a day."""
    return remembered(db, "holdings_on", day, lambda: _holdings_on(db, day))


def _holdings_on(db: sqlite3.Connection, day: date) -> Book:
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        kept = {account.id: account for account in accounts.list_accounts(db)}
        known = {security.id: security for security in securities.list_securities(db)}
        holdings = _held_on(db, day, kept, known, home, rates)
        prices = prices_on(db, {pair[1] for pair in holdings}, [day])
        income = income_until(db, day, kept, known, home, rates)
        rows = []
        for pair, held in holdings.items():
            account, security = kept[pair[0]], known[pair[1]]
            exchange = exchange_of(account, security, home, rates)
            rows.append(value_row(account, security, held, prices[pair[1]][0], exchange, day, income.get(pair, 0)))
        rows += [row for account in kept.values() for row in _own_rows(db, account, day, home, rates)]
    places = {account_id: at for at, account_id in enumerate(kept)}
    rows.sort(key=lambda row: (places[row.account.id], row.is_cash, row.name.casefold()))
    return Book(day, home, tuple(rows))


def exchange_of(account: Account, security: Security, home: str, rates: Rates) -> Exchange:
    """The rates a security in an account is valued by."""
    return Exchange(account.currency, security.currency or account.currency, home, rates)


def _held_on(
    db: sqlite3.Connection, day: date, kept: dict[int, Account], known: dict[int, Security], home: str, rates: Rates
) -> dict[Pair, Held]:
    """By account and security: what was held at the end of a day, also of those sold out by then. The lots of today are kept; of
    a day before the last trade they are reckoned anew."""
    found = lot_store.sum_lots(db)
    began, later = trades.list_pairs_by(db, day)
    for account_id, security_id in began & later:
        lots = lots_of(db, kept[account_id], known[security_id], home, rates, until=day)
        found[account_id, security_id] = held_of(lots.held)
    return {pair: found.get(pair, held_of(())) for pair in sorted(began)}


def lots_on(db: sqlite3.Connection, rows: Sequence[HoldingRow], day: date) -> dict[str, Sequence[Lot]]:
    """By the key of each row: the lots it is the sum of, at the end of a day; none of what has no shares."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        _, later = trades.list_pairs_by(db, day)
        found: dict[str, Sequence[Lot]] = {}
        for row in rows:
            if row.security is None:
                found[row.key] = ()
            elif (row.account.id, row.security.id) in later:
                found[row.key] = lots_of(db, row.account, row.security, home, rates, until=day).held
            else:
                found[row.key] = lot_store.list_lots(db, row.account.id, row.security.id)
    return found


def _own_rows(db: sqlite3.Connection, account: Account, day: date, home: str, rates: Rates) -> list[HoldingRow]:
    """What an account holds beside shares: its cash, or all of it where its value is noted."""
    if account.everyday or class_of(account.kind, account.side) != INVESTED or account.opened_on > day:
        return []
    balance = accounts.sum_balance(db, account.id, day)
    rate = rate_on(account.currency, day, home, rates)
    at_home = rate.convert(Money(balance, account.currency)).minor if rate else None
    value = Amounts(balance, balance, at_home)
    if account.counts_shares:
        return [HoldingRow(account, None, 0, None, value, value, 0, 0, is_cash=True)] if balance else []
    if not balance:
        return []
    exchange = Exchange(account.currency, account.currency, home, rates)
    paid = [exchange.amounts(amount, on) for on, amount in flows.list_paid_in(db, account.id, day)]
    cost = sum(paid[1:], paid[0]) if paid else Amounts(0, 0, 0)
    then = exchange.own_at_home(cost.own_minor, day)
    currency = None if then is None or cost.home_minor is None else then - cost.home_minor
    return [HoldingRow(account, None, 0, None, value, cost, currency, 0)]


def income_until(
    db: sqlite3.Connection, day: date, kept: dict[int, Account], known: dict[int, Security], home: str, rates: Rates
) -> dict[Pair, int]:
    """By account and security: what was distributed until a day, after what was withheld, in home currency at each day's rate."""
    found: dict[Pair, int] = {}
    for account_id, security_id, on, minor in trades.list_totals(db, INCOME, day):
        pair = (account_id, security_id)
        exchange = exchange_of(kept[account_id], known[security_id], home, rates)
        found[pair] = found.get(pair, 0) + (exchange.at_home(abs(minor), on) or 0)
    return found


def prices_on(db: sqlite3.Connection, security_ids: Iterable[int], days: Sequence[date]) -> dict[int, list[Priced | None]]:
    """By security: the price to value it by at the end of each of some days. Where no market tells one, trades do too."""
    found = securities.list_prices_on(db, security_ids, days)
    for security_id, traded in _traded_prices(db, found).items():
        found[security_id] = [latest_of(price, traded, day) for price, day in zip(found[security_id], days, strict=True)]
    return found


def _traded_prices(db: sqlite3.Connection, security_ids: Iterable[int]) -> dict[int, list[Priced]]:
    """The prices at which securities without a market were traded, in order of day."""
    found: dict[int, list[Priced]] = {}
    bare = trades.list_without_market(db, security_ids)
    if not bare:
        return found
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    kept = {account.id: account for account in accounts.list_accounts(db)}
    for security_id in bare:
        security, known = securities.get_security(db, security_id), []
        for trade in trades.list_trades(db, security_id=security_id):
            known += _traded(trade, exchange_of(kept[trade.account_id], security, home, rates))
        found[security_id] = sorted(known, key=lambda one: one.day)
    return found


def _traded(trade: Trade, exchange: Exchange) -> list[Priced]:
    rate = exchange.into_account(trade.day)
    price_e8 = price_of(trade, exchange.account, rate) if rate else None
    return [Priced(trade.day, price_e8, "trade")] if price_e8 else []


# --- over time --------------------------------------------------------------------------------------------------------


def own_values(db: sqlite3.Connection, days: Sequence[date], only: Iterable[int] | None = None) -> dict[Pair, list[int]]:
    """By account and security: what the shares were worth at the ends of days, in the security's currency; those of accounts that
    are counted by their shares, or of the accounts named. What has no price is worth nothing, which Holdings says."""
    if only is None:
        only = [account.id for account in accounts.list_accounts(db) if account.counts_shares]
    moves = trades.list_moves(db, only)
    if not moves:
        return {}
    prices = _bare_prices_on(db, {pair[1] for pair in moves}, days)
    known = {security.id: security for security in securities.list_securities(db)}
    kept = {account.id: account for account in accounts.list_accounts(db)}
    found = {}
    for pair, moved in moves.items():
        currency = known[pair[1]].currency or kept[pair[0]].currency
        found[pair] = worths_minor(positions_at(moved, days), prices[pair[1]], currency)
    return found


def _bare_prices_on(db: sqlite3.Connection, security_ids: Iterable[int], days: Sequence[date]) -> dict[int, list[int | None]]:
    """The prices of `prices_on` alone, without their days and sources: reckoned far faster where the market tells all of them."""
    ids = set(security_ids)
    found = securities.list_closes_on(db, ids, days)
    others = prices_on(db, ids - found.keys(), days)
    return found | {id_: [price.price_e8 if price else None for price in prices] for id_, prices in others.items()}


def positions_at(moved: Sequence[tuple[date, int]], days: Sequence[date]) -> list[int]:
    """The shares held at the ends of days, by what moved when, in order."""
    sums, total = [0], 0
    for _, shares_e8 in moved:
        total += shares_e8
        sums.append(total)
    return [sums[bisect_right(moved, day, key=itemgetter(0))] for day in days]


def values_by_account(db: sqlite3.Connection, days: Sequence[date]) -> dict[int, list[int]]:
    """By account that is counted by its shares: what they were worth at the ends of days, in the account's currency."""
    own = own_values(db, days)
    if not own:
        return {}
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    kept = {account.id: account for account in accounts.list_accounts(db)}
    known = {security.id: security for security in securities.list_securities(db)}
    found: dict[int, list[int]] = {}
    for pair, values in own.items():
        exchange = exchange_of(kept[pair[0]], known[pair[1]], home, rates)
        inside = values
        if exchange.own != exchange.account:
            inside = [exchange.own_in_account(value, day) or 0 for value, day in zip(values, days, strict=True)]
        before = found.get(pair[0])
        found[pair[0]] = [one + other for one, other in zip(before, inside, strict=True)] if before else inside
    return found


def places_by_row(book: Book, of_accounts: dict[int, dict[str, str]]) -> dict[str, dict[str, str]]:
    """By row: what it is in each facet; `of_accounts` says what each account is."""
    return {row.key: places_of_row(row, of_accounts.get(row.account.id, {})) for row in book.rows}
