"""How a CSV is read: its table, the mapping given, remembered or guessed, and which account it speaks of."""

import json
import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.formats.csv_guess import CsvMapping, Guess, guess_mapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.csv_table import CsvTable, read_table
from bolsa.formats.letters import looks_like_letter, read_letter
from bolsa.formats.trades_guess import TradeMapping, guess_trades, looks_like_trades, with_kinds
from bolsa.services import beside
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches

PREAMBLE_LINES = 25
HEAD_ROWS = 200
ROWS, HELD, TRADES = "rows", "held", "trades"  # what a table may hold: a bank's rows, what was held before, a broker's trades
SHORTEST_NUMBER = 5  # a shorter one could stand anywhere by chance


@dataclass(frozen=True)
class CsvReading:
    """A CSV as it is being read: the table, the mapping in force, where the guess had doubts, and its shape."""

    table: CsvTable
    mapping: CsvMapping | TradeMapping
    doubts: tuple[str, ...]
    shape: str
    is_remembered: bool

    @property
    def holds(self) -> str:
        """What the table holds: ROWS, TRADES or HELD."""
        return self.mapping.holds if isinstance(self.mapping, TradeMapping) else ROWS

    @property
    def rows(self) -> CsvMapping:
        """How a bank's rows are read. Raises: TypeError for another table: a bug."""
        if not isinstance(self.mapping, CsvMapping):
            raise TypeError("a broker's table holds no rows of a bank")
        return self.mapping

    @property
    def trades(self) -> TradeMapping:
        """How a broker's table is read. Raises: TypeError for another table: a bug."""
        if not isinstance(self.mapping, TradeMapping):
            raise TypeError("a bank's rows hold no trades")
        return self.mapping

    def to_json(self) -> str:
        """What is kept with a waiting batch: the mapping, and what was found out from the whole file."""
        told = {"doubts": self.doubts, "shape": self.shape, "is_remembered": self.is_remembered}
        return json.dumps({"mapping": self.mapping.to_json(), "told": told})


def doubts_of(kept: str) -> tuple[str, ...]:
    """What a guess had doubts about: `kept` is what `to_json` gave."""
    return tuple(json.loads(kept).get("told", {}).get("doubts", ()))


def read_head(content: bytes, kept: str) -> CsvReading:
    """The first lines of a waiting CSV, as it is read by now: `kept` is what `to_json` gave when all of it was."""
    values = json.loads(kept)
    if "told" not in values:  # kept by an earlier version, the mapping alone
        values = {"mapping": kept, "told": {"doubts": (), "shape": "", "is_remembered": False}}
    mapping, told = mapping_of(values["mapping"]), values["told"]
    is_letter = looks_like_letter(content)
    table = read_letter(content) if is_letter else read_table(content, mapping.delimiter, most_rows=HEAD_ROWS)
    return CsvReading(table, mapping, tuple(told["doubts"]), told["shape"], told["is_remembered"])


def holds_of(kept: str) -> str:
    """What a waiting CSV is taken to hold: `kept` is what `to_json` gave."""
    mapping = mapping_of(json.loads(kept).get("mapping", kept))
    return mapping.holds if isinstance(mapping, TradeMapping) else ROWS


def mapping_of(text: str) -> CsvMapping | TradeMapping:
    """A mapping out of the JSON it is kept as."""
    return TradeMapping.from_json(text) if "holds" in json.loads(text) else CsvMapping.from_json(text)


def read_csv_file(
    db: sqlite3.Connection,
    content: bytes,
    mapping: CsvMapping | TradeMapping | None = None,
    holds: str = "",
    report: Report = silent,
) -> CsvReading:
    """The table of a CSV with the mapping to read it by: the one given, else the one remembered, else a guess; `holds` is what it
    is said to hold, "" where nobody has said."""
    if looks_like_letter(content):
        table = read_letter(content)
        return _read_trades_table(db, table, mapping if isinstance(mapping, TradeMapping) else None, TRADES)
    table = _table_of(content, None, report)
    if mapping and mapping.delimiter != table.delimiter:
        table = _table_of(content, mapping.delimiter, report)
    if isinstance(mapping, TradeMapping) or holds in (TRADES, HELD):
        return _read_trades_table(db, table, mapping if isinstance(mapping, TradeMapping) else None, holds)
    if not mapping and not holds and looks_like_trades(table):
        reading = _read_trades_table(db, table, None, "")
        if not isinstance(_remembered(db, reading.shape, ""), CsvMapping):  # it was said before that these are a bank's rows
            return reading
    guess: Guess = guess_mapping(table)
    if mapping:
        return CsvReading(table, mapping, guess.doubts if mapping == guess.mapping else (), guess.shape, False)
    kept = _remembered(db, guess.shape, holds)
    if isinstance(kept, CsvMapping):
        # The heads may stand on another line of this file; the columns stay what they were.
        return CsvReading(table, replace(kept, header_line=guess.mapping.header_line), (), guess.shape, True)
    return CsvReading(table, guess.mapping, guess.doubts, guess.shape, False)


def _table_of(content: bytes, delimiter: str | None, report: Report) -> CsvTable:
    """A table read: a large one in a process of its own."""
    if len(content) < beside.LARGE:
        return read_table(content, delimiter)
    return beside.call(read_table, content, delimiter, report=report, words="Reading the table")


def read_as(db: sqlite3.Connection, batch_id: int, holds: str) -> CsvMapping | TradeMapping:
    """The likeliest mapping of a waiting CSV, said to hold something else than was thought. Raises: NotFound."""
    return read_csv_file(db, batches.get_upload(db, batch_id), holds=holds).mapping


def _read_trades_table(db: sqlite3.Connection, table: CsvTable, mapping: TradeMapping | None, holds: str) -> CsvReading:
    guess = guess_trades(table, mapping.holds if mapping else holds)
    if mapping:
        mapping = with_kinds(replace(mapping, header_line=guess.mapping.header_line), table.rows)
        return CsvReading(table, mapping, (), guess.shape, False)
    kept = _remembered(db, guess.shape, holds)
    if isinstance(kept, TradeMapping):
        mapping = with_kinds(replace(kept, header_line=guess.mapping.header_line), table.rows)
        return CsvReading(table, mapping, (), guess.shape, True)
    return CsvReading(table, guess.mapping, guess.doubts, guess.shape, False)


def _remembered(db: sqlite3.Connection, shape: str, holds: str) -> CsvMapping | TradeMapping | None:
    """How files of this shape are read, unless it is said that this one holds something else."""
    kept = batches.find_mapping(db, shape)
    mapping = mapping_of(kept) if kept else None
    told = mapping.holds if isinstance(mapping, TradeMapping) else ROWS
    return mapping if mapping and holds in ("", told) else None


def with_card_sign(reading: CsvReading, account: Account) -> CsvReading:
    """The reading with every sign turned, where a card's file shows spending as positive: most of its amounts are, and nothing
    else says which way they went. A mapping that was remembered, or says so itself, is left alone."""
    mapping = reading.mapping
    if isinstance(mapping, TradeMapping):
        return reading
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
