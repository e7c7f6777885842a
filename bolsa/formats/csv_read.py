"""Reading a bank's CSV by a mapping: rows of one account, or the line and column that do not fit."""

from collections import Counter
from datetime import date
from decimal import Decimal
from itertools import pairwise
from typing import NoReturn

from bolsa.core.amounts import read_decimal
from bolsa.core.bringing import BroughtRow, BroughtStatement
from bolsa.core.money import is_currency_code, to_minor
from bolsa.errors import UnreadableFile
from bolsa.formats.csv_guess import SIGN_IN, SIGN_OUT, CsvMapping
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.dates import read_day


def read_csv(table: CsvTable, mapping: CsvMapping, default_currency: str) -> BroughtStatement:
    """The statement a table holds. Lines before the first and after the last dated row are preamble and footer.

    Raises: InvalidInput if the mapping lacks a date or an amount; UnreadableFile for a row in between that does not fit.
    """
    mapping.require_complete()
    body = [_Parsed(row, mapping) for row in table.rows if row.line > mapping.header_line]
    dated = [i for i, parsed in enumerate(body) if parsed.day and parsed.has_number]
    if not dated:
        _refuse_or_empty(body, mapping)
        return BroughtStatement(())
    core = body[dated[0] : dated[-1] + 1]
    currency = _currency_of(core, mapping) or default_currency
    signs = _SignRule(core, mapping)
    warnings: list[str] = []
    rows = [_row(parsed, mapping, signs, currency) for parsed in core if not _may_skip(parsed, mapping, warnings)]
    balance_minor, balance_day = _last_balance(core, mapping, rows, currency, warnings)
    number = Counter(parsed.row.cell(mapping.number) for parsed in core if parsed.row.cell(mapping.number)).most_common(2)
    return BroughtStatement(
        rows=tuple(rows),
        number=number[0][0].replace(" ", "") if len(number) == 1 else "",
        currency=_currency_of(core, mapping),
        balance_minor=balance_minor,
        balance_day=balance_day,
        warnings=tuple(warnings),
    )


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
    raise UnreadableFile("This is no date in the order chosen.", line=row.line, column=mapping.day + 1, found=text)


def _refuse_or_empty(body: list[_Parsed], mapping: CsvMapping) -> None:
    """A file without a row that has both date and amount is an empty period, unless its rows say otherwise."""
    for parsed in body:
        if parsed.day and not _may_skip(parsed, mapping, []):
            _refuse_no_amount(parsed.row, mapping)
        if parsed.row.cell(mapping.day) and parsed.has_number:
            _refuse_no_day(parsed.row, mapping)
    if body and not mapping.header_line:
        raise UnreadableFile("No line has a date and an amount where they are expected.", line=body[0].row.line)


def _may_skip(parsed: _Parsed, mapping: CsvMapping, warnings: list[str]) -> bool:
    """Whether a record among the dated ones is no booking: a balance brought forward, a head repeated on the next page.

    Raises: UnreadableFile if it looks like a booking all the same.
    """
    if parsed.day:
        columns = (mapping.amount, mapping.money_in, mapping.money_out)
        return not any(parsed.row.cell(column) for column in columns if column is not None)
    if parsed.has_number:
        if parsed.row.cell(mapping.day):
            _refuse_no_day(parsed.row, mapping)
        warnings.append(f"Line {parsed.row.line} has an amount but no date and was left out.")
    return True


class _SignRule:
    """How this file says in and out, decided once for all of its rows."""

    def __init__(self, rows: list[_Parsed], mapping: CsvMapping):
        self.mapping = mapping
        pairs = [(self._letter(parsed.row), parsed.amount or 0) for parsed in rows]
        # Letters speak only where signs do not: if there is a minus, and no out-letter beside a positive amount, the amounts
        # stand as they are. A minus among unsigned amounts with letters is a reversal, and turns its letter round.
        self.already_signed = any(number < 0 for _, number in pairs) and not any(letter < 0 < number for letter, number in pairs)
        self.out_is_negative = all(parsed.money_out <= 0 for parsed in rows if parsed.money_out)

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
        day=parsed.day,
        amount_minor=to_minor(amount, currency),
        payee=" ".join(payee.split()) or "Unnamed",
        memo=" ".join(memo.split()),
        bank_ref=row.cell(mapping.bank_ref),
        value_day=read_day(row.cell(mapping.value_day), mapping.date_order) if mapping.value_day is not None else None,
        file_line=row.line,
    )


def _currency_of(rows: list[_Parsed], mapping: CsvMapping) -> str:
    cells = {parsed.row.cell(mapping.currency) for parsed in rows} if mapping.currency is not None else set()
    codes = {cell.upper() for cell in cells if cell}
    return codes.pop() if len(codes) == 1 and is_currency_code(next(iter(codes))) else ""


def _last_balance(
    core: list[_Parsed], mapping: CsvMapping, rows: list[BroughtRow], currency: str, warnings: list[str]
) -> tuple[int | None, date | None]:
    """The running balance after the latest row, when the column holds one that follows the amounts."""
    if mapping.balance is None or not rows:
        return None, None
    by_line = {row.file_line: row for row in rows}
    said = []
    for parsed in core:
        number = _number(parsed.row, mapping.balance, mapping)
        if number is not None and parsed.row.line in by_line:
            said.append((by_line[parsed.row.line], to_minor(number, currency)))
    if not said:
        return None, None
    forward = sum(b[1] - a[1] == b[0].amount_minor for a, b in pairwise(said))
    backward = sum(a[1] - b[1] == a[0].amount_minor for a, b in pairwise(said))
    if len(said) > 1 and max(forward, backward) < len(said) - 1:
        warnings.append("The file's own balances do not follow from its amounts.")
    newest_last = forward > backward or (forward == backward and said[-1][0].day >= said[0][0].day)
    row, balance_minor = said[-1] if newest_last else said[0]
    return balance_minor, max(r.day for r in rows) if row.day < max(r.day for r in rows) else row.day
