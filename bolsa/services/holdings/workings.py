"""The workings of holdings: what they are worth, what they cost and gained, down to lots; and the trades behind positions."""

import sqlite3
from collections.abc import Sequence
from datetime import date

from bolsa.core.holdings.holding import HoldingRow
from bolsa.core.holdings.lots import Lot
from bolsa.core.holdings.prices import SOURCES
from bolsa.core.holdings.shares import shares_text
from bolsa.core.holdings.trades import KIND_WORDS, Trade
from bolsa.core.months import Month
from bolsa.core.units import Money, Shares
from bolsa.core.whole_numbers import number_of
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.holdings.arranging import arrange
from bolsa.services.holdings.book import holdings_on, lots_on
from bolsa.services.holdings.gains import gains_of_year
from bolsa.services.holdings.shares import Holding, shares_page
from bolsa.services.working_parts import Make, parse_key
from bolsa.services.worth.workings import parse_day_key, parse_only
from bolsa.store.accounts import accounts
from bolsa.store.house import household


def shares_now(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account holds today; the key is "account-security"."""
    holding, moves = _holding(db, by, key)
    return _moves_until(holding, moves, by.today, "shares today")


def shares_then(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The shares of a security an account held on the day of the institution's list."""
    holding, moves = _holding(db, by, key)
    day = holding.declared.day if holding.declared else by.today
    return _moves_until(holding, moves, day, f"shares on {day}")


def _holding(db: sqlite3.Connection, by: By, key: str) -> tuple[Holding, list[Trade]]:
    account_id, _, security_id = key.partition("-")
    page = shares_page(db, by, parse_key(account_id))
    holding = next((h for h in page.holdings if h.security.id == parse_key(security_id)), None)
    if holding is None:
        raise NotFound("There is no such figure.")
    return holding, [move for move, security in reversed(page.moves) if security.id == holding.security.id]


def _moves_until(holding: Holding, moves: list[Trade], day: date, label: str) -> Working:
    parts = [
        Working(KIND_WORDS[move.kind].capitalize(), Shares(move.shares_e8), note=f"{move.day}. {move.reason}".rstrip(". "))
        for move in moves
        if move.day <= day
    ]
    return total_of(f"{holding.security.name}: {label}", parts, Shares(0))


def _places(db: sqlite3.Connection, key: str, month: Month) -> tuple[date, list[HoldingRow], str]:
    """The day, the rows and the name a key holds: 2026-05-14@owner.Noor@own2.Taxed, or 2026-05-14#14-3 for one row."""
    whole, _, row_key = key.partition("#")
    text, *places = whole.split("@")
    day = parse_day_key(text, month)
    found = arrange(db, day, (), parse_only(places))
    rows = [*found.rows, *found.sold_out]
    if row_key:
        rows = [row for row in rows if row.key == row_key]
        if not rows:
            raise NotFound("There is no such figure.")
    name = rows[0].name if row_key else ", ".join(place for _, place in parse_only(places)) or "Holdings"
    return day, rows, name


def holdings_value(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What holdings are worth on a day, in home currency: each holding at its price and rate."""
    day, rows, name = _places(db, key, month)
    home = household.get_household(db).home_currency
    parts = [_value(row, home) for row in rows if row.home_minor or row.shares_e8]
    return parts[0] if "#" in key and parts else total_of(f"{name} on {day}", parts, Money(0, home))


def _value(row: HoldingRow, home: str) -> Working:
    if row.security is None:
        note = str(Money(row.value.minor, row.account.currency)) if row.account.currency != home else ""
        return Working(_full_name(row), Money(row.home_minor, home), note=note, ref=("account", row.account.id))
    if row.priced is None:
        return Working(_full_name(row), Money(0, home), note=f"{shares_text(row.shares_e8)} shares, and nobody tells a price")
    price = row.priced.in_(row.security.currency)
    note = f"{shares_text(row.shares_e8)} at {price}, {SOURCES[row.priced.source]} of {row.priced.day}"
    return Working(_full_name(row), Money(row.home_minor, home), note=note, ref=("shares-now", row.key))


def holdings_cost(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What holdings had cost, lot by lot, each at the rate of its day."""
    day, rows, name = _places(db, key, month)
    home = household.get_household(db).home_currency
    lots = lots_on(db, rows, day)
    parts = [_cost(row, lots[row.key], home) for row in rows if row.cost_minor or lots[row.key]]
    return parts[0] if "#" in key and parts else total_of(f"{name}: cost", parts, Money(0, home))


def _cost(row: HoldingRow, lots: Sequence[Lot], home: str) -> Working:
    if not lots:
        note = "paid in, each at its day’s rate"
        return Working(_full_name(row), Money(row.cost_minor, home), note=note, ref=("account", row.account.id))
    return total_of(_full_name(row), [_lot(lot, row.account.currency, home) for lot in lots], Money(0, home))


def _lot(lot: Lot, currency: str, home: str) -> Working:
    note = str(Money(lot.cost.minor, currency)) if lot.is_known else "nobody said what they cost"
    return Working(f"{shares_text(lot.shares_e8)} since {lot.day}", Money(lot.cost.home_minor or 0, home), note=note)


def account_worth(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What an account that is counted by its shares is worth today, in its currency: its cash, and each security."""
    account = accounts.get_account(db, parse_key(key))
    rows = [row for row in holdings_on(db, date.max).rows if row.account.id == account.id and row.security is not None]
    cash = accounts.sum_balance(db, account.id, date.max)
    parts = [Working("Cash", Money(cash, account.currency), ref=("balance", account.id))]
    for row in rows:
        if row.shares_e8:
            note = f"{shares_text(row.shares_e8)} shares" + ("" if row.priced else ", and nobody tells a price")
            parts.append(Working(row.name, Money(row.value.minor, account.currency), note=note, ref=("shares-now", row.key)))
    return total_of(f"{account.name} is worth", parts, Money(0, account.currency), ref=("account", account.id))


PART_WORDS = {"price": "Price", "currency": "Currency", "income": "Distributed"}


def holdings_gain(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What holdings gained: price, currency, and what was distributed; each by holding."""
    _, rows, name = _places(db, key, month)
    home = household.get_household(db).home_currency
    parts = []
    for part, words in PART_WORDS.items():
        own = [Working(_full_name(row), Money(row.part(part), home)) for row in rows if row.part(part)]
        if "#" in key:
            note = {
                "price": "value − cost at today’s rate",
                "currency": "cost at today’s rate − cost",
                "income": "after what was withheld",
            }
            parts.append(Working(words, Money(rows[0].part(part), home), note=note[part]))
        elif own:
            parts.append(total_of(words, own, Money(0, home)))
    return total_of(f"{name}: gain", [part for part in parts if part.figure], Money(0, home))


def _full_name(row: HoldingRow) -> str:
    return row.name if row.security is None and not row.is_cash else f"{row.name}, {row.account.name}"


def holdings_income(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What was distributed in a year, or gained by its sales: "2025" or "2025:sold", in home currency."""
    year_text, _, what = key.partition(":")
    year = gains_of_year(db, parse_key(year_text)) if 1900 <= (number_of(year_text) or 0) <= 2200 else None
    if year is None or what not in ("", "sold"):
        raise NotFound("There is no such figure.")
    if what == "sold":
        parts = [
            Working(
                f"{one.security.name}, {one.account.name}", Money(one.disposal.gain_home_minor or 0, year.home),
                note=f"{shares_text(one.disposal.shares_e8)} bought {one.disposal.bought_on}, sold {one.disposal.sold_on}: "
                f"{Money(one.disposal.proceeds.home_minor or 0, year.home)} less "
                f"{Money(one.disposal.cost.home_minor or 0, year.home)}",
            )
            for one in year.sales
        ]  # fmt: skip
        return total_of(f"Gained by sales in {year.year}", parts, Money(0, year.home))
    parts = [
        Working(f"{one.security.name}, {one.account.name}", Money(one.home_minor or 0, year.home), note=f"{one.trade.day}")
        for one in year.income
    ]
    return total_of(f"Distributed in {year.year}", parts, Money(0, year.home))


WORKINGS: dict[str, Make] = {
    "shares-now": shares_now, "shares-then": shares_then, "holdings-value": holdings_value, "holdings-cost": holdings_cost,
    "holdings-gain": holdings_gain, "holdings-income": holdings_income, "account-worth": account_worth,
}  # fmt: skip
