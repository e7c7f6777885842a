"""A pasted list of values: a day and an amount a line, as copied from a table or a CSV file."""

import re
from datetime import date

from bolsa.core.amounts import find_decimal_mark, read_decimal
from bolsa.core.money import to_minor
from bolsa.errors import InvalidInput
from bolsa.formats.dates import find_date_order, read_day

MOST_LINES = 2000


def read_value_list(text: str, currency: str, decimal_mark: str = ".") -> list[tuple[date, int]]:
    """The (day, amount in minor units) of each line, in the list's order; a line of heads before the first is passed over.

    Day and amount are cut at a tab, a semicolon, two blanks, or the first comma or blank after the day. Amounts are read as the
    list itself writes them where that is certain, else by `decimal_mark`, the reader's.
    Raises: InvalidInput naming the line.
    """
    lines = [(i, line.strip()) for i, line in enumerate(text.splitlines(), 1) if line.strip()]
    if not lines or len(lines) > MOST_LINES:
        raise InvalidInput(f"Paste up to {MOST_LINES:,} lines, each with a day and a value.", field="pasted")
    cut = [(i, *_cut(line)) for i, line in lines]
    if len(cut) > 1 and not any(c.isdigit() for c in cut[0][2]):
        cut = cut[1:]
    order, _ = find_date_order([day for _, day, _ in cut])
    own, is_certain = find_decimal_mark([amount for _, _, amount in cut])
    has_mark = any(mark in amount for _, _, amount in cut for mark in ".,")
    mark = own if is_certain and has_mark else decimal_mark
    return [_read(i, day, amount, order, mark, currency) for i, day, amount in cut]


def _cut(line: str) -> tuple[str, str]:
    for pattern in (r"\t", r";", r"\s{2,}", r"(?<=\d),\s*(?=[-−+€$£]?\d)", r",\s*", r"\s+(?=\S+$)"):
        parts = re.split(pattern, line, maxsplit=1)
        if len(parts) == 2:
            return parts[0].strip(' "'), parts[1].strip(' "')
    return line, ""


def _read(line: int, day_text: str, amount_text: str, order: str, mark: str, currency: str) -> tuple[date, int]:
    day = read_day(day_text, order)
    amount = read_decimal(re.sub(r"[^\d.,+\-−() ]", "", amount_text), mark)
    if day is None or amount is None:
        what = "day" if day is None else "amount"
        raise InvalidInput(f"Line {line} has no {what} that can be read: “{day_text} {amount_text}”.", field="pasted")
    return day, to_minor(amount, currency)
