"""Correcting one line of an entry: its amount, or that it is there at all. Another bank's side of a transfer stays as it was
told."""

import sqlite3
from dataclasses import replace

from bolsa.core.units import Money
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import sides
from bolsa.services.ledger.entries import delete_entry, refuse_made_elsewhere, require_unlocked
from bolsa.store.ledger import entries


def delete_side(db: sqlite3.Connection, by: By, line_id: int) -> Done:
    """Moves the entry of a line to the trash; of a transfer of which another bank told the other side, that side stays and
    waits to be sorted. Raises: NotAllowed if the line is reconciled."""
    with change(db, by) as done:
        entry = entries.get_entry_of_line(db, line_id)
        refuse_made_elsewhere(db, entry)
        if all(line.state != "reconciled" for line in entry.lines if line.id == line_id):
            sides.take_apart_if_told(db, line_id, None)
        done.sentence = delete_entry(db, by, entries.get_entry_of_line(db, line_id).id).sentence
    return done


def correct_amount(db: sqlite3.Connection, by: By, line_id: int, amount_minor: int) -> Done:
    """Sets an account line's amount, and what stands against it; the side of a transfer of which another bank told the other
    leaves it.

    Raises: InvalidInput for a split or a transfer between currencies, NotAllowed if a line of it is reconciled.
    """
    with change(db, by) as done:
        entry = entries.get_entry_of_line(db, line_id)
        refuse_made_elsewhere(db, entry)
        line = next(line for line in entry.lines if line.id == line_id)
        if line.amount_minor != amount_minor and line.state != "reconciled":
            sides.take_apart_if_told(db, line_id, amount_minor)
            entry = entries.get_entry_of_line(db, line_id)
            line = next(line for line in entry.lines if line.id == line_id)
        others = [other for other in entry.lines if other.id != line_id]
        if len(others) != 1 or others[0].currency != line.currency or line.category_id is not None:
            raise InvalidInput("A split, or a transfer between currencies, is corrected in its form.", field="amount")
        lines = (line._replace(amount_minor=amount_minor), others[0]._replace(amount_minor=-amount_minor))
        after = replace(entry, lines=lines)
        require_unlocked(db, entry, after)
        done.sentence = f"Corrected {entry.payee} to {Money(amount_minor, line.currency)}"
        entries.change_entry(db, after)
    return done
