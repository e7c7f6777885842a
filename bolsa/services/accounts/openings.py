"""Opening balances: what an account is known to have held on a day is a point its lines must meet, whatever is brought in,
typed or taken out before that day."""

import sqlite3
from dataclasses import replace
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.opening import KnownBalance, known_after
from bolsa.core.known import known as present
from bolsa.core.ledger.entries import Entry, Line, StoredEntry
from bolsa.core.units import Money
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.accounts import accounts, openings, values
from bolsa.store.ledger import entries
from bolsa.store.sorting.categories import OPENING

OPENING_PAYEE = "Opening balance"


def find_known(db: sqlite3.Connection, account_id: int) -> KnownBalance | None:
    """What an account is known to have held at the beginning of a day, if anyone said so."""
    return openings.find_known(db, account_id)


def set_known(db: sqlite3.Connection, by: By, account_id: int, day: date, amount_minor: int) -> Done:
    """Says what an account held at the beginning of a day; its opening balance follows. Raises: InvalidInput, NotAllowed."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        if not is_counted(db, account):
            raise InvalidInput(f"The worth of {account.name} is noted by day, under its values.", field="opening")
        known = openings.find_known(db, account_id)
        entry_id = known.entry_id if known else accounts.find_opening_entry(db, account_id)
        line = _line_of(entries.get_entry(db, entry_id), account_id) if entry_id else None
        if line is not None and line.state == "reconciled":
            raise NotAllowed("Its opening balance is in a reconciled statement. Reopen that under Check first.")
        openings.put_known(db, KnownBalance(account_id, day, amount_minor, entry_id))
        done.sentence = f"{account.name} held {Money(amount_minor, account.currency)} when {day} began"
    return done


def open_as_the_bank_says(db: sqlite3.Connection, by: By, account_id: int) -> Done:
    """Sets the opening balance so that the account meets what its bank last told. Raises: Conflict if it does that already."""
    with change(db, by) as done:
        state = accounts.get_account_state(db, account_id)
        if state.bank_day is None or state.bank_minor is None or not state.difference_minor:
            raise Conflict("It holds what its bank says already.")
        set_known(db, by, account_id, known_after(state.bank_day), state.bank_minor)
        done.sentence = f"Let {state.account.name} open so that it meets what its bank says"
    return done


def is_counted(db: sqlite3.Connection, account: Account) -> bool:
    """Whether an account is counted line by line, so that its opening can be reckoned; one with noted values follows those."""
    return not account.is_valued and not account.counts_shares and not values.has_values(db, account.id)


def take_from_bank(db: sqlite3.Connection, batch_id: int) -> None:
    """Lets accounts of which nothing was known before a batch open so that they meet the balance their bank told with it."""
    for account_id, (day, amount_minor) in openings.list_unknown(db, batch_id).items():
        if is_counted(db, accounts.get_account(db, account_id)):
            openings.put_known(db, KnownBalance(account_id, known_after(day), amount_minor))


def settle_touched(db: sqlite3.Connection, step_id: int) -> None:
    """Reckons the opening balances anew that a step's changes lead to; part of that step."""
    for account_id in openings.list_touched(db, step_id):
        account, known = accounts.get_account(db, account_id), openings.find_known(db, account_id)
        if known is not None and is_counted(db, account):
            _settle(db, account, known, step_id)


def _settle(db: sqlite3.Connection, account: Account, known: KnownBalance, step_id: int) -> None:
    """What someone did to the opening entry itself is what is known from then on."""
    entry = entries.get_entry(db, known.entry_id) if known.entry_id else None
    line = _line_of(entry, account.id) if entry else None
    day, amount = _reckoned(db, known, line)
    if (line is None and not amount) or (line is not None and (line.day, line.amount_minor) == (day, amount)):
        return
    if line is not None and line.state == "reconciled":
        return
    if line is not None and openings.was_changed(db, step_id, line.stored_id) and not openings.was_said(db, step_id, account.id):
        _know_from_line(db, account.id, line)
    elif line is None and openings.lost_its_entry(db, step_id, account.id):
        openings.remove_known(db, account.id)
    elif entry is None or line is None:
        own = Line(amount, account.currency, account_id=account.id, day=day, state="cleared")
        mirror = Line(-amount, account.currency, category_id=OPENING, day=day)
        made = entries.insert_entry(db, Entry(day, OPENING_PAYEE, (own, mirror)))
        openings.put_known(db, replace(known, entry_id=made))
    elif not amount:
        entries.remove_entry(db, entry.id)
    elif len(entry.lines) == 2:
        lines = (one._replace(day=day, amount_minor=amount if one.id == line.id else -amount) for one in entry.lines)
        entries.change_entry(db, replace(entry, day=day, lines=tuple(lines)))


def _reckoned(db: sqlite3.Connection, known: KnownBalance, line: Line | None) -> tuple[date, int]:
    """The day and amount the opening balance should have, whatever it has now."""
    first = openings.find_first_day(db, known.account_id, known.day, line.stored_id if line else 0)
    if first is None:
        return known.opening(None, 0)
    held = accounts.sum_balance(db, known.account_id, known.day - timedelta(days=1))
    counted = line.amount_minor if line and present(line.day) < known.day else 0
    return known.opening(first, held - counted)


def _know_from_line(db: sqlite3.Connection, account_id: int, line: Line) -> None:
    """Takes what was done to the opening entry itself as what is known; nothing, where lines are dated before it."""
    known = openings.find_known(db, account_id)
    if known and openings.find_first_day(db, account_id, present(line.day), line.stored_id) is None:
        openings.put_known(db, replace(known, day=present(line.day), amount_minor=line.amount_minor))
    else:
        openings.remove_known(db, account_id)


def _line_of(entry: StoredEntry, account_id: int) -> Line | None:
    return next((line for line in entry.account_lines if line.account_id == account_id), None)
