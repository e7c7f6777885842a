"""Bringing a file to the newest schema: numbered .sql steps, each run once, each whole or not at all."""

import re
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from bolsa.errors import UnreadableFile
from bolsa.store import journal
from bolsa.store.connection import atomic, without_references

FOLDER = Path(__file__).parent / "migrations"
APPLICATION_ID = 0x426F6C73  # "Bols", marks the file as ours (PRAGMA application_id)


def list_steps(folder: Path = FOLDER) -> list[tuple[int, Path]]:
    """The steps in order, as (number, file)."""
    found = [(int(path.name[:4]), path) for path in folder.glob("[0-9][0-9][0-9][0-9]_*.sql")]
    return sorted(found)


def statements(script: str) -> Iterator[str]:
    """The statements of a script, cut where SQLite says that one is complete (triggers stay whole)."""
    pending = ""
    for piece in re.split(r"(?<=;)", script):
        pending += piece
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""
    if re.sub(r"--[^\n]*", "", pending).strip():
        raise ValueError(f"unfinished statement: {pending.strip()[:80]}")


def migrate(db: sqlite3.Connection, folder: Path = FOLDER, until: int | None = None) -> int:
    """Runs the steps the file has not had (up to one, if it is given), and returns its version now.

    Raises: UnreadableFile if the file belongs to another program, or to a newer Bolsa.
    """
    steps = [step for step in list_steps(folder) if until is None or step[0] <= until]
    version, owner = (db.execute(f"PRAGMA {name}").fetchone()[0] for name in ("user_version", "application_id"))
    if owner not in (0, APPLICATION_ID) or (owner == 0 and _has_tables(db)):
        raise UnreadableFile("The file is an SQLite database, but not a Bolsa household.")
    if version > steps[-1][0]:
        raise UnreadableFile("The household was last opened by a newer Bolsa. Please use that one.")
    for number, path in steps:
        if number <= version:
            continue
        # A table that is rebuilt is dropped for a moment; its children must not be deleted with it (sqlite.org/lang_altertable,
        # section 7).
        with without_references(db), atomic(db):
            for statement in statements(path.read_text(encoding="utf-8")):
                db.execute(statement)
            db.execute(f"PRAGMA user_version = {number}")
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            if number == steps[-1][0]:
                journal.rebuild_triggers(db)
            if broken := db.execute("PRAGMA foreign_key_check").fetchone():
                raise sqlite3.IntegrityError(f"step {number} leaves a row of {broken['table']} without its {broken['parent']}")
    return steps[-1][0]


def _has_tables(db: sqlite3.Connection) -> bool:
    return bool(db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0])
