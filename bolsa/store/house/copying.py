"""A household's rows taken over into a file of our own schema: of a backup nothing else is believed."""

import sqlite3

from bolsa.errors import UnreadableFile
from bolsa.store.connection import atomic, without_references, without_triggers
from bolsa.store.house.whole import OWN_SETTINGS, put_sequences
from bolsa.store.ledger.entries import INDEX_WORDS
from bolsa.store.migrate import APPLICATION_ID, list_steps

OWN_TABLES = "SELECT name FROM pragma_table_list WHERE schema = 'main' AND type = 'table' AND name NOT GLOB 'sqlite_*'"
HELD_NOW = ("journal_step_now", "many_lines_now")  # rows of these say what a change does that is under way
PLAIN_COLUMNS = "SELECT name FROM pragma_table_xinfo(:table) WHERE hidden = 0 ORDER BY cid"
MOST_BYTES_A_VALUE = 256 * 1024 * 1024


def schema_of(source: sqlite3.Connection) -> int:
    """By which schema a file was written. Raises: UnreadableFile if it is no household of this Bolsa or an earlier one."""
    version, owner = (source.execute(f"PRAGMA {name}").fetchone()[0] for name in ("user_version", "application_id"))
    if owner != APPLICATION_ID or version < 1:
        raise UnreadableFile("It is an SQLite database, but not a Bolsa household.")
    if version > list_steps()[-1][0]:
        raise UnreadableFile("It was written by a newer Bolsa. Please use that one.")
    return version


def copy_rows(source: sqlite3.Connection, db: sqlite3.Connection) -> None:
    """Fills a fresh file with the rows of one of the same schema; the session key and the seal stay behind.

    Raises: UnreadableFile if a table or a column is missing or is something else, or a row does not fit into its table.
    """
    source.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, MOST_BYTES_A_VALUE)
    ours = [row["name"] for row in db.execute(OWN_TABLES)]
    theirs = {row["name"] for row in source.execute(OWN_TABLES)}
    if missing := sorted(set(ours) - theirs):
        raise UnreadableFile(f"It has no table “{missing[0]}”.")
    triggers = [row["name"] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")]
    # A file of an earlier schema may have no mark to renew: this is no change of a household that anyone looks at.
    with without_references(db), atomic(db), without_triggers(db, triggers):
        for table in set(ours) - set(HELD_NOW):
            _copy_table(source, db, table)
        db.executemany("DELETE FROM setting WHERE name = ?", [(name,) for name in OWN_SETTINGS])
        _copy_sequences(source, db, set(ours))
        if broken := db.execute("PRAGMA foreign_key_check").fetchone():
            raise UnreadableFile(f"A row of {broken['table']} refers to a row of {broken['parent']} that is not there.")


def index_words(db: sqlite3.Connection) -> None:
    """Writes the words by which entries are found, which no backup is asked for."""
    db.execute("DELETE FROM line_text")
    last = db.execute("SELECT coalesce(max(id), 0) FROM line").fetchone()[0]
    db.execute(INDEX_WORDS, {"first": 0, "last": last})


def _copy_table(source: sqlite3.Connection, db: sqlite3.Connection, table: str) -> None:
    columns = [row["name"] for row in db.execute(PLAIN_COLUMNS, {"table": table})]
    there = {row["name"] for row in source.execute(PLAIN_COLUMNS, {"table": table})}
    if lacking := [name for name in columns if name not in there]:
        raise UnreadableFile(f"Its table “{table}” has no column “{lacking[0]}”.")
    names = ", ".join(f'"{name}"' for name in columns)
    rows = source.cursor()
    rows.row_factory = None
    rows.execute(f'SELECT {names} FROM "{table}" NOT INDEXED')
    db.execute(f'DELETE FROM "{table}"')
    try:
        db.executemany(f'INSERT INTO "{table}" ({names}) VALUES ({", ".join("?" * len(columns))})', rows)
    except (sqlite3.IntegrityError, sqlite3.DataError, OverflowError, UnicodeError) as error:
        raise UnreadableFile(f"A row of its table “{table}” cannot be kept: {error}.") from error


def _copy_sequences(source: sqlite3.Connection, db: sqlite3.Connection, ours: set[str]) -> None:
    """Ids begin after the highest ever given out."""
    sequences = {row["name"]: row["seq"] for row in db.execute("SELECT name, seq FROM sqlite_sequence")}
    for name, highest in source.execute("SELECT name, seq FROM sqlite_sequence"):
        if name in ours and isinstance(highest, int):
            sequences[name] = max(highest, sequences.get(name, 0))
    put_sequences(db, sequences)
