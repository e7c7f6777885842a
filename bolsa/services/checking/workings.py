"""The working of a check's difference."""

import sqlite3

from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.services.checking.checking import check_of
from bolsa.services.clock import By
from bolsa.services.working_parts import Make, parse_key
from bolsa.store.accounts import accounts
from bolsa.store.checking import statements


def check_difference(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the ticked lines still lack to lead from the opening to the closing balance of a statement."""
    statement = statements.get_statement(db, parse_key(key))
    account, check = accounts.get_account(db, statement.account_id), check_of(db, statement)
    currency = account.currency
    ticked = [
        Working(i.payee, Money(-i.amount_minor, currency), note=i.day.isoformat(), ref=("entry", i.entry_id))
        for i in check.items
        if i.ticked
    ]
    nothing = Money(0, currency)
    parts = [
        Working("Closing balance", Money(check.closing_minor, currency), note="as the statement says"),
        Working("Opening balance", Money(-check.opening_minor, currency), note="carried from the last statement"),
        total_of("Ticked lines", ticked, nothing),
    ]
    return total_of("Difference", parts, nothing)


WORKINGS: dict[str, Make] = {"check-difference": check_difference}
