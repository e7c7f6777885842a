"""The sides of a transfer that two banks told of. It is one act here and two facts outside: each side is changed or taken out
only by what its own bank tells. Where the sides no longer agree, the transfer is undone into what each bank said, and both wait
in Sort."""

import json
import sqlite3
from collections import Counter
from dataclasses import replace

from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry, Line, StoredEntry
from bolsa.core.ledger.payees import tidy_payee
from bolsa.core.units import Money
from bolsa.store.accounts import accounts
from bolsa.store.bringing import merging
from bolsa.store.ledger import entries
from bolsa.store.sorting import transfers
from bolsa.store.sorting.categories import EXCHANGE, UNSORTED

Shape = list[list[object]]


def is_told_beside(db: sqlite3.Connection, entry: StoredEntry, line_id: int) -> bool:
    """Whether another bank told of another side of the line's entry, or it is reconciled there."""
    told = merging.list_told_lines(db, entry.id)
    return any(line.id in told for line in entry.account_lines if line.id != line_id)


def disagreement(account: str, before_minor: int, now_minor: int | None, currency: str) -> str:
    """Why a transfer was undone: what the bank of an account says now of its side."""
    before = Money(before_minor, currency)
    if now_minor is None:
        return f"This was one transfer until {account} no longer announced {before}."
    return f"This was one transfer until {account} told {Money(now_minor, currency)} instead of {before}.".replace("-", "−")


def take_apart(db: sqlite3.Connection, entry: StoredEntry, line_id: int, why: str) -> str:
    """Makes an entry of its own of one side, as `split_off`; gives what puts them together again, as JSON."""
    snapshot = entries.snapshot_of(db, entry.id)
    own_id = split_off(db, entry, line_id, why)
    shape = {str(id_): _shape(entries.get_entry(db, id_)) for id_ in (entry.id, own_id)}
    return json.dumps({"snapshot": json.loads(snapshot), "left": shape}, ensure_ascii=False)


def split_off(db: sqlite3.Connection, entry: StoredEntry, line_id: int, why: str) -> int:
    """Makes an entry of its own of one side, within the caller's change; what it leaves waits to be sorted, and both are noted
    why. Each belongs to the batch that told of it. Gives the side's entry."""
    side = next(line for line in entry.lines if line.id == line_id)
    note = " ".join(filter(None, (entry.note, why)))
    day = side.day or entry.day
    unsorted = Line(-side.amount_minor, side.currency, category_id=UNSORTED, day=day)
    own_batch = transfers.find_batch_of_line(db, line_id)
    payee = tidy_payee(side.raw_text) if side.raw_text else entry.payee
    own_id = entries.insert_entry(db, Entry(day, payee, (unsorted,), memo=entry.memo, note=note, batch_id=own_batch))
    entries.move_line(db, line_id, own_id)
    _without_category(db, own_id)
    _balance_rest(db, entry.id, note)
    return own_id


def _without_category(db: sqlite3.Connection, entry_id: int) -> None:
    """Lets account lines stand for themselves: money is set aside by a transfer alone."""
    stored = entries.get_entry(db, entry_id)
    lines = tuple(one._replace(category_id=None) if one.account_id else one for one in stored.lines)
    entries.change_entry(db, replace(stored, lines=lines))


def _balance_rest(db: sqlite3.Connection, entry_id: int, note: str) -> None:
    """Balances what a side was taken from: what it leaves open waits to be sorted."""
    rest = entries.get_entry(db, entry_id)
    lines = tuple(line for line in rest.lines if line.category_id != EXCHANGE)
    if sum(line.account_id is not None for line in lines) == 1:
        lines = tuple(line._replace(category_id=None) if line.account_id else line for line in lines)
    open_by_currency = Counter[str]()
    for line in lines:
        open_by_currency[line.currency] += line.amount_minor
    day = next((line.day for line in lines if line.account_id is not None), None) or rest.day
    back = tuple(
        Line(-amount, currency, category_id=UNSORTED, day=day) for currency, amount in open_by_currency.items() if amount
    )
    own = next((line.stored_id for line in lines if line.account_id is not None), 0)
    alone = [line for line in lines if line.account_id is not None]
    payee = tidy_payee(alone[0].raw_text) if len(alone) == 1 and alone[0].raw_text else rest.payee
    entries.change_entry(db, replace(rest, payee=payee, lines=(*lines, *back), note=note))
    entries.change_batch(db, entry_id, transfers.find_batch_of_line(db, own) if own else None)


def _shape(entry: StoredEntry) -> Shape:
    """What an entry is made of, to see whether anyone changed it since."""
    return sorted([line.stored_id, line.account_id or 0, line.category_id or 0, line.amount_minor] for line in entry.lines)


def put_together(db: sqlite3.Connection, taken_apart: str) -> bool:
    """Makes the transfer again that was taken apart; false if either part was changed since, or is gone, so that both stay."""
    was = json.loads(taken_apart)
    ids = [int(id_) for id_ in was["left"]]
    if entries.list_there(db, ids) != set(ids):
        return False
    for entry in entries.list_entries(db, ids):
        if _shape(entry) != was["left"][str(entry.id)]:
            return False
    for id_ in ids:
        entries.remove_entry(db, id_)
    entries.insert_snapshot(db, was["snapshot"])
    return True


def take_apart_if_told(db: sqlite3.Connection, line_id: int, now_minor: int | None) -> str | None:
    """Takes a side out of its transfer where another bank told of the other side; gives what puts them together again, None where
    there was nothing to take apart."""
    entry = entries.get_entry_of_line(db, line_id)
    if not is_told_beside(db, entry, line_id):
        return None
    side = next(line for line in entry.lines if line.id == line_id)
    account = accounts.get_account(db, known(side.account_id))
    return take_apart(db, entry, line_id, disagreement(account.name, side.amount_minor, now_minor, side.currency))
