"""A register's pages, and changing many of its entries at once."""

import sqlite3
from datetime import date

from bolsa.errors import InvalidInput
from bolsa.services import entries as entry_service
from bolsa.services.changes import change
from bolsa.services.clock import By
from bolsa.store import entries, register
from bolsa.store.register import ORDERS, RegisterPage
from bolsa.store.where import RegisterFilter

__all__ = ["ORDERS", "change_many", "list_page"]


def list_page(
    db: sqlite3.Connection,
    account_id: int,
    *,
    text: str = "",
    state: str = "",
    last_day: date | None = None,
    order: str = "day",
    newest_first: bool = True,
    after: str | None = None,
) -> RegisterPage:
    """One page of an account's register."""
    wanted = RegisterFilter(text, state, None, last_day)
    return register.list_register(db, account_id, wanted, order=order, newest_first=newest_first, after=after)


def change_many(
    db: sqlite3.Connection, by: By, account_id: int, entry_ids: list[int], what: str, category_id: int | None
) -> tuple[str, int]:
    """Does one thing to several entries as one step: "file" under a category, mark "pending" or "cleared", or "delete".

    Gives a sentence and the step's id. Raises: InvalidInput, NotAllowed; nothing is changed then.
    """
    if not entry_ids:
        raise InvalidInput("Choose at least one entry.")
    count = f"{len(entry_ids)} {'entry' if len(entry_ids) == 1 else 'entries'}"
    if what == "file" and category_id is None:
        raise InvalidInput("Choose the category to file under.")
    if what not in ("file", "pending", "cleared", "delete"):
        raise InvalidInput("Choose what to do with the entries.")
    verb = {"file": "Filed", "delete": "Deleted"}.get(what, f"Marked as {what}:")
    sentence = f"{verb} {count}"
    with change(db, by, sentence) as step_id:
        for entry_id in entry_ids:
            if what == "file":
                entry_service.set_category(db, by, entry_id, category_id)
            elif what == "delete":
                entry_service.delete_entry(db, by, entry_id)
            else:
                for line in entries.get_entry(db, entry_id).account_lines:
                    if line.account_id == account_id:
                        entry_service.set_state(db, by, line.id, what)
    return sentence, step_id
