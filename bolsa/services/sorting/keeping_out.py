"""Entries that no answer counts."""

import sqlite3
from collections.abc import Sequence

from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.ledger import entries
from bolsa.store.sorting import filing


def keep_out(db: sqlite3.Connection, by: By, entry_ids: Sequence[int], *, out: bool) -> Done:
    """Keeps entries out of all answers, or lets them count again; balances and the budget count them always."""
    with change(db, by) as done:
        found = entries.list_entries(db, entry_ids)
        what = found[0].payee if len(found) == 1 else f"{len(found)} entries"
        done.sentence = f"Kept {what} out of the answers" if out else f"Let the answers count {what} again"
        ids = [entry.id for entry in found]
        (filing.keep_out if out else filing.take_back_in)(db, ids)
    return done
