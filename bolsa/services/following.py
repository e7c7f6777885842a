"""What areas have to say of every change: what must follow a step before it ends, and how steps of their own kind are undone.

An area enters itself here by name; it is imported when it is first asked, so that a command need not load what it never uses.
"""

import sqlite3
from collections.abc import Callable
from functools import cache
from importlib import import_module
from typing import Any

# Each is given the database and the step's id, within its transaction.
AFTER_STEP = (
    "bolsa.services.accounts.settling:mark_turned",
    "bolsa.services.holdings.settling:settle_trades",
    "bolsa.services.accounts.openings:settle_touched",
    "bolsa.services.accounts.settling:settle_touched",
)
# Each looks at the database before a step and gives what to ask at its end, which raises if something moved that must not.
GUARDS = ("bolsa.services.accounts.closed:watch", "bolsa.services.checking.chain:watch")
# By the kind of step: given the database, who undoes it, and what the step names (a batch's id).
UNDO = {"batch": "bolsa.services.bringing.undoing:undo_batch"}


@cache
def _named(name: str) -> Any:
    module, _, function = name.partition(":")
    return getattr(import_module(module), function)


def watch_step(db: sqlite3.Connection) -> list[Callable[[], None]]:
    """What must be asked at the end of a step that begins now."""
    return [_named(name)(db) for name in GUARDS]


def follow_step(db: sqlite3.Connection, step_id: int) -> None:
    """Lets every area do what must follow a step."""
    for name in AFTER_STEP:
        _named(name)(db, step_id)


def undo_kind(kind: str, *given: object) -> Any:
    """Undoes a step of a kind that has its own way; gives what that gives."""
    return _named(UNDO[kind])(*given)
