"""Closing an account, opening it again, and deleting one that was a mistake."""

import sqlite3
from dataclasses import replace
from datetime import date

from bolsa.core.accounts.noted import Belongings
from bolsa.core.accounts.valuation import Noted
from bolsa.core.holdings.shares import shares_text
from bolsa.core.ledger.entries import Entry, Line
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.accounts import account_ends, accounts, values
from bolsa.store.checking import statements
from bolsa.store.holdings import securities, trades
from bolsa.store.ledger import entries
from bolsa.store.sorting.categories import UNSORTED


def close_account(
    db: sqlite3.Connection,
    by: By,
    account_id: int,
    day: date,
    *,
    rest_to: int | None = None,
    write_down: bool = False,
    happened: bool = False,
) -> Done:
    """Closes an account at the end of a day. Its history stays.

    What it still holds goes to the account `rest_to`, or with `write_down` the value of a valued account is noted as zero. What
    is still pending is cleared if it `happened`, as all that was paid in cash has. Raises: InvalidInput while something is left,
    is pending, or is dated later.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        if account.closed_on is not None:
            raise InvalidInput(f"{account.name} is closed already.")
        if day > by.today:
            raise InvalidInput("An account cannot close in the future.", field="day")
        belongings = account_ends.count_belongings(db, account_id)
        if belongings.last_day and belongings.last_day > day:
            raise InvalidInput(f"{account.name} has an entry on {belongings.last_day}. Close it after that.", field="day")
        if any(s.state == "open" for s in statements.list_statements(db, account_id)):
            raise InvalidInput("A statement of this account is being checked. Finish it, or give it up, first.")
        _require_no_shares(db, account_id, account.name)
        pending = count_pending(db, account_id)
        if pending and not happened:
            words = "An entry is" if pending == 1 else f"{pending} entries are"
            sentence = f"{words} still pending. Take out what did not happen, and say that the rest did."
            raise InvalidInput(sentence, field="happened")
        account_ends.clear_pending(db, account_id)
        rest = accounts.sum_balance(db, account_id, day)
        if rest and rest_to is None and not write_down:
            raise InvalidInput("It still holds something. Say where that goes.", field="rest_to")
        done.sentence = f"Closed the account {account.name}"
        if rest and write_down and account.is_valued:
            values.put_value(db, account_id, Noted(day, 0))
        elif rest:
            _move_rest(db, account_id, rest, day, rest_to)
        accounts.change_account(db, replace(accounts.get_account(db, account_id), closed_on=day))
    return done


def count_pending(db: sqlite3.Connection, account_id: int) -> int:
    """How many entries of an account nobody has confirmed yet; of cash nobody does."""
    return 0 if accounts.get_account(db, account_id).kind == "cash" else account_ends.count_pending(db, account_id)


def _require_no_shares(db: sqlite3.Connection, account_id: int, name: str) -> None:
    """Nothing, unless shares lie in the account. Raises: InvalidInput naming one of them."""
    for security_id, shares_e8 in trades.list_positions(db, account_id):
        security = securities.get_security(db, security_id).name
        raise InvalidInput(f"{shares_text(shares_e8)} {security} still lie in {name}. Sell them, or say where they went, first.")


def _move_rest(db: sqlite3.Connection, account_id: int, rest_minor: int, day: date, rest_to: int | None) -> None:
    account = accounts.get_account(db, account_id)
    if rest_to is None:
        raise InvalidInput("Say where what it holds goes.", field="rest_to")
    other = accounts.get_account(db, rest_to)
    if other.id == account_id or other.currency != account.currency or other.closed_on is not None:
        raise InvalidInput(f"Choose another open account in {account.currency}.", field="rest_to")
    out = Line(-rest_minor, account.currency, account_id=account_id, day=day, state="cleared")
    into = Line(rest_minor, account.currency, account_id=other.id, day=day, state="pending")
    entries.insert_entry(db, Entry(day, f"Rest of {account.name}", (out, into)))


def open_again(db: sqlite3.Connection, by: By, account_id: int) -> Done:
    """Opens a closed account again."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        done.sentence = f"Opened the account {account.name} again"
        accounts.change_account(db, replace(account, closed_on=None))
    return done


def count_belongings(db: sqlite3.Connection, account_id: int) -> Belongings:
    """What a deletion would take with the account."""
    return account_ends.count_belongings(db, account_id)


def delete_left_empty(db: sqlite3.Connection, batch_id: int) -> list[str]:
    """Takes out the accounts a batch's file made to which nothing else came, within the caller's step; gives their names."""
    names = []
    for account_id in account_ends.list_left_empty(db, batch_id):
        names.append(accounts.get_account(db, account_id).name)
        opening = accounts.find_opening_entry(db, account_id)
        account_ends.remove_belongings(db, account_id)
        if opening:
            entries.remove_entry(db, opening)
        account_ends.remove_account(db, account_id)
    return names


def delete_account(db: sqlite3.Connection, by: By, account_id: int, typed_name: str) -> Done:
    """Deletes an account and all that is only its own, as one step that can be undone.

    The other side of a transfer stays, not sorted. Raises: InvalidInput unless the account's name is typed.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        if " ".join(typed_name.split()).casefold() != account.name.casefold():
            raise InvalidInput(f"Type “{account.name}” to delete it.", field="name")
        done.sentence = f"Deleted the account {account.name}"
        account_ends.remove_belongings(db, account_id)
        for entry_id in account_ends.list_own_entries(db, account_id):
            entries.remove_entry(db, entry_id)
        touched = [entry_id for entry_id, _ in account_ends.list_lines(db, account_id)]
        account_ends.turn_lines_into_category(db, account_id, UNSORTED)
        for entry in entries.list_entries(db, touched):
            entries.change_entry(db, entry)  # whether it touches an everyday account is set anew
        account_ends.remove_account(db, account_id)
    return done
