"""Connections that are kept from one request to the next: opening one reads the whole schema, which takes longer than many pages.

A connection serves one request at a time. What a request leaves half done, or the file having been put in another's place
meanwhile, ends it.
"""

import os
import sqlite3
import threading
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from bolsa.services.house import files
from bolsa.store.connection import is_at_rest

MOST_IDLE = 8
PATIENCE_MS = 1_000  # how long a page waits for another program to let go of the file


@dataclass(frozen=True)
class _Kept:
    """A connection, the file it was opened on (device and inode), and how many rows it had changed when it was given out."""

    db: sqlite3.Connection
    file: tuple[int, int]
    changes: int = 0


class OpenFiles:
    """The connections to one household's file that no request uses now."""

    def __init__(self, path: Path):
        self.path = path
        self._idle: list[_Kept] = []
        self._used: dict[int, _Kept] = {}
        self._lock = threading.Lock()

    def take(self) -> sqlite3.Connection:
        """A connection at the newest schema, for one request. Raises: UnreadableFile."""
        file = self._file()
        kept = None
        with self._lock:
            while self._idle and kept is None:
                candidate = self._idle.pop()
                if candidate.file == file:
                    kept = candidate
                else:
                    candidate.db.close()
        if kept is None:
            db = files.make_file(self.path, PATIENCE_MS)
        else:
            db = kept.db
            files.bring_up_to_date(db, self.path)  # another Bolsa may have opened it meanwhile
        with self._lock:
            self._used[id(db)] = _Kept(db, self._file() or (0, 0), db.total_changes)
        return db

    def give_back(self, db: sqlite3.Connection) -> None:
        """Takes a connection back after its request; what it wrote is folded into the file, so that the file alone is whole."""
        with self._lock:
            kept = self._used.pop(id(db))
        if db.total_changes != kept.changes:
            with suppress(sqlite3.OperationalError):  # someone reads or writes: the next one folds it in
                db.execute("PRAGMA wal_checkpoint(PASSIVE)")
        with self._lock:
            if is_at_rest(db) and len(self._idle) < MOST_IDLE:
                self._idle.append(kept)
                return
        db.close()

    def close(self) -> None:
        """Ends the connections that no request uses."""
        with self._lock:
            idle, self._idle = self._idle, []
        for kept in idle:
            kept.db.close()

    def _file(self) -> tuple[int, int] | None:
        try:
            found = os.stat(self.path)
        except OSError:
            return None
        return found.st_dev, found.st_ino
