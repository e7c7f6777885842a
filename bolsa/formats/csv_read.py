"""Reading a bank's CSV by a mapping: rows of one account, or the line and column that do not fit."""

from collections.abc import Iterable, Iterator
from datetime import date
from decimal import Decimal
from itertools import islice
from typing import NoReturn

from bolsa.core.amounts import read_decimal
from bolsa.core.bringing.rows import BroughtRow, BroughtStatement
from bolsa.core.known import known
from bolsa.core.money import is_currency_code, to_minor
from bolsa.errors import UnreadableFile
from bolsa.formats.csv_guess import SIGN_IN, SIGN_OUT, CsvMapping
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.dates import read_day
from bolsa.formats.spool import Spool

MOST_WARNINGS = 50


def read_csv(table: CsvTable, mapping: CsvMapping, default_currency: str) -> BroughtStatement:
    """The statement a table holds. Lines before the first and after the last dated row are preamble and footer.

    Raises: InvalidInput if the mapping lacks a date or an amount; UnreadableFile for a row in between that does not fit.
    """
    mapping.require_complete()
    first, end = _find_core(table, mapping)
    if first == end:
        _refuse_or_empty(table, mapping)
        return BroughtStatement(())
    signs = _SignRule(_core(table, first, end), mapping)
    currencies, numbers = _find_words(_core(table, first, end), mapping)
    currency = currencies.pop() if len(currencies) == 1 and is_currency_code(next(iter(currencies))) else ""
    warnings: dict[str, None] = {}
    balances = _Balances(mapping, currency or default_currency)
    rows: Spool[BroughtRow] = Spool()
    for record in _core(table, first, end):
        parsed = _Parsed(record, mapping)
        if not _may_skip(parsed, mapping, warnings):
            row = _row(parsed, mapping, signs, currency or default_currency)
            rows.append(row)
            balances.note(record, row)
    balance_minor, balance_day = balances.last(warnings)
    opening_minor, opening_day = balances.after_first_day()
    return BroughtStatement(
        rows=rows,
        number=numbers.pop().replace(" ", "") if len(numbers) == 1 else "",
        currency=currency,
        balance_minor=balance_minor,
        balance_day=balance_day,
        warnings=tuple(warnings),
        opening_minor=opening_minor,
        opening_day=opening_day,
    )


def _core(table: CsvTable, first: int, end: int) -> Iterator[CsvRow]:
    """The records from the first dated one to the last, those between without a date too."""
    return islice(table.rows.from_place(first), end - first)


def _find_core(table: CsvTable, mapping: CsvMapping) -> tuple[int, int]:
    """The places of the first record with a date and a number, and behind the last one; equal if there is none."""

    def is_dated(row: CsvRow) -> bool:
        if row.line <= mapping.header_line:
            return False
        parsed = _Parsed(row, mapping)
        return bool(parsed.day and parsed.has_number)

    first = next((i for i, row in enumerate(table.rows) if is_dated(row)), None)
    if first is None:
        return 0, 0
    last = next(i for i, row in enumerate(reversed(table.rows)) if is_dated(row))
    return first, len(table.rows) - last


def _find_words(rows: Iterable[CsvRow], mapping: CsvMapping) -> tuple[set[str], set[str]]:
    """The currencies and the own account numbers that stand in the records, two of each at most: more than one is none."""
    currencies: set[str] = set()
    numbers: set[str] = set()
    columns = [(c, found) for c, found in ((mapping.currency, currencies), (mapping.number, numbers)) if c is not None]
    for row in rows if columns else ():
        for column, found in columns:
            cell = row.cell(column)
            if cell and len(found) < 2:
                found.add(cell.upper() if found is currencies else cell)
    return currencies, numbers


class _Parsed:
    """A record with its day and its numbers, each read once."""

    __slots__ = ("amount", "day", "money_in", "money_out", "row")

    def __init__(self, row: CsvRow, mapping: CsvMapping):
        self.row = row
        self.day = read_day(row.cell(mapping.day), mapping.date_order)
        self.amount = _number(row, mapping.amount, mapping)
        self.money_in = _number(row, mapping.money_in, mapping)
        self.money_out = _number(row, mapping.money_out, mapping)

    @property
    def has_number(self) -> bool:
        return not (self.amount is None and self.money_in is None and self.money_out is None)


def _number(row: CsvRow, column: int | None, mapping: CsvMapping) -> Decimal | None:
    return read_decimal(row.cell(column), mapping.decimal_mark) if column is not None else None


def _refuse_no_amount(row: CsvRow, mapping: CsvMapping) -> NoReturn:
    column = mapping.amount if mapping.amount is not None else mapping.money_out or mapping.money_in or 0
    raise UnreadableFile("This is no amount.", line=row.line, column=column + 1, found=row.cell(column))


def _refuse_no_day(row: CsvRow, mapping: CsvMapping) -> NoReturn:
    text = row.cell(mapping.day)
    raise UnreadableFile("This is no date in the order chosen.", line=row.line, column=(mapping.day or 0) + 1, found=text)


def _refuse_or_empty(table: CsvTable, mapping: CsvMapping) -> None:
    """A file without a row that has both date and amount is an empty period, unless its rows say otherwise."""
    for row in table.rows:
        if row.line <= mapping.header_line:
            continue
        parsed = _Parsed(row, mapping)
        if parsed.day and not _may_skip(parsed, mapping, {}):
            _refuse_no_amount(row, mapping)
        if row.cell(mapping.day) and parsed.has_number:
            _refuse_no_day(row, mapping)
    if not mapping.header_line:
        raise UnreadableFile("No line has a date and an amount where they are expected.", line=table.rows[0].line)


def _may_skip(parsed: _Parsed, mapping: CsvMapping, warnings: dict[str, None]) -> bool:
    """Whether a record among the dated ones is no booking: a balance brought forward, a head repeated on the next page.

    Raises: UnreadableFile if it looks like a booking all the same.
    """
    if parsed.day:
        columns = (mapping.amount, mapping.money_in, mapping.money_out)
        return not any(parsed.row.cell(column) for column in columns if column is not None)
    if parsed.has_number:
        if parsed.row.cell(mapping.day):
            _refuse_no_day(parsed.row, mapping)
        if len(warnings) < MOST_WARNINGS:
            warnings[f"Line {parsed.row.line} has an amount but no date and was left out."] = None
    return True


class _SignRule:
    """How this file says in and out, decided once for all of its rows."""

    def __init__(self, rows: Iterable[CsvRow], mapping: CsvMapping):
        self.mapping = mapping
        # Letters speak only where signs do not: if there is a minus, and no out-letter beside a positive amount, the amounts
        # stand as they are. A minus among unsigned amounts with letters is a reversal, and turns its letter round.
        has_minus = has_out_letter = False
        self.out_is_negative = True
        for row in rows if mapping.sign is not None or mapping.money_out is not None else ():
            number = (_number(row, mapping.amount, mapping) or 0) if mapping.sign is not None else 0
            has_minus = has_minus or number < 0
            has_out_letter = has_out_letter or self._letter(row) < 0 < number
            money_out = _number(row, mapping.money_out, mapping)
            self.out_is_negative = self.out_is_negative and not (money_out and money_out > 0)
        self.already_signed = has_minus and not has_out_letter

    def _letter(self, row: CsvRow) -> int:
        text = row.cell(self.mapping.sign).casefold() if self.mapping.sign is not None else ""
        return -1 if text in SIGN_OUT else 1 if text in SIGN_IN else 0

    def amount(self, parsed: _Parsed) -> Decimal | None:
        """The row's amount from the account's side; None if it has none."""
        if self.mapping.amount is None:
            if not parsed.has_number:
                return None
            return (parsed.money_in or Decimal(0)) + (parsed.money_out or Decimal(0)) * (1 if self.out_is_negative else -1)
        number = parsed.amount
        letter = self._letter(parsed.row)
        if number is not None and letter and not self.already_signed:
            number *= letter
        return -number if number is not None and self.mapping.flip else number


def _row(parsed: _Parsed, mapping: CsvMapping, signs: _SignRule, currency: str) -> BroughtRow:
    row = parsed.row
    amount = signs.amount(parsed)
    if amount is None:
        _refuse_no_amount(row, mapping)
    payee = row.cell(mapping.payee)
    memo = " ".join(filter(None, (row.cell(i) for i in (mapping.memo, *mapping.more_memo) if i is not None)))
    if not payee:
        payee, memo = memo, ""
    return BroughtRow(
        day=known(parsed.day),
        amount_minor=to_minor(amount, currency),
        payee=" ".join(payee.split()) or "Unnamed",
        memo=" ".join(memo.split()),
        bank_ref=row.cell(mapping.bank_ref),
        value_day=read_day(row.cell(mapping.value_day), mapping.date_order) if mapping.value_day is not None else None,
        file_line=row.line,
    )


class _Balances:
    """The running balances of the column that holds them, as the rows go by."""

    def __init__(self, mapping: CsvMapping, currency: str):
        self.mapping, self.currency = mapping, currency
        self.first: tuple[BroughtRow, int] | None = None
        self.latest: tuple[BroughtRow, int] | None = None
        self.count = self.forward = self.backward = 0
        self.last_day = date.min
        self.end_of_first = self.start_of_last = (date.min, 0)  # of the days of the first and of the last records
        self.in_order = self.against_order = True

    def note(self, record: CsvRow, row: BroughtRow) -> None:
        """Takes the balance that stands beside a row."""
        self.last_day = max(self.last_day, row.day)
        number = _number(record, self.mapping.balance, self.mapping)
        if number is None:
            return
        said = row, to_minor(number, self.currency)
        if self.latest:
            before = self.latest
            self.forward += said[1] - before[1] == row.amount_minor
            self.backward += before[1] - said[1] == before[0].amount_minor
            self.in_order = self.in_order and row.day >= before[0].day
            self.against_order = self.against_order and row.day <= before[0].day
        if self.first is None or self.first[0].day == row.day:
            self.end_of_first = row.day, said[1]
        if self.start_of_last[0] != row.day:
            self.start_of_last = row.day, said[1]
        self.first, self.latest, self.count = self.first or said, said, self.count + 1

    def last(self, warnings: dict[str, None]) -> tuple[int | None, date | None]:
        """The balance after the latest row and the last day of all rows; (None, None) where the column holds none."""
        if self.first is None or self.latest is None:
            return None, None
        if self.count > 1 and max(self.forward, self.backward) < self.count - 1:
            warnings["The file's own balances do not follow from its amounts."] = None
        tied = self.forward == self.backward
        newest_last = self.forward > self.backward or (tied and self.latest[0].day >= self.first[0].day)
        return (self.latest if newest_last else self.first)[1], self.last_day

    def after_first_day(self) -> tuple[int | None, date | None]:
        """The balance at the end of the first day, and that day, where all balances follow from the amounts, day after day;
        (None, None) where they do not. What came before the first row of that day is not known, so that no earlier one is."""
        if self.count > 1 and self.forward == self.count - 1 and self.in_order:
            return self.end_of_first[1], self.end_of_first[0]
        if self.count > 1 and self.backward == self.count - 1 and self.against_order:
            return self.start_of_last[1], self.start_of_last[0]
        return None, None
