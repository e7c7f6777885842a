"""Matching after the fact: making one entry of a typed one and the bank's, and parting what was matched wrongly."""

import sqlite3
from dataclasses import replace

from bolsa.core.ledger.entries import Line, StoredEntry
from bolsa.errors import InvalidInput
from bolsa.services.bringing.written_rows import entry_of_row, take_back
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought, merging
from bolsa.store.ledger import attachments, entries
from bolsa.store.sorting import questions


def match_two(db: sqlite3.Connection, by: By, account_id: int, entry_ids: list[int]) -> Done:
    """Makes one entry of two on an account: the typed one stays, with the bank's words and what was hung on the other.

    Raises: InvalidInput unless exactly one of the two came from the bank, as no side of a transfer, and both have one amount.
    """
    with change(db, by) as done:
        if len(set(entry_ids)) != 2:
            raise InvalidInput("Choose two entries to match: the typed one and the bank’s.")
        sides = [(entry, _line_on(entry, account_id)) for entry in (entries.get_entry(db, id_) for id_ in entry_ids)]
        sides.sort(key=lambda side: brought.find_row_of_line(db, side[1].stored_id) is not None)
        (typed, here), (sent, there) = sides
        row = brought.find_row_of_line(db, there.stored_id)
        if row is None or brought.find_row_of_line(db, here.stored_id) is not None:
            raise InvalidInput("One of the two must be typed and the other come from the bank.")
        if here.amount_minor != there.amount_minor:
            raise InvalidInput("Their amounts differ. Correct the typed one first, or leave them as two.")
        if "reconciled" in (here.state, there.state):
            raise InvalidInput("One of the two is reconciled; reopen its statement under Check first.")
        if len(sent.account_lines) > 1:
            raise InvalidInput("The bank’s entry is one side of a transfer. Undo that transfer first, or delete the typed entry.")
        entry_service.refuse_made_elsewhere(db, sent)
        done.sentence = f"Matched {typed.payee} with what the bank sent as {sent.payee}"
        attachments.move_all(db, sent.id, typed.id)
        questions.move_all(db, sent.id, typed.id)
        if sent.note and sent.note not in typed.note:
            entries.change_entry(db, replace(typed, note=" ".join(filter(None, (typed.note, sent.note)))))
        entries.remove_entry(db, sent.id)  # it is what the typed one is now: nothing of it could be put back
        before = merging.merge_into_line(db, row._replace(match_line_id=here.id, verdict="matched"))
        brought.set_lines_of_rows(db, [(here.id, before, row.id)])
    return done


def unmatch(db: sqlite3.Connection, by: By, line_id: int) -> Done:
    """Parts a line from the bank's row it was matched with: the row becomes an entry of its own, the line is as it was typed.

    Raises: InvalidInput if the line was not matched, or is reconciled.
    """
    with change(db, by) as done:
        entry = entries.get_entry_of_line(db, line_id)
        line = next(line for line in entry.lines if line.id == line_id)
        row = brought.find_row_of_line(db, line_id)
        if row is None or not row.line_before:
            raise InvalidInput("This entry was not matched; it came as it is.")
        if line.state == "reconciled":
            raise InvalidInput("This entry is reconciled; reopen its statement under Check first.")
        account = accounts.get_account(db, row.account_id)
        done.sentence = f"Parted {entry.payee} from what the bank sent"
        take_back(db, row)
        made = entry_of_row(row, row.payee, account.currency, None)
        _, line_ids = entries.insert_entries(db, [made])[0]
        brought.set_lines_of_rows(db, [(line_ids[0], None, row.id)])
    return done


def match_reason(db: sqlite3.Connection, line_id: int) -> str | None:
    """Why a line that was here was matched with what the bank sent; None if it was not matched."""
    row = brought.find_row_of_line(db, line_id)
    return row.reason if row is not None and row.line_before is not None else None


def _line_on(entry: StoredEntry, account_id: int) -> Line:
    found = next((line for line in entry.account_lines if line.account_id == account_id), None)
    if found is None:
        raise InvalidInput("Both entries must be on this account.")
    return found
