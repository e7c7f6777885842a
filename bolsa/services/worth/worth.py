"""Net worth: on days, account by account, by class; arranged by facets; and what changed it."""

import sqlite3
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import TypeVar

from bolsa.core.accounts.account import Account
from bolsa.core.months import Month, months_between
from bolsa.core.units import Money, Rate
from bolsa.core.worth.changes import Flow, WorthChange, worth_change
from bolsa.core.worth.net_worth import Node, WorthPoint, WorthRow, facet_of_account, tree_of, worth_point
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.services.holdings.book import values_by_account
from bolsa.services.holdings.gains import market_flows
from bolsa.store.accounts import accounts, terms
from bolsa.store.connection import reading
from bolsa.store.house import household
from bolsa.store.worth import flows

FACETS = {
    "class": "Class", "group": "Group", "owner": "Owner", "institution": "Institution", "kind": "Kind", "currency": "Currency",
}  # fmt: skip
Place = TypeVar("Place", Month, date)
Only = tuple[tuple[str, str], ...]  # facets' keys, and the one place in each that is looked at alone


@dataclass(frozen=True)
class WorthView:
    """Net worth at the ends of some days, and the accounts at the last of them.

    `without_rate` names currencies for which no rate is known: their accounts are left out, and said so.
    """

    points: tuple[WorthPoint, ...]
    rows: tuple[WorthRow, ...]
    without_rate: tuple[str, ...]
    currency: str

    @property
    def now(self) -> WorthPoint:
        return self.points[-1]


def worth_view(db: sqlite3.Connection, month: Month, months: int = 24) -> WorthView:
    """Net worth at the end of each of the months up to this one, none before the books begin."""
    with reading(db):
        started = first_month(db) or month
        first = min(max(month + (1 - months), started), month)
        return worth_course(db, [m.last_day for m in months_between(first, month)])


def first_month(db: sqlite3.Connection) -> Month | None:
    """The month in which the books of any account begin."""
    return min((m for by_month in accounts.sum_by_month(db).values() for m in by_month), default=None)


def worth_course(db: sqlite3.Connection, days: Sequence[date], only: Only = ()) -> WorthView:
    """Net worth at the ends of days in order, of all accounts or of those in one place of some facets."""
    with reading(db):
        home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
        kept = accounts.list_accounts(db)
        if only:
            places = places_of(db)
            kept = [account for account in kept if all(places[account.id].get(facet) == place for facet, place in only)]
        balances = _worth_of_accounts(db, days)
        missing = {a.currency for a in kept if rate_on(a.currency, days[-1], home, rates) is None}
    points: list[WorthPoint] = []
    rows: list[WorthRow] = []
    for at, day in enumerate(days):
        rows = []
        for account in kept:
            rate = rate_on(account.currency, day, home, rates)
            if rate is not None:
                rows.append(_row_at(account, balances[account.id][at] if account.id in balances else 0, rate))
        points.append(worth_point(day, rows))
    return WorthView(tuple(points), tuple(rows), tuple(sorted(missing)), home)


def _worth_of_accounts(db: sqlite3.Connection, days: Sequence[date]) -> dict[int, list[int]]:
    """What each account was worth at the ends of days, in its currency: its balance, and its shares where they are counted."""
    balances = _balances(db, days)
    for account_id, values in values_by_account(db, days).items():
        cash = balances.get(account_id, [0] * len(days))
        balances[account_id] = [one + other for one, other in zip(cash, values, strict=True)]
    return balances


def _balances(db: sqlite3.Connection, days: Sequence[date]) -> dict[int, list[int]]:
    """Each account's balance at the ends of days, from the kept totals; days within a month are counted from its lines."""
    by_month = accounts.sum_by_month(db)
    if all(day == Month.of(day).last_day for day in days):
        months = [Month.of(day) for day in days]
        return {id_: _running(sorted(moved.items()), months) for id_, moved in by_month.items()}
    start = Month.of(days[0])
    before = flows.sum_before(db, start)
    moved_on = flows.sum_by_day(db, start.first_day, days[-1])
    return {id_: [before.get(id_, 0) + x for x in _running(moved_on.get(id_, []), days)] for id_ in {*before, *moved_on}}


def _running(moved: Sequence[tuple[Place, int]], ends: Sequence[Place]) -> list[int]:
    """The sums up to and with each end."""
    places, sums, total = [], [], 0
    for place, amount in moved:
        total += amount
        places.append(place)
        sums.append(total)
    return [sums[at - 1] if (at := bisect_right(places, end)) else 0 for end in ends]


def worth_on(db: sqlite3.Connection, day: date, only: Only = ()) -> WorthView:
    """Net worth at the end of a day, account by account at that day's rates."""
    return worth_course(db, [day], only)


def _row_at(account: Account, balance_minor: int, rate: Rate) -> WorthRow:
    """An account's balance in its own currency and, at a rate, in home currency."""
    in_home = rate.convert(Money(balance_minor, account.currency)).minor
    return WorthRow(account.id, account.name, account.kind, account.side, account.shown, account.currency, balance_minor, in_home)


def facets_of(db: sqlite3.Connection) -> dict[str, str]:
    """Every way of arranging accounts: those everyone has, and the household's own."""
    return FACETS | {f"own{id_}": name for id_, name in terms.list_facets(db).items()}


def places_of(db: sqlite3.Connection) -> dict[int, dict[str, str]]:
    """By account: what it is in each facet it has a place in."""
    names = {member.id: member.name for member in household.list_members(db)}
    owners, own = terms.list_owners(db), terms.list_facet_values(db)
    places = {}
    for account in accounts.list_accounts(db):
        place = facet_of_account(account)
        place["owner"] = " and ".join(names[id_] for id_ in owners.get(account.id, ()) if id_ in names) or "Everyone"
        place |= {f"own{id_}": value for id_, value in own.get(account.id, {}).items()}
        places[account.id] = place
    return places


def arranged(db: sqlite3.Connection, rows: Sequence[WorthRow], order: Sequence[str]) -> Node[WorthRow]:
    """The accounts as a tree, by facets in an order."""
    with reading(db):
        return tree_of(rows, places_of(db), order)


def what_changed(db: sqlite3.Connection, first: date, last: date, only: Only = ()) -> WorthChange:
    """What made net worth change from the end of one day to the end of another."""
    with reading(db):
        course = worth_course(db, [first, last], only)
        counted = {row.account_id for row in course.rows}
        kept = [account for account in accounts.list_accounts(db) if account.id in counted]
        home, rates = course.currency, accounts.list_rates(db)
        then = worth_course(db, [first], only).rows
        special = {row["id"]: row for row in flows.list_special(db, first, last) if row["day"] > first.isoformat()}
        told_by_line = [account.id for account in kept if account.currency != home or account.counts_shares]
        lines = [row for row in flows.list_lines_of(db, told_by_line, first, last) if row["day"] > first.isoformat()]
        of_trades = flows.list_trade_lines(
            db, first, last
        )  # cash that became shares, or came of them: the market's flows hold it
        of_market = market_flows(db, first, last)
    before = {row.account_id: row.home_minor for row in then}
    after = {row.account_id: row.home_minor for row in course.rows}
    found = [_flow(row, row["kind"], home, rates) for row in special.values()]
    found += [_flow(row, "plain", home, rates) for row in lines if row["id"] not in special and row["id"] not in of_trades]
    found += of_market
    # Of an account in home currency all that is neither value nor opening is plain: there is no rate that could change.
    told = dict.fromkeys(counted, 0)
    for flow in found:
        if flow.account_id in told:
            told[flow.account_id] += flow.home_minor
    found += [
        Flow(account.id, "plain", after[account.id] - before.get(account.id, 0) - told[account.id])
        for account in kept
        if account.currency == home and not account.counts_shares
    ]
    return worth_change(kept, before, after, found)


def _flow(row: sqlite3.Row, kind: str, home: str, rates: Rates) -> Flow:
    """A line in home currency at its day's rate."""
    rate = rate_on(row["currency"], date.fromisoformat(row["day"]), home, rates)
    return Flow(row["account_id"], kind, rate.convert(Money(row["amount_minor"], row["currency"])).minor if rate else 0)


def everyday_balance(db: sqlite3.Connection, month: Month) -> int:
    """The balance of everyday accounts at the month's end, in home currency."""
    return accounts.sum_everyday_balance(db, month)
