"""How a CSV is read: its table, the mapping given, remembered or guessed, and which account it speaks of."""

import json
import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.formats.csv_guess import CsvMapping, Guess, guess_mapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.csv_table import CsvTable, read_table
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches

PREAMBLE_LINES = 25
HEAD_ROWS = 200
SHORTEST_NUMBER = 5  # a shorter one could stand anywhere by chance


@dataclass(frozen=True)
class CsvReading:
    """A CSV as it is being read: the table, the mapping in force, where the guess had doubts, and its shape."""

    table: CsvTable
    mapping: CsvMapping
    doubts: tuple[str, ...]
    shape: str
    is_remembered: bool

    def to_json(self) -> str:
        """What is kept with a waiting batch: the mapping, and what was found out from the whole file."""
        told = {"doubts": self.doubts, "shape": self.shape, "is_remembered": self.is_remembered}
        return json.dumps({"mapping": self.mapping.to_json(), "told": told})


def read_head(content: bytes, kept: str) -> CsvReading:
    """The first lines of a waiting CSV, as it is read by now: `kept` is what `to_json` gave when all of it was."""
    values = json.loads(kept)
    if "told" not in values:  # kept by an earlier version, the mapping alone
        values = {"mapping": kept, "told": {"doubts": (), "shape": "", "is_remembered": False}}
    mapping, told = CsvMapping.from_json(values["mapping"]), values["told"]
    table = read_table(content, mapping.delimiter, most_rows=HEAD_ROWS)
    return CsvReading(table, mapping, tuple(told["doubts"]), told["shape"], told["is_remembered"])


def read_csv_file(db: sqlite3.Connection, content: bytes, mapping: CsvMapping | None = None) -> CsvReading:
    """The table of a CSV with the mapping to read it by: the one given, else the one remembered, else a guess."""
    table = read_table(content)
    guess: Guess = guess_mapping(table)
    if mapping:
        if mapping.delimiter != table.delimiter:
            table = read_table(content, mapping.delimiter)
        return CsvReading(table, mapping, guess.doubts if mapping == guess.mapping else (), guess.shape, False)
    kept = batches.find_mapping(db, guess.shape)
    if kept:
        # The heads may stand on another line of this file; the columns stay what they were.
        mapping = replace(CsvMapping.from_json(kept), header_line=guess.mapping.header_line)
        return CsvReading(table, mapping, (), guess.shape, True)
    return CsvReading(table, guess.mapping, guess.doubts, guess.shape, False)


def with_card_sign(reading: CsvReading, account: Account) -> CsvReading:
    """The reading with every sign turned, where a card's file shows spending as positive: most of its amounts are, and nothing
    else says which way they went. A mapping that was remembered, or says so itself, is left alone."""
    mapping = reading.mapping
    tells = mapping.sign is not None or mapping.money_in is not None or mapping.money_out is not None
    if account.kind != "card" or reading.is_remembered or tells or not mapping.is_complete or mapping.flip:
        return reading
    rows = read_csv(reading.table, mapping, account.currency).rows
    spent = sum(row.amount_minor > 0 for row in rows)
    return replace(reading, mapping=replace(mapping, flip=True)) if spent * 4 > len(rows) * 3 else reading


def find_account_of_csv(db: sqlite3.Connection, name: str, reading: CsvReading) -> Account | None:
    """The account whose number stands in the file's name or in the lines above its table; None if none or several do."""
    words = [name, *(cell for row in reading.table.rows[:PREAMBLE_LINES] for cell in row.cells)]
    text = "".join(c for word in words for c in f"{word} " if c.isalnum() or c == " ").casefold()
    bare = text.replace(" ", "")
    found = [a for a in accounts.list_accounts(db) if len(a.number) >= SHORTEST_NUMBER and _bare(a.number) in bare]
    return found[0] if len(found) == 1 else None


def _bare(number: str) -> str:
    return "".join(c for c in number if c.isalnum()).casefold()
