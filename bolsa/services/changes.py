"""How every change is made: one transaction, one journal step; and how any step is undone."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from bolsa.errors import Conflict
from bolsa.services.accounts.settling import settle, settle_touched
from bolsa.services.bringing.written_rows import take_back
from bolsa.services.clock import By
from bolsa.store import journal
from bolsa.store.bringing import brought, merging
from bolsa.store.connection import atomic
from bolsa.store.holdings import shares
from bolsa.store.journal import Step
from bolsa.store.ledger import attachments, entries
from bolsa.store.ledger.entries import Deleted


@contextmanager
def change(db: sqlite3.Connection, by: By, sentence: str) -> Iterator[int]:
    """A transaction whose changes are journalled under the sentence (past tense); gives the step's id.

    Accounts that are kept at noted values are settled at its end, within the same step.
    """
    is_outermost = not journal.is_recording(db)
    with atomic(db), journal.step(db, sentence, by.at, by.member_id) as step_id:
        yield step_id
        if is_outermost:
            settle_touched(db, step_id)


def list_steps(db: sqlite3.Connection, before_id: int | None = None) -> list[Step]:
    """The journal's newest steps, or those before one."""
    return journal.list_steps(db, before_id=before_id or 2**62)


def list_trash(db: sqlite3.Connection) -> list[Deleted]:
    """What is in the trash, the latest first."""
    return entries.list_trash(db)


def undo_step(db: sqlite3.Connection, by: By, step_id: int) -> str:
    """Takes back what a step changed, as a step of its own; gives a sentence saying so.

    Raises: Conflict if it was undone already, or if something it changed was changed again since.
    """
    step = journal.get_step(db, step_id)
    if step.undone_by:
        raise Conflict("That was undone already.")
    if step.batch_id:
        return undo_batch(db, by, step.batch_id)
    try:
        with change(db, by, f"Undone: {step.sentence}") as undoing_id:
            journal.reverse_changes(db, step_id)
            journal.mark_undone(db, step_id, undoing_id)
    except sqlite3.IntegrityError as error:
        raise Conflict("Later changes build on this one. Undo those first.") from error
    return f"Undone: {step.sentence}"


def undo_batch(db: sqlite3.Connection, by: By, batch_id: int) -> str:
    """Takes a batch out again: its entries, except those changed or reconciled since, and what it merged."""
    batch = brought.get_batch(db, batch_id)
    if batch.state != "brought":
        raise Conflict("That was taken out already.")
    sentence = f"Took out again what “{batch.name}” brought"
    with atomic(db), journal.step(db, sentence, by.at, by.member_id, batch_id=batch_id) as id_:
        made = merging.list_entries_of_batch(db, batch_id)
        untouched = [entry_id for entry_id, touched in made if not touched]
        merging.remove_entries(db, untouched)
        for row in brought.list_rows(db, batch_id):
            if row.line_before:
                take_back(db, row)
        brought.remove_bank_balances(db, batch_id)
        moves = shares.remove_batch(db, batch_id)
        brought.change_batch_state(db, batch_id, "undone")
        for account_id in brought.list_accounts_of_batch(db, batch_id):
            settle(db, account_id)
        journal.mark_batch_undone(db, batch_id, id_)
    stayed = [entry_id for entry_id, touched in made if touched]
    named = [f"{e.payee} of {e.day:%-d %B}" for e in entries.list_entries(db, stayed[:3])]
    more = f" and {len(stayed) - 3} more" if len(stayed) > 3 else ""
    words = f" {len(stayed)} changed since stayed here: {', '.join(named)}{more}." if stayed else ""
    out = "1 entry" if len(untouched) == 1 else f"{len(untouched)} entries"
    if moves:
        out += f" and {moves} {'move' if moves == 1 else 'moves'} of shares"
    return f"{out} of “{batch.name}” {'is' if len(untouched) + moves == 1 else 'are'} out again.{words}"


def restore_entry(db: sqlite3.Connection, by: By, trash_id: int) -> int:
    """Puts an entry back from the trash; gives its id. Raises: Conflict if what it refers to was deleted since."""
    try:
        with change(db, by, "Put an entry back from the trash"):
            return entries.restore_from_trash(db, trash_id)
    except sqlite3.IntegrityError as error:
        raise Conflict("Its account or category was deleted since. Undo that first.") from error


def empty_trash(db: sqlite3.Connection, by: By) -> int:
    """Empties the trash for good; gives how many entries that were. The journal keeps a note, and can undo it."""
    with change(db, by, "Emptied the trash"):
        count = entries.empty_trash(db)
        attachments.remove_unused_files(db)
        return count
