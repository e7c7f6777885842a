"""A household as rows of its tables, to be written out whole and put into an empty file again."""

import re
import sqlite3
from collections.abc import Iterator, Sequence

from bolsa.core.house.kept import KeptColumn
from bolsa.store.tables import TABLES

SEAL = "seal"  # of a backup
OWN_SETTINGS = ("secret key", SEAL)  # of the sessions, and of a backup: another file draws its own
WHOLE = tuple(table.name for table in TABLES if table.travels)


def list_columns(db: sqlite3.Connection, table: str) -> list[KeptColumn]:
    """The columns of a table, in order."""
    words = _words_of(db, table)
    rows = db.execute('SELECT name, type, "notnull", pk FROM pragma_table_info(:table) ORDER BY cid', {"table": table})
    return [KeptColumn(row["name"], row["type"], not (row["notnull"] or row["pk"]), words.get(row["name"], "")) for row in rows]


def words_of_table(db: sqlite3.Connection, table: str) -> str:
    """What the schema says of a table, in its first line."""
    found = re.search(r"^[^\n]*\(\s*--\s*(.*)", _sql_of(db, table))
    return found[1].strip() if found else ""


def _sql_of(db: sqlite3.Connection, table: str) -> str:
    return db.execute("SELECT sql FROM sqlite_master WHERE type = 'table' AND name = :name", {"name": table}).fetchone()["sql"]


def _words_of(db: sqlite3.Connection, table: str) -> dict[str, str]:
    """By column: the comment beside it."""
    found = re.findall(r"^\s*(\w+) (?:INTEGER|TEXT|REAL|BLOB)\b[^\n]*?--\s*(.*)$", _sql_of(db, table), re.MULTILINE)
    return {name: words.strip() for name, words in found}


def list_rows(db: sqlite3.Connection, table: str) -> Iterator[dict[str, object]]:
    """The rows of a table in order of its key."""
    columns = list_columns(db, table)
    names = ", ".join(f'"{column.name}"' for column in columns)
    key = [row["name"] for row in db.execute("SELECT name FROM pragma_table_info(:t) WHERE pk > 0 ORDER BY pk", {"t": table})]
    order = ", ".join(f'"{name}"' for name in key) or "rowid"
    for row in db.execute(f'SELECT {names} FROM "{table}" ORDER BY {order}'):
        if table != "setting" or row["name"] not in OWN_SETTINGS:
            yield dict(row)


def list_sequences(db: sqlite3.Connection) -> dict[str, int]:
    """By table: the highest id it ever gave out, none of which is given out again."""
    rows = db.execute("SELECT name, seq FROM sqlite_sequence ORDER BY name").fetchall()
    return {row["name"]: row["seq"] for row in rows if row["name"] in WHOLE}


def clear_tables(db: sqlite3.Connection) -> None:
    """Takes out what a new file begins with."""
    for table in WHOLE:
        db.execute(f'DELETE FROM "{table}"')


def insert_row(db: sqlite3.Connection, table: str, columns: Sequence[str], row: dict[str, object]) -> None:
    """Puts a row as it is into a table. Raises: sqlite3.Error where the schema refuses it."""
    names = ", ".join(f'"{name}"' for name in columns)
    db.execute(f'INSERT INTO "{table}" ({names}) VALUES ({", ".join("?" * len(columns))})', [row[name] for name in columns])


def put_sequences(db: sqlite3.Connection, sequences: dict[str, int]) -> None:
    """Lets ids begin after the highest ever given out."""
    for name, highest in sequences.items():
        db.execute("DELETE FROM sqlite_sequence WHERE name = :name", {"name": name})
        db.execute("INSERT INTO sqlite_sequence (name, seq) VALUES (:name, :seq)", {"name": name, "seq": highest})


TRASHED_WITHOUT_FILE = """
    SELECT t.id FROM trash t, json_each(t.snapshot, '$.attachment') a
    WHERE a.value ->> 'sha256' NOT IN (SELECT sha256 FROM attachment_file) LIMIT 1"""


def list_broken_references(db: sqlite3.Connection) -> list[tuple[str, str]]:
    """Tables with rows that refer to what is not there, each with the table it misses; papers of what lies in the trash too."""
    broken = [(row["table"], row["parent"]) for row in db.execute("PRAGMA foreign_key_check")]
    return broken + [("trash", "attachment_file") for _ in db.execute(TRASHED_WITHOUT_FILE)]
