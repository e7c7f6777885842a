"""Noting values: by hand, pasted, carried at month end, by a curve or an index; holes found and filled."""

import json
import sqlite3
from dataclasses import dataclass
from datetime import date

from bolsa.core.accounts.account import Account, AccountState
from bolsa.core.accounts.noted import ValueNote
from bolsa.core.accounts.terms import Terms
from bolsa.core.accounts.valuation import Gap, IndexPoints, Noted, fill_gap, find_gaps, list_carried
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput, ServiceUnavailable
from bolsa.formats.value_list import read_value_list
from bolsa.services.accounts.market import read_index
from bolsa.services.changes import Done, change, note, require_untouched
from bolsa.services.clock import By
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts, terms, values
from bolsa.store.connection import reading
from bolsa.store.house import household


@dataclass(frozen=True)
class ValueStep:
    """A noted value and what led to it since the one before: what was paid in or out, and the gain or loss."""

    note: ValueNote
    paid_minor: int
    gain_minor: int


@dataclass(frozen=True)
class ValuesPage:
    """An account's values, latest first, the holes between them, and its curve."""

    state: AccountState
    steps: tuple[ValueStep, ...]
    gaps: tuple[Gap, ...]
    terms: Terms


def values_page(db: sqlite3.Connection, by: By, account_id: int) -> ValuesPage:
    """What the page of an account's values shows."""
    with reading(db):
        state = accounts.get_account_state(db, account_id)
        notes = values.list_values(db, account_id)
        steps, before = [], 0
        for note in notes:
            gain = note.amount_minor - accounts.sum_balance_without(db, account_id, note.day, note.entry_id)
            steps.append(ValueStep(note, note.amount_minor - before - gain, gain))
            before = note.amount_minor
        gaps = find_gaps([note.as_noted() for note in notes], by.today)
        return ValuesPage(state, tuple(reversed(steps)), tuple(gaps), terms.get_terms(db, account_id))


def list_last_values(db: sqlite3.Connection) -> dict[int, ValueNote]:
    """The latest noted value of each account that has any."""
    return values.list_last_values(db)


def note_value(db: sqlite3.Connection, by: By, account_id: int, day: date, amount_minor: int, *, seen: int | None = None) -> Done:
    """Notes what an account was worth at the end of a day, and books the gain or loss up to it.

    Raises: Conflict if someone noted or forgot a value of that day after the version seen.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        typed = str(Money(amount_minor, account.currency))
        require_untouched(db, "value_note", {"account_id": account_id, "day": day.isoformat()}, seen, typed)
        _require_noted(account)
        if day > by.today:
            raise InvalidInput("A value cannot be noted for a day to come.", field="day")
        _require_unlocked(db, account, [day])
        done.sentence = f"Noted the value of {account.name} on {day.isoformat()}"
        values.put_value(db, account_id, Noted(day, amount_minor))
    return done


def _require_noted(account: Account) -> None:
    """Nothing, unless the account's worth is known otherwise. Raises: InvalidInput saying how."""
    if account.everyday:
        raise InvalidInput(f"{account.name} is an everyday account: check it against a statement instead.")
    if account.closed_on is not None:
        raise InvalidInput(f"{account.name} is closed since {account.closed_on}. Open it again first.")
    if account.counts_shares:
        raise InvalidInput(f"{account.name} is counted by its shares. Count it by noted values first, under Holdings.")


def _require_unlocked(db: sqlite3.Connection, account: Account, days: list[date]) -> None:
    """Nothing, unless what the value of one of the days booked is reconciled. Raises: InvalidInput."""
    locked = next((day for day in values.list_locked(db, account.id) if day in days), None)
    if locked:
        raise InvalidInput(
            f"What {account.name} was worth on {locked} is part of a statement. Reopen it under Check first.", field="day"
        )


def forget_value(db: sqlite3.Connection, by: By, account_id: int, day: date) -> Done:
    """Forgets a noted value and what it booked."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        note = next((n for n in values.list_values(db, account_id) if n.day == day), None)
        if note is None:
            raise InvalidInput("There is no value on that day.", field="day")
        _require_unlocked(db, account, [day])
        done.sentence = f"Forgot the value of {account.name} on {day.isoformat()}"
        values.remove_value(db, account_id, day)
        if note.entry_id:
            values.remove_booking(db, note.entry_id)
    return done


def paste_values(db: sqlite3.Connection, by: By, account_id: int, text: str, decimal_mark: str = ".") -> Done:
    """Notes pasted values, a day and an amount a line; makes how many. Where the list doesn't show how it writes amounts,
    `decimal_mark` says it.

    Raises: InvalidInput naming the line that cannot be read; none is noted then.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        _require_noted(account)
        found = read_value_list(text, account.currency, decimal_mark)
        late = next((day for day, _ in found if day > by.today), None)
        if late:
            raise InvalidInput(f"{late.isoformat()} is a day to come.", field="pasted")
        _require_unlocked(db, account, [day for day, _ in found])
        done.sentence = f"Noted {counted(len(found), 'value')} of {account.name}"
        for day, amount in found:
            values.put_value(db, account_id, Noted(day, amount, "brought"))
        done.made = len(found)
    return done


def fill_holes(db: sqlite3.Connection, by: By, account_id: int, way: str, first_day: date | None = None) -> Done:
    """Fills the hole after a noted value, or every hole, "between" by a straight line or "carried"; an open one is carried.

    Gives how many month ends that were and the step's id. Raises: InvalidInput if there is no such hole.
    """
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        _require_noted(account)
        notes = [note.as_noted() for note in values.list_values(db, account_id)]
        gaps = [gap for gap in find_gaps(notes, by.today) if first_day in (None, gap.before.day)]
        if not gaps or way not in ("between", "carried"):
            raise InvalidInput("There is no such hole any more.")
        filled = [noted for gap in gaps for noted in fill_gap(gap, way, by.today)]
        done.sentence = f"Filled {'a hole' if len(gaps) == 1 else 'holes'} in the values of {account.name}"
        for noted in filled:
            values.put_value(db, account_id, noted)
        done.made = len(filled)
    return done


@dataclass(frozen=True)
class ToCarry:
    """Values that can be carried to the month ends since: the account's name and the values."""

    account_id: int
    name: str
    values: tuple[Noted, ...]


@dataclass(frozen=True)
class Carried:
    """How many values were carried, and by account's name why it waits for its index."""

    count: int
    waiting: dict[str, str]


def list_to_carry(db: sqlite3.Connection, by: By, *, has_index: bool = False) -> list[ToCarry]:
    """What waits to be carried, for showing: no service is asked, so a value that follows an index is the last one here.

    `has_index` says whether there is a service of indexes; without it those accounts wait.
    """
    follows_index = _list_due(db, by)
    return [
        ToCarry(account.id, account.name, tuple(list_carried(own, start, by.today))[-due:])
        for account, own, start, due in follows_index
        if has_index or own.curve != "index"
    ]


def list_waiting_for_index(db: sqlite3.Connection, by: By, *, has_index: bool) -> dict[int, str]:
    """By account whose value waits for its index: why, as far as it is known. Nobody is asked."""
    told = _list_told(db)
    due = {account.id for account, own, *_ in _list_due(db, by) if own.curve == "index"}
    if not has_index:
        return dict.fromkeys(due, "waits for its index: no market service is set.")
    return {id_: told[id_] for id_ in due if id_ in told}


def _list_due(db: sqlite3.Connection, by: By) -> list[tuple[Account, Terms, Noted, int]]:
    """The accounts with a curve whose last value is older than the last month end, where the curve begins, and how many
    month ends are due."""
    found = []
    last_values, all_terms = values.list_last_values(db), terms.list_terms(db)
    for account in accounts.list_accounts(db):
        note, own = last_values.get(account.id), all_terms.get(account.id)
        if note is None or own is None or not own.curve or account.closed_on or account.everyday or account.counts_shares:
            continue
        start = _start_of_curve(db, account.id) or note.as_noted()
        due = sum(noted.day > note.day for noted in list_carried(own, start, by.today))
        if due:
            found.append((account, own, start, due))
    return found


def _start_of_curve(db: sqlite3.Connection, account_id: int) -> Noted | None:
    """The latest value that was not itself carried."""
    hand = [n.as_noted() for n in values.list_values(db, account_id) if n.source in ("hand", "brought")]
    return hand[-1] if hand else None


def carry_values(db: sqlite3.Connection, by: By, index_url: str | None = None, report: Report = silent) -> Done:
    """Carries every value that is due to its month ends; makes a `Carried`.

    A value that follows an index is carried only when the service answers: it waits, and Books says so, until it does.
    Without an address (None) nobody is asked, and what was said before stays.
    """
    due = _list_due(db, by)
    ready: list[tuple[int, list[Noted]]] = []
    why: dict[int, str] = {}
    for i, (account, own, start, count) in enumerate(due):
        index: IndexPoints = ()
        if own.curve == "index":
            if index_url is None:
                continue
            report(i, len(due), f"Asking the market service for {own.curve_index}")
            try:
                index = read_index(index_url, own.curve_index or "")
            except ServiceUnavailable as error:
                why[account.id] = error.sentence
                continue
        ready.append((account.id, list_carried(own, start, by.today, index)[-count:]))
    count = sum(len(found) for _, found in ready)
    if index_url is not None:
        _tell_waiting(db, by, why)
    with change(db, by) as done:
        done.sentence = f"Carried {count} values to month ends"
        for account_id, found in ready:
            for noted in found:
                values.put_value(db, account_id, noted)
        done.made = Carried(count, {account.name: why[account.id] for account, *_ in due if account.id in why})
    return done


_TOLD = "waiting for an index"  # the setting that keeps what the service said last: {account id: [day, sentence]}


def _tell_waiting(db: sqlite3.Connection, by: By, why: dict[int, str]) -> None:
    with note(db):
        household.put_setting(db, _TOLD, json.dumps({id_: [by.today.isoformat(), sentence] for id_, sentence in why.items()}))


def _list_told(db: sqlite3.Connection) -> dict[int, str]:
    told = json.loads(household.find_setting(db, _TOLD) or "{}")
    return {int(id_): f"waits for its index: asked on {day}. {sentence}" for id_, (day, sentence) in told.items()}
