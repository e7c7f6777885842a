"""Taking a batch out again: its entries, except those changed or reconciled since, and what it merged."""

import sqlite3

from bolsa.errors import Conflict
from bolsa.services.accounts.ending import delete_left_empty
from bolsa.services.bringing.written_rows import take_back
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings.bringing import take_out_batch
from bolsa.services.ledger import sides
from bolsa.store import journal
from bolsa.store.bringing import batches, brought, merging
from bolsa.store.ledger import entries


def undo_batch(db: sqlite3.Connection, by: By, batch_id: int) -> Done:
    """Takes a batch out again; what someone touched since stays, and is named. Raises: Conflict if it is out already."""
    with change(db, by, batch_id=batch_id) as done:
        batch = batches.get_batch(db, batch_id)
        if batch.state != "brought":
            raise Conflict("That was taken out already.")
        done.sentence = f"Took out again what “{batch.name}” brought"
        # What another bank told of a transfer stays.
        joined = merging.list_joined_with_others(db, batch_id)
        alone = [sides.split_off(db, entries.get_entry(db, entry_id), line_id, "") for entry_id, line_id in joined]
        made = [one for one in merging.list_entries_of_batch(db, batch_id) if one[0] not in alone]
        untouched = alone + [entry_id for entry_id, touched in made if not touched]
        merging.remove_entries(db, untouched)
        for row in brought.list_rows(db, batch_id):
            if row.line_before:
                take_back(db, row)
        merging.remove_entries(db, merging.list_left_behind(db, batch_id))
        batches.remove_bank_balances(db, batch_id)
        moves = take_out_batch(db, batch_id)
        batches.change_batch_state(db, batch_id, "undone")
        journal.mark_batch_undone(db, batch_id, done.step)
        stayed = [entry_id for entry_id, touched in made if touched]
        done.made = _in_words(db, batch.name, len(untouched), moves, stayed)
        gone = delete_left_empty(db, batch_id)
        done.made += f" So {'is' if len(gone) == 1 else 'are'} {' and '.join(gone)}, which it had made." if gone else ""
    return done


def _in_words(db: sqlite3.Connection, name: str, out_count: int, moves: int, stayed: list[int]) -> str:
    """What went and what stayed, in a sentence."""
    named = [f"{e.payee} of {e.day}" for e in entries.list_entries(db, stayed[:3])]
    more = f" and {len(stayed) - 3} more" if len(stayed) > 3 else ""
    words = f" {len(stayed)} changed since stayed here: {', '.join(named)}{more}." if stayed else ""
    out = "1 entry" if out_count == 1 else f"{out_count} entries"
    if moves:
        out += f" and {moves} {'trade' if moves == 1 else 'trades'}"
    return f"{out} of “{name}” {'is' if out_count + moves == 1 else 'are'} out again.{words}"
