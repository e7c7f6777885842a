"""Reading a bank's CSV by a mapping: rows of one account, or the line and column that do not fit."""

import itertools
from collections import Counter
from datetime import date
from decimal import Decimal

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
    body = [row for row in table.rows if row.line > mapping.header_line]
    dated = [i for i, row in enumerate(body) if _day_in(row, mapping) and _has_number(row, mapping)]
    if not dated and any(_day_in(row, mapping) for row in body):
        row = next(row for row in body if _day_in(row, mapping))
        column = mapping.amount if mapping.amount is not None else mapping.money_out or mapping.money_in or 0
        raise UnreadableFile("There is no amount in the column chosen.", line=row.line, column=column + 1, found=row.cell(column))
    if not dated:
        _require_plain_emptiness(body, mapping)
        return BroughtStatement(())
    core = body[dated[0] : dated[-1] + 1]
    currency = _currency_of(core, mapping) or default_currency
    signs = _SignRule(core, mapping)
    warnings: list[str] = []
    rows = []
    for row in core:
        day = _day_in(row, mapping)
        if day is None:
            _require_skippable(row, mapping, warnings)
            continue
        rows.append(_row(row, day, mapping, signs, currency))
    balance_minor, balance_day = _last_balance(core, mapping, rows, currency, warnings)
    number = Counter(row.cell(mapping.number) for row in core if row.cell(mapping.number)).most_common(2)
    return BroughtStatement(
        rows=tuple(rows),
        number=number[0][0].replace(" ", "") if len(number) == 1 else "",
        currency=_currency_of(core, mapping),
        balance_minor=balance_minor,
        balance_day=balance_day,
        warnings=tuple(warnings),
    )


def _day_in(row: CsvRow, mapping: CsvMapping) -> date | None:
    return read_day(row.cell(mapping.day), mapping.date_order)


def _has_number(row: CsvRow, mapping: CsvMapping) -> bool:
    return any(_number(row, column, mapping) is not None for column in (mapping.amount, mapping.money_in, mapping.money_out))


def _number(row: CsvRow, column: int | None, mapping: CsvMapping) -> Decimal | None:
    return read_decimal(row.cell(column), mapping.decimal_mark) if column is not None else None


def _require_plain_emptiness(body: list[CsvRow], mapping: CsvMapping) -> None:
    """A file without any dated row is an empty period, unless its rows hold something where the date should be."""
    for row in body:
        if row.cell(mapping.day) and _has_number(row, mapping):
            text = row.cell(mapping.day)
            raise UnreadableFile("This is no date in the order chosen.", line=row.line, column=mapping.day + 1, found=text)
    if body and not mapping.header_line:
        raise UnreadableFile("No line has a date and an amount where they are expected.", line=body[0].line)


def _require_skippable(row: CsvRow, mapping: CsvMapping, warnings: list[str]) -> None:
    if not _has_number(row, mapping):
        return
    if row.cell(mapping.day):
        text = row.cell(mapping.day)
        raise UnreadableFile("This is no date in the order chosen.", line=row.line, column=mapping.day + 1, found=text)
    warnings.append(f"Line {row.line} has an amount but no date and was left out.")


class _SignRule:
    """How this file says in and out, decided once for all of its rows."""

    def __init__(self, rows: list[CsvRow], mapping: CsvMapping):
        self.mapping = mapping
        pairs = [(self._letter(row), _number(row, mapping.amount, mapping) or 0) for row in rows]
        # With letters beside signed amounts: if every sign agrees with its letter, the amounts stand as they are.
        self.already_signed = all(letter * number >= 0 for letter, number in pairs if letter)
        self.any_minus = any(number < 0 for _, number in pairs)
        outs = [_number(row, mapping.money_out, mapping) for row in rows]
        self.out_is_negative = all(number <= 0 for number in outs if number)

    def _letter(self, row: CsvRow) -> int:
        text = row.cell(self.mapping.sign).casefold() if self.mapping.sign is not None else ""
        return -1 if text in SIGN_OUT else 1 if text in SIGN_IN else 0

    def amount(self, row: CsvRow) -> Decimal | None:
        """The row's amount from the account's side; None if it has none."""
        mapping = self.mapping
        if mapping.amount is None:
            into, out = (_number(row, column, mapping) for column in (mapping.money_in, mapping.money_out))
            if into is None and out is None:
                return None
            return (into or Decimal(0)) + (out or Decimal(0)) * (1 if self.out_is_negative else -1)
        number = _number(row, mapping.amount, mapping)
        letter = self._letter(row)
        if number is not None and letter and not (self.any_minus and self.already_signed):
            number *= letter
        return -number if number is not None and mapping.flip else number


def _row(row: CsvRow, day: date, mapping: CsvMapping, signs: _SignRule, currency: str) -> BroughtRow:
    amount = signs.amount(row)
    if amount is None:
        column = mapping.amount if mapping.amount is not None else mapping.money_out or mapping.money_in or 0
        raise UnreadableFile("This is no amount.", line=row.line, column=column + 1, found=row.cell(column))
    payee = row.cell(mapping.payee)
    memo = " ".join(filter(None, (row.cell(i) for i in (mapping.memo, *mapping.more_memo) if i is not None)))
    if not payee:
        payee, memo = memo, ""
    return BroughtRow(
        day=day,
        amount_minor=to_minor(amount, currency),
        payee=" ".join(payee.split()) or "Unnamed",
        memo=" ".join(memo.split()),
        bank_ref=row.cell(mapping.bank_ref),
        value_day=read_day(row.cell(mapping.value_day), mapping.date_order) if mapping.value_day is not None else None,
        file_line=row.line,
    )


def _currency_of(rows: list[CsvRow], mapping: CsvMapping) -> str:
    codes = {row.cell(mapping.currency).upper() for row in rows if row.cell(mapping.currency)}
    return codes.pop() if len(codes) == 1 and is_currency_code(next(iter(codes))) else ""


def _last_balance(
    core: list[CsvRow], mapping: CsvMapping, rows: list[BroughtRow], currency: str, warnings: list[str]
) -> tuple[int | None, date | None]:
    """The running balance after the latest row, when the column holds one that follows the amounts."""
    if mapping.balance is None or not rows:
        return None, None
    by_line = {row.file_line: row for row in rows}
    said = []
    for row in core:
        number = _number(row, mapping.balance, mapping)
        if number is not None and row.line in by_line:
            said.append((by_line[row.line], to_minor(number, currency)))
    if not said:
        return None, None
    forward = sum(b[1] - a[1] == b[0].amount_minor for a, b in itertools.pairwise(said))
    backward = sum(a[1] - b[1] == a[0].amount_minor for a, b in itertools.pairwise(said))
    if len(said) > 1 and max(forward, backward) < len(said) - 1:
        warnings.append("The file's own balances do not follow from its amounts.")
    newest_last = forward > backward or (forward == backward and said[-1][0].day >= said[0][0].day)
    row, balance_minor = said[-1] if newest_last else said[0]
    return balance_minor, max(r.day for r in rows) if row.day < max(r.day for r in rows) else row.day
