"""Opening the household's file, making a new one, and reading files that are brought in."""

import glob
import sqlite3
from contextlib import suppress
from pathlib import Path

from bolsa.errors import BolsaError, FileUnusable, NotFound, UnreadableFile
from bolsa.formats.text import MOST_BYTES
from bolsa.services.changes import note
from bolsa.services.holdings.settling import settle_lots
from bolsa.store import mishaps, private
from bolsa.store.connection import open_database
from bolsa.store.house import household, seals
from bolsa.store.migrate import migrate

LEFT_BESIDE = (".before-restore", ".part", "-journal", "-wal")  # what a file that was here leaves


def open_household(path: Path) -> sqlite3.Connection:
    """A connection to a household that is there, at the newest schema. Raises: NotFound, UnreadableFile."""
    if not path.is_file():
        raise NotFound(f"{path} is not there. Make a household with “bolsa init --data {path}”.")
    db = _open(path)
    household.get_household(db)
    return db


def make_file(path: Path, patience_ms: int | None = None) -> sqlite3.Connection:
    """A connection to a file, made with an empty schema if it is not there.

    Raises: UnreadableFile; FileUnusable, also if the file is gone and something of it lies beside its place.
    """
    if not path.exists():
        require_nothing_beside(path)
        private.make_folder(path.parent)
    return _open(path, patience_ms)


def list_left_beside(path: Path) -> list[Path]:
    """What a household's file left beside its place: its logs, partial copies, and what restoring kept."""
    return sorted(one for one in path.parent.glob(f"{glob.escape(path.name)}*") if one.name.endswith(LEFT_BESIDE))


def require_nothing_beside(path: Path) -> None:
    """Nothing, if no household was at a place. A file that was merely moved, or a restore that was cut off, must not end in an
    empty household that looks as if all were lost."""
    left = list_left_beside(path)
    if not left:
        return
    one = left[-1]
    cure = f"Put that in its place with “bolsa restore {one}”" if one.name.endswith(".before-restore") else "Bring the file back"
    raise FileUnusable(f"{path} is not there, but {one.name} is. {cure}, or move that away to begin anew. Nothing was made.")


def _open(path: Path, patience_ms: int | None = None) -> sqlite3.Connection:
    db = open_database(path, patience_ms)
    bring_up_to_date(db, path)
    with suppress(sqlite3.OperationalError):  # busy, or it may only be read: the next one does it
        seals.break_seal(db)
    return db


ROWS_OF_A_BYTE = 8  # what a byte of a file becomes at most, as rows, entries and what stands beside them


def require_room(db: sqlite3.Connection, content_bytes: int) -> None:
    """Nothing, if there is room on the disk for what a file of this size becomes. Raises: BolsaError."""
    path = next(Path(row["file"]) for row in db.execute("PRAGMA database_list") if row["name"] == "main")
    private.require_room(path.parent, content_bytes * ROWS_OF_A_BYTE)


def in_words(error: sqlite3.Error) -> BolsaError | None:
    """What a person is told when the file or the disk fails; None if the error says nothing of them."""
    return mishaps.in_words(error)


def bring_up_to_date(db: sqlite3.Connection, path: Path) -> None:
    """Brings an open file to the newest schema. Raises: UnreadableFile, also if a newer Bolsa made it; it is closed then."""
    try:
        bring_to_newest(db)
    except mishaps.BROKEN as error:
        db.close()
        raise mishaps.in_words(error, path) or UnreadableFile(f"{path} is not a Bolsa household.") from error
    except BolsaError:
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
