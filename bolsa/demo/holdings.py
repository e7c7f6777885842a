"""Noor's funds and Itziar's depot: the securities with what their markets tell, and what the household did with them."""

import sqlite3
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal

from bolsa.core.holdings.mix import MixPlan
from bolsa.core.holdings.prices import MarketEvent
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.shares import parse_shares, position_on, shares_text
from bolsa.core.holdings.trades import Trade
from bolsa.core.money import to_minor
from bolsa.demo import people
from bolsa.services.clock import By
from bolsa.services.holdings import counting, mix, securities, shares, trading
from bolsa.services.house import past, sessions
from bolsa.services.ledger.entries import TypedEntry, record_entry
from bolsa.stand_ins.market.state import LISTED, Listed, Market

E8 = 10**8


def record_holdings(db: sqlite3.Connection, account_ids: dict[str, int]) -> None:
    """Writes the securities, their past, the trades, and what the institutions list."""
    market = Market()
    listed = {one.symbol: one for one in LISTED if one.symbol in people.SECURITIES}
    ids = {symbol: _record_security(db, market, one) for symbol, one in listed.items()}
    for key in people.COUNTED:
        opening = next(a.opening for a in people.ACCOUNTS if a.key == key)
        counting.count_by(db, _by(people.FIRST_DAY), account_ids[key], shares=True, cash_minor=int(Decimal(opening) * 100))
    day, amount = people.KRONOR_TO_FUNDS
    moved = TypedEntry(day, "To the funds", -int(Decimal(amount) * 100), other_account_id=account_ids["funds"], state="cleared")
    record_entry(db, _by(day), account_ids["kronor"], moved)
    for key, symbol, on, kind, count, total, since, reason in people.TRADES:
        e8, fee = parse_shares(count), people.FEES.get(kind, 0)
        minor = int(Decimal(total) * 100) if total else _at_market(market, listed[symbol], on, kind, e8, fee)
        trade = Trade(on, kind, e8, ids[symbol], minor, fee, since, reason=reason, account_id=account_ids[key])
        trading.enter_trade(db, _by(on), trade)
    for key in people.COUNTED:
        _record_distributions(db, market, account_ids[key], {ids[symbol]: one for symbol, one in listed.items()})
    for key, on, there in people.LISTS:
        shares.note_positions(db, _by(on), account_ids[key], on, [(name, "", parse_shares(text)) for name, text in there])


def record_mix(db: sqlite3.Connection, account_ids: dict[str, int]) -> None:
    """Writes what is held is made of, the targets, and what is put in a month."""
    by = _by(people.LAST_DOWNLOAD)
    for one in sessions.list_members(db):
        mix.say_plan(db, by, MixPlan(contribution_minor=people.PUT_IN, aged_id=one.id), people.BIRTH_YEARS[one.name])
    first = sessions.list_members(db)[0]
    mix.say_plan(db, by, MixPlan(contribution_minor=people.PUT_IN, aged_id=first.id))
    view = mix.mix_view(db, by)
    by_name = {one.name: one.id for one in view.classes}
    symbols = {one.symbol: one.id for one in securities.list_securities(db)}
    for key, made_of in people.MADE_OF.items():
        row_key = next((row.key for row in view.rows if row.security_id == symbols.get(key, -1)), None)
        parts = {by_name[name]: Decimal(percent) for name, percent in made_of.items()}
        mix.say_parts(db, by, row_key or f"{account_ids[key]}-all", parts)
    mix.say_classes(db, by, [replace(one, target=people.TARGETS.get(one.name, "")) for one in view.classes])


def _by(day: date) -> By:
    return By(day, f"{day}T20:00:00Z", 1)


def _record_security(db: sqlite3.Connection, market: Market, one: Listed) -> int:
    typed = Security(
        0, one.name, one.isin, one.symbol, one.market, one.currency, one.kind, is_compared=one.symbol == people.COMPARED
    )
    security_id: int = securities.add_security(db, _by(people.FIRST_DAY), typed).made
    closes = market.prices(one.symbol, one.market, date(2022, 12, 1), people.DEMO_DAY - timedelta(days=1))
    told = [
        MarketEvent(security_id, kind, day, pay_day, int(amount * E8) if amount else None, new, old)
        for kind, day, pay_day, amount, new, old in market.events(one.symbol, one.market, people.DEMO_DAY + timedelta(days=30))
        if day >= people.FIRST_DAY
    ]
    past.record_market(db, security_id, [(day, int(price * E8)) for day, price in closes], told)
    return security_id


def _at_market(market: Market, one: Listed, day: date, kind: str, count_e8: int, fee_minor: int) -> int | None:
    """What a trade came to by the market's price of the day."""
    if kind == "in":
        return None
    gross = to_minor(Decimal(shares_text(count_e8)) * (market.price_on(one.symbol, one.market, day) or Decimal(0)), one.currency)
    return gross - fee_minor if kind == "sell" else gross + fee_minor


def _record_distributions(db: sqlite3.Connection, market: Market, account_id: int, listed: dict[int, Listed]) -> None:
    """Enters what was distributed in cash of what an account held before the day without it."""
    page = shares.shares_page(db, _by(people.DEMO_DAY), account_id)
    for holding in page.holdings:
        one = listed[holding.security.id]
        moves = [trade for trade, security in page.moves if security.id == holding.security.id]
        for event in market.events(one.symbol, one.market, people.CONFIRMED_UNTIL):
            held = position_on(moves, event.day - timedelta(days=1))
            if event.kind != "dividend" or one.symbol in people.REINVESTED or not held or not event.pay_day or not event.amount:
                continue
            if event.pay_day <= people.CONFIRMED_UNTIL:
                got = to_minor(Decimal(shares_text(held)) * event.amount, one.currency)
                trade = Trade(
                    event.pay_day,
                    "dividend",
                    0,
                    holding.security.id,
                    got,
                    taxed_minor=got,
                    ex_day=event.day,
                    account_id=account_id,
                )
                trading.enter_trade(db, _by(event.pay_day), trade)
