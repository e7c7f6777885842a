"""Keeping accounts at their noted values: the entry that books gain or loss up to each value follows whatever else changes."""

import sqlite3
from dataclasses import replace
from datetime import date

from bolsa.core.accounts.valuation import settled
from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry, Line
from bolsa.store.accounts import accounts, values
from bolsa.store.ledger import entries

PAYEE = "Value noted"


def mark_turned(db: sqlite3.Connection, step_id: int) -> None:
    """Marks anew the lines of every account that a step turned everyday or apart, undone or done, and of every entry it put back;
    part of that step."""
    for account_id in accounts.list_turned(db, step_id):
        accounts.mark_everyday_lines(db, account_id)
    accounts.mark_put_back_lines(db, step_id)


def settle_touched(db: sqlite3.Connection, step_id: int) -> None:
    """Settles every account with noted values that a step changed; part of that step."""
    for account_id in values.list_touched_accounts(db, step_id):
        settle(db, account_id)


def settle(db: sqlite3.Connection, account_id: int) -> None:
    """Makes the account hold each noted value at the end of its day, in order of day; what was carried takes in what flowed.

    Gain or loss = the noted value − (what the account held before + what was paid in or out since).
    """
    account = accounts.get_account(db, account_id)
    if account.counts_shares:  # what was noted of it stays to be read, and books nothing
        return
    market_id = values.market_category(db)
    grown_before, opening = 0, accounts.find_opening_amount(db, account_id)
    day_before = date.max  # before the first value an opening is what it is
    for note in values.list_values(db, account_id):
        booked = entries.list_entries(db, [note.entry_id]) if note.entry_id else []
        was = booked[0].account_lines[0] if booked else None
        counted = was.amount_minor if was and known(was.day) <= note.day else 0
        held = accounts.sum_balance(db, account_id, note.day) - counted
        opened = opening[1] if opening and day_before < opening[0] <= note.day else 0
        amount, gain = settled(note.as_noted(), grown_before, held, opened)
        grown_before, day_before = note.grown_minor or 0, note.day
        if amount != note.amount_minor:
            values.put_value(db, account_id, replace(note.as_noted(), amount_minor=amount))
        if (was.amount_minor, was.day) == (gain, note.day) if was else not gain:
            continue
        if was is not None and was.state == "reconciled":  # the statement it was checked with is the stronger word
            continue
        line = Line(gain, account.currency, account_id=account_id, day=note.day, state="cleared")
        mirror = Line(-gain, account.currency, category_id=market_id, day=note.day)
        if not gain:
            entries.remove_entry(db, booked[0].id)
        elif booked:
            kept = booked[0]
            lines = (line._replace(id=kept.account_lines[0].id), mirror._replace(id=kept.category_lines[0].id))
            entries.change_entry(db, replace(kept, day=note.day, lines=lines))
        else:
            entry = Entry(note.day, PAYEE, (line, mirror), origin="value")
            values.set_entry(db, note.id, entries.insert_entry(db, entry))
