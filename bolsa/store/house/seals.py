"""A backup's seal: the SHA-256 of its bytes, kept in one of its settings, so that a byte that turned over is found."""

import hashlib
import mmap
import os
import secrets
import sqlite3
from contextlib import closing
from pathlib import Path

from bolsa.store.connection import open_read_only
from bolsa.store.house.household import PUT_SETTING
from bolsa.store.house.whole import SEAL

_BLANK = b"0" * 64  # what stands in the digest's place while it is taken
_FIND_SEAL = "SELECT value FROM setting WHERE name = :name"


def seal(path: Path) -> None:
    """Seals a file that nobody has open."""
    mark = secrets.token_hex(16)  # by which the digest's place is found among the file's bytes
    with closing(sqlite3.connect(path)) as db, db:
        db.execute(PUT_SETTING, {"name": SEAL, "value": f"{mark} {_BLANK.decode()}"})
    with path.open("r+b") as file, mmap.mmap(file.fileno(), 0) as content:
        at = _place_of(content, mark)
        content[at : at + len(_BLANK)] = _digest(content, at).encode()
        content.flush()
        os.fsync(file.fileno())


def find_seal(path: Path) -> str | None:
    """A file's seal: its mark and its digest; None if it has none. Raises: sqlite3.DatabaseError if it cannot be read."""
    with closing(open_read_only(path)) as db:
        try:
            row = db.execute(_FIND_SEAL, {"name": SEAL}).fetchone()
        except sqlite3.OperationalError:  # it has no settings: what it is, is said elsewhere
            return None
    return str(row[0]) if row else None


def is_whole(path: Path) -> bool:
    """Whether a file is as it was when it was sealed; one without a seal is. Raises: sqlite3.DatabaseError if it is none."""
    kept = find_seal(path)
    if kept is None:
        return True
    mark, _, said = kept.partition(" ")
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as content:
        at = _place_of(content, mark)
        return at > 0 and _digest(content, at) == said


def break_seal(db: sqlite3.Connection) -> None:
    """Takes the seal off a file that is used from now on as a household."""
    if db.execute(_FIND_SEAL, {"name": SEAL}).fetchone():
        db.execute("DELETE FROM setting WHERE name = :name", {"name": SEAL})


def _place_of(content: mmap.mmap, mark: str) -> int:
    """Where the digest stands; 0 if its mark is not there, or twice."""
    sought = f"{mark} ".encode()
    first = content.find(sought)
    return first + len(sought) if first >= 0 and content.find(sought, first + 1) < 0 else 0


def _digest(content: mmap.mmap, at: int) -> str:
    digest = hashlib.sha256()
    with memoryview(content) as view:
        digest.update(view[:at])
        digest.update(_BLANK)
        digest.update(view[at + len(_BLANK) :])
    return digest.hexdigest()
