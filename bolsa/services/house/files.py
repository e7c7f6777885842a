"""Opening the household's file, making a new one, and reading files that are brought in."""

import sqlite3
from pathlib import Path

from bolsa.errors import BolsaError, NotFound, UnreadableFile
from bolsa.formats.text import MOST_BYTES
from bolsa.services.changes import note
from bolsa.services.holdings.settling import settle_lots
from bolsa.store.connection import open_database
from bolsa.store.house import household
from bolsa.store.migrate import migrate


def open_household(path: Path) -> sqlite3.Connection:
    """A connection to a household that is there, at the newest schema. Raises: NotFound, UnreadableFile."""
    if not path.is_file():
        raise NotFound(f"{path} is not there. Make a household with “bolsa init --data {path}”.")
    db = _open(path)
    household.get_household(db)
    return db


def make_file(path: Path) -> sqlite3.Connection:
    """A connection to a file, made with an empty schema if it is not there."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise BolsaError(f"The folder of {path} cannot be made: {error.strerror}.") from error
    return _open(path)


def _open(path: Path) -> sqlite3.Connection:
    try:
        db = open_database(path)
    except sqlite3.DatabaseError as error:
        raise UnreadableFile(f"{path} is not a Bolsa household.") from error
    bring_up_to_date(db, path)
    return db


def bring_up_to_date(db: sqlite3.Connection, path: Path) -> None:
    """Brings an open file to the newest schema. Raises: UnreadableFile, also if a newer Bolsa made it; it is closed then."""
    try:
        bring_to_newest(db)
    except sqlite3.DatabaseError as error:
        db.close()
        raise UnreadableFile(f"{path} is not a Bolsa household.") from error
    except UnreadableFile:
        db.close()
        raise


def bring_to_newest(db: sqlite3.Connection) -> None:
    """Runs the steps a file has not had, and reckons what follows from its rows and no step can. Raises: UnreadableFile."""
    before = db.execute("PRAGMA user_version").fetchone()[0]
    if before < migrate(db) and before:
        with note(db):
            settle_lots(db)


def list_uploads(paths: list[Path]) -> list[Path]:
    """The files named, and those in folders named, in the order of their names; hidden ones are passed over."""
    found: list[Path] = []
    for path in paths:
        if path.is_dir():
            inside = (one for one in path.rglob("*") if one.is_file())
            found += sorted(one for one in inside if not any(part.startswith(".") for part in one.relative_to(path).parts))
        else:
            found.append(path)
    return found


def read_upload(path: Path) -> bytes:
    """The bytes of a file to bring in. Raises: UnreadableFile if it is not there, no file, or too large."""
    try:
        if not path.is_file():
            raise UnreadableFile("There is no such file.")
        if path.stat().st_size > MOST_BYTES:
            raise UnreadableFile(f"The file is larger than {MOST_BYTES // 1024 // 1024} MB.")
        return path.read_bytes()
    except OSError as error:
        raise UnreadableFile(f"The file cannot be opened: {error.strerror}.") from error
