"""The workings of an account's figures: its balance, and its difference from what the bank says."""

import sqlite3
from datetime import date

from bolsa.core.known import known
from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.working import Working, total_of
from bolsa.errors import NotFound
from bolsa.services.accounts.accounts import account_groups, in_home
from bolsa.services.clock import By
from bolsa.services.working_parts import MOST_ENTRIES, Make, entry_parts, parse_key, rest_part, split_key
from bolsa.store.accounts import accounts
from bolsa.store.house import household
from bolsa.store.ledger import register


def balance(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """An account's balance at the month's end (the last day with entries, for the present): what stood before, and its lines.

    A key such as "1.150" shows the lines after so many, alone.
    """
    account_id, offset = split_key(key)
    account = accounts.get_account(db, account_id)
    currency = account.currency
    last = date(9999, 12, 31) if month >= Month.of(by.today) else month.last_day
    end = (month + -1).last_day
    before = accounts.sum_balance(db, account.id, end)
    rows = register.list_lines_between(db, account.id, month.first_day, last)
    shown = rows[offset : offset + MOST_ENTRIES]
    rest = rows[offset + MOST_ENTRIES :]
    parts = [] if offset else [Working(f"At the end of {Month.of(end)}", Money(before, currency))]
    parts += entry_parts(shown, currency)
    more = sum(row["amount_minor"] for row in rest)
    parts += rest_part(len(rest), more, currency, ("balance", f"{account.id}.{offset + MOST_ENTRIES}"))
    label = f"Further entries of {account.name}" if offset else f"Balance of {account.name}"
    return total_of(label, parts, Money(0, currency), ref=("account", account.id))


def bank_difference(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """What the bank says less what the books hold as cleared on that day."""
    state = accounts.get_account_state(db, parse_key(key))
    account = state.account
    if state.bank_day is None or state.bank_minor is None or state.difference_minor is None:
        raise NotFound("The bank has not said what this account holds.")
    cleared = state.bank_minor - state.difference_minor
    parts = [
        Working("The bank says", Money(state.bank_minor, account.currency), note=state.bank_day.isoformat()),
        Working("Cleared here by that day", Money(-cleared, account.currency), ref=("account", account.id)),
    ]
    return total_of(f"Difference of {account.name}", parts, Money(0, account.currency))


def group(db: sqlite3.Connection, by: By, key: str, month: Month) -> Working:
    """The accounts of a group, hidden and closed ones too, at today's rates; the key is such as "1.Everyday", 1 for everyday."""
    everyday, _, name = key.partition(".")
    home, rates = household.get_household(db).home_currency, accounts.list_rates(db)
    found = next((one for one in account_groups(db) if (one.name, str(int(one.everyday))) == (name, everyday)), None)
    if found is None or found.total_minor is None:
        raise NotFound("There is no such group, or a rate is not known.")
    parts = []
    for state in found.members:
        if state.account.closed_on and not state.worth_minor:
            continue
        own = Money(state.worth_minor, state.account.currency)
        note = "" if own.currency == home else f"{own} at {rates[own.currency][-1][0]}"
        ref = ("balance", state.account.id) if own.currency == home else ("account", state.account.id)
        parts.append(Working(state.account.name, known(in_home(own, home, rates)), note, ref))
    return total_of(name, parts, Money(0, home))


WORKINGS: dict[str, Make] = {"balance": balance, "bank-difference": bank_difference, "account-group": group}
