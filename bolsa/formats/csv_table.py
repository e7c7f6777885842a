"""A CSV file as a table: its text, delimiter, and rows with the line each begins on. What the columns mean: csv_guess.py."""

import csv
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Literal, NamedTuple

from bolsa.errors import UnreadableFile
from bolsa.formats.spool import Spool
from bolsa.formats.text import decode, lines_of, require_no_zero_bytes

DELIMITERS = (",", ";", "\t", "|")
# WORKAROUND: an apostrophe before a cell keeps spreadsheets from reading it as a number; "'t Hof" is a name and keeps it.
_TEXT_MARK = re.compile(r"^'(?![a-z]{1,2} |.*'$)")
_MOST_CELL = 1_000_000


class CsvRow(NamedTuple):
    """The cells of one record, stripped; `line` is where it begins in the file, counted from 1."""

    line: int
    cells: tuple[str, ...]

    def cell(self, column: int | None) -> str:
        return self.cells[column] if column is not None and column < len(self.cells) else ""


@dataclass(frozen=True)
class CsvTable:
    """All records of a file that are not blank, the delimiter they were cut with, and how many columns most of them have."""

    delimiter: str
    rows: Spool[CsvRow]
    width: int


def read_table(content: bytes, delimiter: str | None = None, most_rows: int | None = None) -> CsvTable:
    """The table of a CSV file, or its first rows; the delimiter is found if it is not told. Raises: UnreadableFile."""
    text = decode(content)
    require_no_zero_bytes(text)
    # WORKAROUND: old systems end a line with CR CR LF; a record would then end twice, and fill a file up with zero bytes.
    text = text.replace("\r\r\n", "\n").rstrip("\x00\x1a")
    first, _, rest = text.partition("\n")
    skipped = 0
    if first.strip().lower().startswith("sep=") and len(first.strip()) == 5:
        delimiter, text, skipped = delimiter or first.strip()[4], rest, 1
    if text.lstrip()[:1] in ("<", "{"):
        raise UnreadableFile("The file is markup, not a table of lines.", line=1, found=text.lstrip()[:40])
    chosen = delimiter or _find_delimiter(text)
    rows = _rows(text, chosen, skipped, most_rows)
    if not rows:
        raise UnreadableFile("The file has no lines to read.")
    return CsvTable(chosen, rows, _usual_width(rows)[0])


def _usual_width(rows: Iterable[CsvRow]) -> tuple[int, int]:
    """How many columns most records have, and how many records that are."""
    counts = Counter(len(row.cells) for row in rows if len(row.cells) > 1)
    return counts.most_common(1)[0] if counts else (1, 0)


def _rows(text: str, delimiter: str, skipped: int, most: int | None) -> Spool[CsvRow]:
    try:
        return Spool(islice(_parse(text, delimiter, skipped, csv.QUOTE_MINIMAL, strict=True), most))
    except csv.Error:
        pass
    try:
        # WORKAROUND: a stray quote inside a text ("6" pipe) is no quoting; read again with quotes as letters.
        return Spool(islice(_parse(text, delimiter, skipped, csv.QUOTE_NONE, strict=False), most))
    except csv.Error as error:
        raise UnreadableFile(f"The file cannot be cut into cells: {error}.") from error


def _parse(text: str, delimiter: str, skipped: int, quoting: Literal[0, 3], *, strict: bool) -> Iterator[CsvRow]:
    csv.field_size_limit(_MOST_CELL)
    reader = csv.reader(lines_of(text), delimiter=delimiter, quoting=quoting, strict=strict, skipinitialspace=True)
    line = 1 + skipped
    for cells in reader:
        stripped = tuple(_TEXT_MARK.sub("", cell.strip().strip("\ufeff")) for cell in cells)
        if quoting == csv.QUOTE_NONE:
            stripped = tuple(cell[1:-1] if len(cell) > 1 and cell[0] == cell[-1] == '"' else cell for cell in stripped)
        if any(stripped):
            yield CsvRow(line, stripped)
        line = reader.line_num + 1 + skipped


def _find_delimiter(text: str) -> str:
    """The delimiter that cuts most of the first lines into one same number of cells, more than one."""
    head = "".join(islice(lines_of(text), 200))

    def score(delimiter: str) -> tuple[int, int]:
        try:
            width, times = _usual_width(_parse(head, delimiter, 0, csv.QUOTE_MINIMAL, strict=False))
        except csv.Error:
            return 0, 0
        return times, width if times else 0

    return max(DELIMITERS, key=score)
