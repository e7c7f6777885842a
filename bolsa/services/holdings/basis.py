"""Suspects for basis with the figures before and after their repair, and the distributions that wait to be confirmed."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.basis import (
    BasisSuspect,
    ExpectedIncome,
    expect_income,
    find_basis_suspects,
    likely_between,
    may_be_far,
    repaired,
)
from bolsa.core.holdings.exchange import Exchange
from bolsa.core.holdings.holding import HoldingRow, held_of, value_row
from bolsa.core.holdings.lots import find_lots
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import INCOME, Trade
from bolsa.core.worth.rates import Rates
from bolsa.errors import Conflict
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings.book import exchange_of, income_until, prices_on
from bolsa.services.holdings.trading import enter_trade, repair
from bolsa.services.remembering import remembered
from bolsa.store.accounts import accounts, terms
from bolsa.store.connection import reading
from bolsa.store.holdings import kept_suspects, securities, trades
from bolsa.store.house import household

DAYS_LOOKED_BACK = 400  # a distribution nobody entered for longer is not asked for any more
DAYS_AHEAD = 45


@dataclass(frozen=True)
class Suspected:
    """A suspect with its holding, and the row as it is and as it would be."""

    account: Account
    security: Security
    suspect: BasisSuspect
    before: HoldingRow
    after: HoldingRow

    @property
    def key(self) -> str:
        return f"{self.account.id}-{self.security.id}-{self.suspect.key}"


@dataclass(frozen=True)
class Awaited:
    """An expected distribution with the names of its account and security."""

    account: Account
    security: Security
    expected: ExpectedIncome


def list_suspects(db: sqlite3.Connection, today: date, only: tuple[int, int] | None = None) -> list[Suspected]:
    """Every suspect about the basis of what is or was held (or of one account and security), what changes most first, without
    those that are right as they are."""
    return list(remembered(db, "list_suspects", (today, only), lambda: _list_suspects(db, today, only)))


def _list_suspects(db: sqlite3.Connection, today: date, only: tuple[int, int] | None) -> tuple[Suspected, ...]:
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        kept = {account.id: account for account in accounts.list_accounts(db)}
        known = {security.id: security for security in securities.list_securities(db)}
        told = securities.list_events(db, kind="split")
        differing = set(trades.list_differing(db))
        doubted = {only} if only else _pairs_to_doubt(db, kept, known, home, rates) | differing
        declared = {account_id: trades.list_declared(db, account_id) for account_id in {pair[0] for pair in differing}}
        by_pair = {pair: trades.list_trades(db, *pair) for pair in sorted(doubted)}
        prices = _prices_at_costs(db, by_pair)
        right = kept_suspects.list_kept(db)
        income = income_until(db, today, kept, known, home, rates) if by_pair else {}
        found = []
        for pair, own in by_pair.items():
            account, security = kept[pair[0]], known[pair[1]]
            exchange = exchange_of(account, security, home, rates)
            events = [event for event in told if event.security_id == security.id]
            listed = declared.get(account.id, {}).get(security.id)
            for suspect in find_basis_suspects(own, prices.get(security.id, {}).get, events, exchange, today, listed):
                one = _with_figures(db, account, security, own, suspect, exchange, today, income.get(pair, 0))
                if one.key not in right:
                    found.append(one)
    return tuple(sorted(found, key=lambda one: -abs(one.after.gain_minor - one.before.gain_minor)))


def _pairs_to_doubt(
    db: sqlite3.Connection, kept: dict[int, Account], known: dict[int, Security], home: str, rates: Rates
) -> set[tuple[int, int]]:
    """The accounts and securities in which something may be suspect; of the others not even the trades are read."""
    found = trades.list_pairs_to_doubt(db)
    exchanges = {pair: exchange_of(kept[pair[0]], known[pair[1]], home, rates) for pair in trades.list_pairs(db) - found}
    by_currencies = {(one.account, one.own): likely_between(one) for one in exchanges.values()}
    likely = {pair: by_currencies[one.account, one.own] for pair, one in exchanges.items()}
    for pair, since, total, shares_e8, *prices in trades.list_costs(db, likely):
        then = likely_between(exchanges[pair], since)
        if any(price and may_be_far(total, shares_e8, price, then) for price in prices):
            found.add(pair)
    return found


def _prices_at_costs(db: sqlite3.Connection, by_pair: dict[tuple[int, int], list[Trade]]) -> dict[int, dict[date, Priced]]:
    """By security: the price told for the day of each cost, none where the market told its first one later."""
    days: dict[int, set[date]] = {}
    for pair, own in by_pair.items():
        days.setdefault(pair[1], set()).update(day for trade in own for day in (trade.day, trade.held_since))
    found: dict[int, dict[date, Priced]] = {}
    for security_id, wanted in days.items():
        ordered = sorted(wanted)
        told = securities.list_prices_on(db, [security_id], ordered)[security_id]
        fresh = {day: price for day, price in zip(ordered, told, strict=True) if price and not price.is_old(day)}
        found[security_id] = fresh
    return found


def _with_figures(
    db: sqlite3.Connection,
    account: Account,
    security: Security,
    own: list[Trade],
    suspect: BasisSuspect,
    exchange: Exchange,
    today: date,
    income: int,
) -> Suspected:
    method = terms.get_terms(db, account.id).lot_method
    priced = prices_on(db, [security.id], [today])[security.id][0]

    def row(with_trades: list[Trade]) -> HoldingRow:
        picks = trades.list_picks(db, account.id, security.id)
        lots = find_lots(with_trades, method, exchange, picks).held
        return value_row(account, security, held_of(lots), priced, exchange, today, income)

    return Suspected(account, security, suspect, row(own), row(repaired(own, suspect)))


def mend(db: sqlite3.Connection, by: By, key: str) -> Done:
    """Does what a suspect's repair says, as one step. Raises: Conflict if it is not suspect any more."""
    with change(db, by) as done:
        one = _get_suspect(db, by, key)
        done.sentence = f"{one.security.name}: {one.suspect.repair}"
        repair(db, one.suspect.puts, one.suspect.takes_out)
    return done


def keep_as_it_is(db: sqlite3.Connection, by: By, key: str) -> Done:
    """Remembers that a suspect was looked at and is right as it is."""
    with change(db, by) as done:
        one = _get_suspect(db, by, key)
        done.sentence = f"{one.security.name} is right as it is: {one.suspect.title}"
        kept_suspects.keep(db, key)
    return done


def _get_suspect(db: sqlite3.Connection, by: By, key: str) -> Suspected:
    found = next((one for one in list_suspects(db, by.today) if one.key == key), None)
    if found is None:
        raise Conflict("That is not suspect any more. Look at the suspects there are now.")
    return found


# --- distributions ----------------------------------------------------------------------------------------------------


def list_awaited(db: sqlite3.Connection, today: date) -> list[Awaited]:
    """The distributions of what is held that nobody entered: paid already, or to be paid soon; by pay day."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        kept = {account.id: account for account in accounts.list_accounts(db)}
        known = {security.id: security for security in securities.list_securities(db)}
        near = (today - timedelta(days=DAYS_LOOKED_BACK), today + timedelta(days=DAYS_AHEAD))
        events = [
            event
            for event in securities.list_events(db, kind="dividend", since=near[0] - timedelta(days=DAYS_LOOKED_BACK))
            if near[0] <= (event.pay_day or event.day) <= near[1]
        ]
        holders = trades.sum_holders(db, [(event.security_id, event.day - timedelta(days=1)) for event in events])
        told = [
            (event, {id_: shares for id_, shares in held.items() if kept[id_].closed_on is None})
            for event, held in zip(events, holders, strict=True)
        ]
        incomes: dict[tuple[int, int], list[Trade]] = {}
        for trade in trades.list_of_kinds(db, INCOME, date.max, since=min((event.day for event in events), default=today)):
            incomes.setdefault((trade.account_id, trade.security_id), []).append(trade)
        exchanges = {
            (id_, event.security_id): exchange_of(kept[id_], known[event.security_id], home, rates)
            for event, held in told
            for id_ in held
        }
        right = kept_suspects.list_kept(db)
        expected = [one for one in expect_income(told, incomes, exchanges) if f"income-{one.key}" not in right]
    return [Awaited(kept[one.account_id], known[one.security_id], one) for one in expected]


def confirm_income(db: sqlite3.Connection, by: By, key: str, received_minor: int | None = None, withheld_minor: int = 0) -> Done:
    """Enters a distribution as the advice says it: what was received after what was withheld; as expected if nothing is said.

    Raises: Conflict if it is entered already.
    """
    with change(db, by) as done:
        one = _get_awaited(db, by, key).expected
        trade = one.trade(min(one.pay_day, by.today))
        if received_minor is not None:
            gross = received_minor + withheld_minor
            trade = replace(trade, total_minor=received_minor, taxed_minor=gross, withheld_minor=withheld_minor or None)
        entered = enter_trade(db, by, trade)
        done.sentence, done.made = entered.sentence, entered.made
    return done


def forget_income(db: sqlite3.Connection, by: By, key: str) -> Done:
    """Remembers that a distribution did not come."""
    with change(db, by) as done:
        one = _get_awaited(db, by, key)
        done.sentence = f"{one.security.name} distributed nothing on {one.expected.pay_day}"
        kept_suspects.keep(db, f"income-{key}")
    return done


def _get_awaited(db: sqlite3.Connection, by: By, key: str) -> Awaited:
    found = next((one for one in list_awaited(db, by.today) if one.expected.key == key), None)
    if found is None:
        raise Conflict("That distribution is entered already.")
    return found
