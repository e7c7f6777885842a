"""Taking everything out: CSV and JSON files anyone can read, and whole copies that are checked before they are trusted."""

import csv
import io
import json
import os
import sqlite3
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from bolsa.core.holdings.shares import shares_text
from bolsa.core.house.kept import Breach
from bolsa.core.money import decimal_text
from bolsa.errors import BolsaError, UnreadableFile
from bolsa.store.connection import open_database, open_read_only, reading
from bolsa.store.house import exports, household
from bolsa.store.invariants import find_breaches
from bolsa.store.migrate import migrate

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def safe_cell(text: object) -> str:
    """The text as a cell that no spreadsheet takes for a formula: an apostrophe goes before what would begin one."""
    shown = "" if text is None else str(text)
    return f"'{shown}" if shown.startswith(_FORMULA_STARTS) else shown


def write_csv(heads: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    """CSV text (RFC 4180): text cells made safe; numbers given as int or Decimal stay as they are."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(heads)
    for row in rows:
        writer.writerow([safe_cell(cell) if isinstance(cell, str) or cell is None else cell for cell in row])
    return out.getvalue()


class Amount(str):
    """A decimal amount as text, which a spreadsheet may take for the number it is."""


def export_all(db: sqlite3.Connection, folder: Path) -> list[Path]:
    """Writes every table as CSV and all of them as one JSON file into the folder, made if it is not there."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise BolsaError(f"The folder {folder} cannot be made: {error.strerror}.") from error
    written: list[Path] = []
    everything: dict[str, Any] = {}
    with reading(db):
        kept = household.get_household(db)
        everything["household"] = {"name": kept.name, "home_currency": kept.home_currency, "time_zone": kept.time_zone}
        for name, sql in exports.TABLES:
            records = [_record(row) for row in exports.list_table(db, sql)]
            everything[name] = records
            path = folder / f"{name}.csv"
            heads = list(records[0]) if records else []
            path.write_text(_csv_of(heads, records), encoding="utf-8", newline="")
            written.append(path)
        written += _write_attached(db, folder / "attachments")
    path = folder / "bolsa.json"
    path.write_text(json.dumps(everything, ensure_ascii=False, indent=1), encoding="utf-8")
    return [*written, path]


def _write_attached(db: sqlite3.Connection, folder: Path) -> list[Path]:
    """Writes the attached files under their hashes, as attachments.csv names them."""
    written = []
    for name, content in exports.list_attached(db):
        folder.mkdir(exist_ok=True)
        (folder / name).write_bytes(content)
        written.append(folder / name)
    return written


def _record(row: sqlite3.Row) -> dict[str, object]:
    """The row with amounts and shares as decimal text: `amount_minor` becomes `amount`, and so on."""
    record: dict[str, object] = {}
    for name in row.keys():  # noqa: SIM118 (Row iterates over values)
        if name.endswith("_minor"):
            amount = row[name]
            record[name.removesuffix("_minor")] = Amount(decimal_text(amount, row["currency"])) if amount is not None else None
        elif name == "shares_e8":
            record["shares"] = Amount(shares_text(row[name]))
        else:
            record[name] = row[name]
    return record


def _csv_of(heads: list[str], records: list[dict[str, object]]) -> str:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(heads)
    for record in records:
        writer.writerow([cell if isinstance(cell, Amount | int) else safe_cell(cell) for cell in record.values()])
    return out.getvalue()


def back_up(db: sqlite3.Connection, target: Path) -> list[Breach]:
    """Writes one file that holds everything, and checks it by opening it; gives what does not hold in it.

    The copy gets its name only when it is whole. Raises: BolsaError if the file is there already or cannot be written.
    """
    if target.exists():
        raise BolsaError(f"{target} is there already. Choose another name.")
    partial = target.with_name(target.name + ".part")
    try:
        partial.unlink(missing_ok=True)
        exports.copy_whole(db, partial)
        breaches = check_file(partial)
        os.replace(partial, target)
    except OSError as error:
        raise BolsaError(f"{target} cannot be written: {error.strerror}.") from error
    return breaches


def check_file(path: Path) -> list[Breach]:
    """What does not hold in a file. Raises: UnreadableFile if it is no household."""
    db = open_read_only(path)
    try:
        if household.find_household(db) is None:
            raise UnreadableFile(f"{path} holds no household.")
        return find_breaches(db)
    except sqlite3.DatabaseError as error:
        raise UnreadableFile(f"{path} is not a Bolsa household.") from error
    finally:
        db.close()


def restore(backup: Path, target: Path) -> Path | None:
    """Puts a backup in the place of the household's file, after checking it; the file that was there is kept beside it.

    Gives where the former file is kept, None if there was none. Raises: UnreadableFile, BolsaError.
    """
    if not backup.is_file():
        raise BolsaError(f"{backup} is not there.")
    partial = target.with_name(target.name + ".part")
    partial.unlink(missing_ok=True)
    source = open_read_only(backup)
    try:
        exports.copy_whole(source, partial)
    except sqlite3.DatabaseError as error:
        partial.unlink(missing_ok=True)
        raise UnreadableFile(f"{backup} is not a Bolsa household.") from error
    finally:
        source.close()
    breaches = check_file(partial)
    if breaches:
        partial.unlink()
        raise UnreadableFile(f"{backup} is damaged: {breaches[0].promise} — {breaches[0].row}.")
    db = open_database(partial)
    migrate(db)
    db.close()
    former = None
    if target.exists():
        former = target.with_name(target.name + ".before-restore")
        _fold_in_log(target)
        os.replace(target, former)
    os.replace(partial, target)
    return former


def _fold_in_log(path: Path) -> None:
    """Folds the write-ahead log into the file, so that moving the file alone moves all of it."""
    db = open_database(path)
    try:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    finally:
        db.close()
