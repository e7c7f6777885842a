"""A year of expected amounts as CSV: what the year's page saves, read again after a person changed it.

Columns: group, category, type, figure, then a month each (2026-01). Of its rows those with the figure "expected" count; amounts
are exact decimals with a point, an empty cell says nothing.
"""

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from bolsa.core.amounts import parse_exact
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, UnreadableFile

HEADS = ["group", "category", "type", "figure"]
MOST_ROWS = 2_000


@dataclass(frozen=True)
class YearLine:
    """A category's expected amounts by month, and the line of the file they stand in."""

    line: int
    category: str
    amounts: Mapping[Month, Decimal]


def read_year(content: bytes) -> list[YearLine]:
    """The rows of expected amounts. Raises: UnreadableFile, or InvalidInput naming the line and what is wrong in it."""
    try:
        lines = list(csv.reader(io.StringIO(content.decode("utf-8-sig"), newline="")))
    except (UnicodeDecodeError, csv.Error) as error:
        raise UnreadableFile("This is no CSV in UTF-8, as the year’s page saves it.") from error
    if not lines or [head.strip().lower() for head in lines[0][:4]] != HEADS:
        raise UnreadableFile("The first line must begin with group, category, type, figure, as the year’s page saves it.")
    if len(lines) > MOST_ROWS:
        raise UnreadableFile(f"A year has up to {MOST_ROWS:,} lines.")
    months = {at: Month.parse(head.strip()) for at, head in enumerate(lines[0]) if at >= len(HEADS) and head.strip()}
    if len(set(months.values())) != len(months):
        raise UnreadableFile("A month stands in two columns.")
    found = [_line(number, row, months) for number, row in enumerate(lines, 1) if _is_expected(row)]
    if not found:
        raise UnreadableFile("No line of it has the figure “expected”.")
    return found


def _is_expected(row: list[str]) -> bool:
    return len(row) > len(HEADS) and row[3].strip().lower() == "expected"


def _line(number: int, row: list[str], months: Mapping[int, Month]) -> YearLine:
    amounts = {}
    for at, month in months.items():
        text = row[at].strip() if at < len(row) else ""
        if not text:
            continue
        try:
            amount = parse_exact(text, ".", "an expected amount", "file", "430.00")
        except InvalidInput as error:
            raise InvalidInput(f"Line {number}: {error.sentence}", field="file") from error
        if amount < 0:
            raise InvalidInput(f"Line {number}: “{text[:20]}” is no expected amount, such as 430.00.", field="file")
        amounts[month] = amount
    return YearLine(number, row[1].strip().lstrip("'"), amounts)
