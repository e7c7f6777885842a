"""Taking everything out: CSV and JSON files anyone can read. Whole copies are made in backups.py."""

import csv
import io
import json
import re
import sqlite3
import unicodedata
from collections.abc import Iterable
from decimal import Decimal
from pathlib import Path
from typing import Any

from bolsa.core.holdings.shares import shares_text
from bolsa.core.money import decimal_text
from bolsa.services.house import whole
from bolsa.store import private
from bolsa.store.connection import reading
from bolsa.store.house import exports, household

_FORMULA_STARTS = frozenset("=+-@\u2212\t\r\n")
_NUMBER = re.compile(r"-?[0-9]+(\.[0-9]+)?", re.ASCII)
_UNSEEN = frozenset(("Cc", "Cf", "Zs", "Zl", "Zp"))  # Unicode categories: controls, formats, spaces


def safe_cell(text: object) -> str:
    """The text as a cell that no spreadsheet takes for a formula: an apostrophe goes before what would begin one, also in its
    wide forms (U+FF1D and the like, by NFKC) and behind what nobody sees. A number is no formula, whoever wrote it."""
    shown = "" if text is None else str(text)
    if shown[:1].isalnum() or _NUMBER.fullmatch(shown):
        return shown
    seen = next((letter for letter in shown if unicodedata.category(letter) not in _UNSEEN), "")
    begins = {shown[:1], unicodedata.normalize("NFKC", seen)[:1]}
    return f"'{shown}" if begins & _FORMULA_STARTS else shown


class Amount(str):
    """A decimal amount as text, which a spreadsheet may take for the number it is."""


def write_csv(heads: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    """CSV text (RFC 4180): text made safe; numbers, given as such or as Amount, stay as they are."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([safe_cell(head) for head in heads])
    for row in rows:
        writer.writerow([cell if isinstance(cell, Amount | int | float | Decimal) else safe_cell(cell) for cell in row])
    return out.getvalue()


def export_all(db: sqlite3.Connection, folder: Path) -> list[Path]:
    """Writes every table to be read as CSV and all of them as one JSON file, and beside them the whole of the household as one
    that can be brought in again, into the folder, made if it is not there."""
    private.make_folder(folder)
    private.require_room(folder, exports.size_of(db))
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
            private.write_text(path, _csv_of(heads, records))
            written.append(path)
        written += _write_attached(db, folder / whole.FILES)
        whole.write_whole(db, folder / whole.NAME)
    path = folder / "bolsa.json"
    private.write_text(path, json.dumps(everything, ensure_ascii=False, indent=1))
    return [*written, path, folder / whole.NAME]


def _write_attached(db: sqlite3.Connection, folder: Path) -> list[Path]:
    """Writes the attached files under their hashes, as attachments.csv names them."""
    written = []
    for name, content in exports.list_attached(db):
        private.make_folder(folder)
        private.write_bytes(folder / name, content)
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
