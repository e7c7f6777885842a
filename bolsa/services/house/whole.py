"""A household written out whole, and brought into an empty file again with nothing lost: whole.json beside the attached files.

The rows stand as they are kept, amounts in minor units, so that an older export is put into the schema it was written from and
then brought up to date like any file. What is in it is described by docs/whole.schema.json (export_schema.py).
"""

import base64
import binascii
import hashlib
import json
import os
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from bolsa.errors import BolsaError, Conflict, InvalidInput, UnreadableFile
from bolsa.services.changes import note
from bolsa.services.holdings.settling import settle_lots
from bolsa.services.house.files import bring_to_newest, require_nothing_beside
from bolsa.services.ledger.attaching import look_at
from bolsa.store import private
from bolsa.store.connection import open_database, without_references
from bolsa.store.house import household, whole
from bolsa.store.invariants import find_breaches
from bolsa.store.ledger import attachments
from bolsa.store.migrate import list_steps, migrate

NAME = "whole.json"
FILES = "attachments"
FIRST_SCHEMA = 22  # of which there are exports


def write_whole(db: sqlite3.Connection, path: Path) -> None:
    """Writes every row that makes the household, a line each; bytes as base64. It is a part of what the caller reads."""
    version = db.execute("PRAGMA user_version").fetchone()[0]
    with private.being_written(path) as partial, partial.open("w", encoding="utf-8", newline="\n") as out:
        out.write(f'{{"bolsa": {{"schema": {version}}},\n"highest_ids": {_line(whole.list_sequences(db))},\n"tables": {{')
        for at, table in enumerate(whole.WHOLE):
            out.write(f"{',' if at else ''}\n{_line(table)}: [")
            for number, row in enumerate(whole.list_rows(db, table)):
                out.write(f"{',' if number else ''}\n{_line(row)}")
            out.write("]")
        out.write("}}\n")


def _line(value: object) -> str:
    return json.dumps(value, ensure_ascii=False, default=lambda content: base64.b64encode(content).decode("ascii"))


def bring_whole(folder: Path, target: Path) -> None:
    """Makes a household's file of what `export` wrote into a folder. The file gets its name only when all of it holds.

    Raises: Conflict if the target is there; UnreadableFile naming table and row; nothing is kept then.
    """
    if target.exists():
        raise Conflict(f"{target} is there already. Choose another name.")
    told = _read_whole(folder / NAME)
    partial = target.with_name(target.name + ".part")
    try:
        private.make_folder(target.parent)
        _remove(partial)
        require_nothing_beside(target)
        with closing(open_database(partial)) as db:
            migrate(db, until=told["bolsa"]["schema"])
            with without_references(db), note(db):
                _fill(db, told, folder / FILES)
            bring_to_newest(db)
            with note(db):
                settle_lots(db)
            _require_whole(db)
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        os.replace(partial, target)
    except OSError as error:
        raise BolsaError(f"{target} cannot be written: {error.strerror}.") from error
    finally:
        _remove(partial)


def _remove(partial: Path) -> None:
    for ending in ("", "-wal", "-shm"):
        Path(f"{partial}{ending}").unlink(missing_ok=True)


def _read_whole(path: Path) -> dict[str, Any]:
    """What an export says, as far as its form goes. Raises: UnreadableFile."""
    if not path.is_file():
        raise UnreadableFile(f"{path} is not there. Name the folder that “bolsa export” wrote.")
    try:
        told = json.loads(path.read_text(encoding="utf-8"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        line = getattr(error, "lineno", None)
        raise UnreadableFile(f"{path.name} is no JSON text.", line=line) from error
    if not isinstance(told, dict) or not isinstance(told.get("bolsa"), dict) or not isinstance(told.get("tables"), dict):
        raise UnreadableFile(f"{path.name} is not what “bolsa export” writes.")
    schema, newest = told["bolsa"].get("schema"), list_steps()[-1][0]
    if not isinstance(schema, int) or not schema >= FIRST_SCHEMA:
        raise UnreadableFile(f"{path.name} does not say by which schema it was written.")
    if schema > newest:
        raise UnreadableFile("The export was written by a newer Bolsa. Please use that one.")
    if not isinstance(told.get("highest_ids"), dict):
        raise UnreadableFile(f"{path.name} lacks the highest ids.")
    return told


def _fill(db: sqlite3.Connection, told: dict[str, Any], files: Path) -> None:
    """Puts all rows in place of what a new file begins with."""
    whole.clear_tables(db)
    if unknown := told["tables"].keys() - set(whole.WHOLE):
        raise UnreadableFile(f"There is no table “{min(unknown)}” in a household.")
    for table in whole.WHOLE:
        rows = told["tables"].get(table, [])
        columns = whole.list_columns(db, table)
        names = [column.name for column in columns]
        of_bytes = {column.name for column in columns if column.type == "BLOB"}
        for number, row in enumerate(rows, 1):
            if not isinstance(row, dict) or row.keys() != set(names):
                raise UnreadableFile(f"Row {number} of {table} has not the columns of its table.")
            try:
                whole.insert_row(db, table, names, _with_bytes(row, of_bytes))
            except (sqlite3.Error, binascii.Error, ValueError, TypeError, OverflowError) as error:
                raise UnreadableFile(f"Row {number} of {table} cannot be kept: {error}.") from error
    try:
        whole.put_sequences(db, {name: int(highest) for name, highest in told["highest_ids"].items() if name in whole.WHOLE})
    except (sqlite3.Error, ValueError, TypeError) as error:
        raise UnreadableFile("The highest ids are no numbers.") from error
    for path in sorted(files.iterdir()) if files.is_dir() else ():
        content = path.read_bytes()
        if hashlib.sha256(content).hexdigest() != path.stem:
            raise UnreadableFile(f"The attached file {path.name} is not the one that was exported.")
        try:
            attachments.put_file(db, path.stem, content, look_at(content)[3])
        except InvalidInput as error:
            raise UnreadableFile(f"The attached file {path.name}: {error.sentence}") from error


def _with_bytes(row: dict[str, object], of_bytes: set[str]) -> dict[str, object]:
    return {
        name: base64.b64decode(value, validate=True) if name in of_bytes and isinstance(value, str) else value
        for name, value in row.items()
    }


def _require_whole(db: sqlite3.Connection) -> None:
    """Nothing, if everything holds. Raises: UnreadableFile naming the first row that does not."""
    for table, parent in whole.list_broken_references(db):
        what = "an attached file" if parent == "attachment_file" else parent
        raise UnreadableFile(f"A row of {table} refers to {what} that is not there.")
    if household.find_household(db) is None:
        raise UnreadableFile("The export holds no household.")
    for breach in find_breaches(db):
        if breach.is_damage:
            raise UnreadableFile(f"The export does not hold together: {breach.promise} — {breach.row}.")
