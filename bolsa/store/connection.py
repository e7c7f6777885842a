"""Opening the one file, and the one way to change it: `with atomic(db):`."""

import json
import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from bolsa.errors import UnreadableFile
from bolsa.store import mishaps, private

PATIENCE_MS = 10_000  # how long a change waits for another program's to end


def new_id(done: sqlite3.Cursor) -> int:
    """The id of the row an INSERT made."""
    if done.lastrowid is None:
        raise ValueError("nothing was inserted")
    return done.lastrowid


class Household(sqlite3.Connection):
    """A connection that remembers of its open transaction whether it changes anything, whether a change inside it failed (then
    the whole fails), and which step of the journal is being recorded; or that none may begin now."""

    is_changing = False
    is_doomed = False
    records_nothing = False
    running_step: int | None = None


def as_household(db: sqlite3.Connection) -> Household:
    """The connection, which was opened here. Raises: TypeError for any other: it would forget its step."""
    if not isinstance(db, Household):
        raise TypeError("this connection was not opened by store/connection.py")
    return db


def is_at_rest(db: sqlite3.Connection) -> bool:
    """Whether a connection has nothing open and remembers nothing of a change: it may serve another request."""
    household = as_household(db)
    remembers = household.is_doomed or household.records_nothing or household.running_step is not None
    return not (db.in_transaction or remembers)


def open_database(path: Path, patience_ms: int | None = None) -> Household:
    """A connection to the household's file, made if it is not there, with foreign keys, WAL and rows by name.

    The schema is not touched: see migrate.py. Raises: UnreadableFile, FileUnusable.
    """
    private.create(path)
    db = sqlite3.connect(path, isolation_level=None, check_same_thread=False, factory=Household)
    db.row_factory = sqlite3.Row
    try:
        db.execute(f"PRAGMA busy_timeout = {PATIENCE_MS if patience_ms is None else patience_ms}")
        db.execute("PRAGMA foreign_keys = ON")
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = FULL")
        db.execute("PRAGMA temp_store = MEMORY")
        db.execute("PRAGMA cache_size = -65536")
    except sqlite3.DatabaseError as error:
        db.close()
        raise mishaps.in_words(error, path) or error from error
    return db


def open_read_only(path: Path) -> sqlite3.Connection:
    """A connection that writes nothing, not even beside the file, and believes nothing that its schema says of functions and
    sizes. Raises: UnreadableFile if it is not there."""
    try:
        db = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None)
    except sqlite3.OperationalError as error:
        raise UnreadableFile(f"{path} cannot be opened.") from error
    db.row_factory = sqlite3.Row
    db.execute("PRAGMA trusted_schema = OFF")
    db.execute("PRAGMA cell_size_check = ON")
    return db


@contextmanager
def atomic(connection: sqlite3.Connection) -> Iterator[None]:
    """All changes inside, or none: a transaction of its own, or part of the one that is open already.

    It takes the write lock at once (BEGIN IMMEDIATE), so that what is read inside stays true until the end. Inside another
    one it is no savepoint: under a savepoint SQLite keeps a copy of every page a statement touches until the end, which makes a
    large import slow and its memory unbounded. So a block inside that failed dooms the outer one, even if its error is caught.
    """
    db = as_household(connection)
    if db.in_transaction:
        try:
            yield
        except BaseException:
            db.is_doomed = True
            raise
        return
    db.is_doomed = False
    try:
        db.execute("BEGIN IMMEDIATE")
    except sqlite3.OperationalError as error:
        raise mishaps.in_words(error) or error from error
    db.is_changing = True
    try:
        yield
        if db.is_doomed:
            raise RuntimeError("a change inside this one failed, and was passed over: nothing of it is kept")
        db.execute("COMMIT")  # it fails, and leaves the transaction open, while a deferred reference leads nowhere
    except BaseException:
        db.running_step = None
        # SQLite itself rolls back on some errors (disk full); then there is nothing left to undo.
        if db.in_transaction:
            db.execute("ROLLBACK")
        raise
    finally:
        db.is_changing = False


@contextmanager
def trying(db: sqlite3.Connection) -> Iterator[None]:
    """A small part of a transaction that may fail and leave nothing: its error is caught outside, and the rest goes on."""
    db.execute("SAVEPOINT trying")
    try:
        yield
    except BaseException:
        db.execute("ROLLBACK TO trying")
        raise
    finally:
        db.execute("RELEASE trying")


@contextmanager
def reading(db: sqlite3.Connection) -> Iterator[None]:
    """One consistent view for several reads, however others write meanwhile."""
    if db.in_transaction:
        yield
        return
    before = db.total_changes
    db.execute("BEGIN")
    try:
        yield
    finally:
        # Where nothing was written there is nothing to keep; a damaged file refuses a COMMIT even then.
        db.execute("COMMIT" if db.total_changes > before else "ROLLBACK")


@contextmanager
def without_references(db: sqlite3.Connection) -> Iterator[None]:
    """While tables are filled or rebuilt one after the other, rows may refer to what is not there; who uses it asks at the end
    (PRAGMA foreign_key_check). It is of no effect inside a transaction."""
    db.execute("PRAGMA foreign_keys = OFF")
    try:
        yield
    finally:
        db.execute("PRAGMA foreign_keys = ON")


@contextmanager
def without_triggers(db: sqlite3.Connection, names: Iterable[str]) -> Iterator[None]:
    """Takes triggers away while many rows are written, and puts them back: running for each row, they take longer than the rows.

    It is part of a transaction, so nobody else ever sees the file without them, and an error inside takes all of it back.
    """
    if not db.in_transaction:
        raise RuntimeError("triggers are set aside inside a transaction only")
    sql = "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name IN (SELECT value FROM json_each(:names))"
    aside = db.execute(sql, {"names": json.dumps(list(names))}).fetchall()
    for trigger in aside:
        db.execute(f"DROP TRIGGER {trigger['name']}")
    yield
    for trigger in aside:
        db.execute(trigger["sql"])
