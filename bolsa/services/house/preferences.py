"""How the household reads: its language of numbers and dates, and how close rows stand."""

import sqlite3
from dataclasses import replace

from bolsa.core.reader import READERS, USUAL, Reader
from bolsa.errors import InvalidInput
from bolsa.services.changes import note
from bolsa.store.house import household


def reader_of(db: sqlite3.Connection) -> Reader:
    """The household's reader; the usual one until another is chosen."""
    reader = READERS.get(household.find_setting(db, "reader") or "", USUAL)
    return replace(reader, is_dense=household.find_setting(db, "density") == "dense")


def choose_reader(db: sqlite3.Connection, locale: str, *, is_dense: bool) -> None:
    """Says how numbers and days are read and written from now on. Raises: InvalidInput for a way there is not."""
    if locale not in READERS:
        raise InvalidInput("Choose one of the ways of writing.", field="locale")
    with note(db):
        household.put_setting(db, "reader", locale)
        household.put_setting(db, "density", "dense" if is_dense else "roomy")
