"""The workings of a pay's figures: a line's year so far, sums of a payslip's year, an account's yearly ceiling."""

import sqlite3
from datetime import date

from bolsa.core.months import Month
from bolsa.core.pay.payday import YearSoFar, start_of, year_so_far
from bolsa.core.pay.payslip import KINDS
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.clock import By
from bolsa.services.working_parts import Make, parse_key
from bolsa.store.accounts import accounts
from bolsa.store.due import series as kept_series
from bolsa.store.ledger import entries
from bolsa.store.pay import pay as pays

SUMS = {"gross": ("earned",), "taxable": ("earned", "before"), "net": ("earned", "before", "tax", "after")}
SUM_WORDS = {"gross": "Gross", "taxable": "Taxable", "net": "Net"}


def year_of_line(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """A line's year up to a day (key: pay.day.line), or a sum of lines' (key: pay.day.gross, taxable or net)."""
    pay_text, _, rest = key.partition(".")
    day_text, _, what = rest.partition(".")
    pay = pays.get_pay(db, parse_key(pay_text))
    currency = kept_series.get_series(db, pay.series_id).currency
    found = year_so_far(pay, pays.list_paydays(db, pay.id), _parse_day(day_text))
    if what in SUMS:
        kinds = SUMS[what]
        parts = [_line(one, currency, -1 if one.line.kind != KINDS[0] else 1) for one in found if one.line.kind in kinds]
        return total_of(SUM_WORDS[what], [part for part in parts if part.figure], Money(0, currency))
    line = next((one for one in found if one.line.id == parse_key(what)), None)
    if line is None:
        raise NotFound("There is no such figure.")
    return _line(line, currency, 1)


def _line(one: YearSoFar, currency: str, sign: int) -> Working:
    parts = [Working("Before the first payday kept", Money(sign * one.start_minor, currency))] if one.start_minor else []
    parts += [
        Working("Payday", Money(sign * told.amount_minor, currency), note=f"{told.day}", ref=("entry", told.entry_id))
        for told in one.told
    ]
    return total_of(one.line.name, parts, Money(0, currency))


def deposit(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What a deposit brought: the entry of the line."""
    line_id = parse_key(key)
    entry = entries.get_entry_of_line(db, line_id)
    line = next(one for one in entry.lines if one.id == line_id)
    part = Working(entry.payee, Money(line.amount_minor, line.currency), note=f"{line.day or entry.day}", ref=("entry", entry.id))
    return total_of("The bank brought", [part], Money(0, line.currency))


def ceiling(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What went to an account in a year, its employer's part counted in (key: account.year)."""
    account_text, _, year_text = key.partition(".")
    account, year = accounts.get_account(db, parse_key(account_text)), parse_key(year_text)
    parts = [
        Working(f"{line.name}, before the first payday kept", Money(start, account.currency))
        for pay in pays.list_pays(db)
        for line in pay.lines
        if line.account_id == account.id and (start := start_of(pay, line, year))
    ]
    by_whom = {"own": "from pay", "employer": "from the employer", "other": "otherwise"}
    parts += [
        Working(
            one.payee, Money(one.amount_minor, account.currency), f"{one.day}, {by_whom[one.by_whom]}", ("entry", one.entry_id)
        )
        for one in pays.list_contributions(db, account.id, year)
    ]
    return total_of(f"Paid into {account.name} in {year}", parts, Money(0, account.currency))


def _parse_day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise NotFound("There is no such figure.") from error


WORKINGS: dict[str, Make] = {"pay-year": year_of_line, "pay-deposit": deposit, "ceiling": ceiling}
