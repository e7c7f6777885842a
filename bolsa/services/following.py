"""What areas have to say of every change: what must follow a step before it ends, and how steps of their own kind are undone.

It knows no area: each one enters itself when it is imported (services/__init__.py imports them all).
"""

import sqlite3
from collections.abc import Callable
from typing import Any

AFTER_STEP: list[Callable[[sqlite3.Connection, int], None]] = []
UNDO: dict[str, Callable[..., Any]] = {}


def after_step(function: Callable[[sqlite3.Connection, int], None]) -> Callable[[sqlite3.Connection, int], None]:
    """Enters what must follow every step, given the step's id, within its transaction."""
    AFTER_STEP.append(function)
    return function


def undoes(kind: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Enters how steps of a kind are undone, given the database, who, and what the step names."""

    def enter(function: Callable[..., Any]) -> Callable[..., Any]:
        UNDO[kind] = function
        return function

    return enter
