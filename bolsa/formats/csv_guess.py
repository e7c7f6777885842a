"""Guessing what the columns of a bank's CSV mean, from their heads and from what stands in them."""

import hashlib
import itertools
import json
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from bolsa.core.amounts import find_decimal_mark, read_decimal
from bolsa.errors import InvalidInput
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.dates import ORDERS, find_date_order, read_day

SIGN_OUT = {"d", "dr", "db", "dbit", "debit", "débit", "s", "soll", "af", "out", "-", "debet", "cargo", "withdrawal", "ut"}
SIGN_IN = {"c", "cr", "crdt", "credit", "crédit", "h", "haben", "bij", "in", "+", "kredit", "abono", "deposit"}

# Words of a column head, most telling first within a role; a head may be in any of a few languages.
_HEADS: dict[str, str] = {
    "value_day": r"value.?dat|valuta.?dat|^valuta$|wertstellung|rentedatum|valör|date.?valeur|fecha.?valor|^value$",
    "day": r"book|post|transaction.?date|completed|started|date|datum|fecha|buchungstag|dag$|^dato|^data$|^tag$|^when$|^day$",
    "sign": r"dr.?/.?cr|cr.?/.?dr|debit.?/.?credit|credit.?debit|debit.?credit|soll.?/.?haben|^s/h|af.?bij|^sign$|indicator|^d/c$|^c/d$",
    "money_out": r"debit|débit|withdraw|paid.?out|money.?out|^out|soll|belastung|cargo|uttag|spent|payments?.?out|ausgang|afschrijving",
    "money_in": r"credit|crédit|deposit|paid.?in|money.?in|^in$|haben|gutschrift|abono|insättning|received|eingang|bijschrijving",
    "balance": r"balance|saldo|solde|kontostand|running",
    "amount": r"amount|betrag|bedrag|belopp|importe|montant|importo|beløp|umsatz|^sum|^total|^net$",
    "currency": r"currency|währung|waehrung|^ccy|munt|divisa|devise|^valuta$|curr",
    "bank_ref": r"transaction.?id|^id$|unique|fitid|entry.?ref|reference.?(?:no|number)|transactie.?ref|^ref(?:\.|erence)?.?(?:no|nr)",
    "number": r"own.?account|^account$|account.?(?:number|no|nr|#)|konto(?:nummer|nr)?$|rekening|iban|compte|cuenta",
    "payee": r"payee|merchant|counter.?part|beneficiary|recipient|(?<!account.)name|naam|empf|auftraggeber|beguenst|begünst|mottagare|payer|tiers|shop",
    "memo": r"memo|note|purpose|verwendung|mededeling|particular|remark|message|meddelande|description|details|narrative|concepto"
    r"|libell|text|omschrijving|reference|referens|transaction|type|category",
}  # fmt: skip
SAMPLE = 400
MOST_PREAMBLE = 1_000  # lines before the data in which a head is looked for
_AS_PAYEE = re.compile(r"description|details|narrative|concepto|libell|text|omschrijving|transaction$", re.IGNORECASE)


@dataclass(frozen=True)
class CsvMapping:
    """How to read a CSV of one shape: which column is what (counted from 0, None if there is none), and the styles.

    Either `amount` holds a column, with `sign` beside it perhaps, or `money_in` and `money_out` do. `header_line` is the
    line of the heads, 0 if there are none. `flip` turns every sign, for banks that show spending without a minus.
    """

    delimiter: str
    header_line: int = 0
    day: int | None = None
    value_day: int | None = None
    amount: int | None = None
    money_in: int | None = None
    money_out: int | None = None
    sign: int | None = None
    payee: int | None = None
    memo: int | None = None
    more_memo: tuple[int, ...] = ()
    bank_ref: int | None = None
    balance: int | None = None
    currency: int | None = None
    number: int | None = None
    date_order: str = "dmy"
    decimal_mark: str = "."
    flip: bool = False

    def to_json(self) -> str:
        return json.dumps(asdict(self), sort_keys=True)

    @classmethod
    def from_json(cls, text: str) -> "CsvMapping":
        values = json.loads(text)
        return cls(**{**values, "more_memo": tuple(values.get("more_memo", ()))})

    @property
    def is_complete(self) -> bool:
        """Whether a date and an amount can be read."""
        return self.day is not None and {self.amount, self.money_in, self.money_out} != {None}

    def require_complete(self) -> None:
        """Nothing, if a date and an amount can be read. Raises: InvalidInput naming the field."""
        if self.day is None:
            raise InvalidInput("Say which column holds the date.", field="day")
        if self.amount is None and self.money_in is None and self.money_out is None:
            raise InvalidInput("Say which column holds the amount, or the columns for in and out.", field="amount")
        if self.date_order not in ORDERS or self.decimal_mark not in ".,":
            raise InvalidInput("That is no order of dates or no decimal mark.", field="date_order")


@dataclass(frozen=True)
class Guess:
    """A mapping with the sentences that say where it could be otherwise, and the shape it is remembered by."""

    mapping: CsvMapping
    doubts: tuple[str, ...]
    shape: str


def guess_mapping(table: CsvTable) -> Guess:
    """The likeliest mapping of the table. Columns that cannot be told stay None: the page asks."""
    data = _data_rows(table)
    header = _header_row(table, data)
    if not data:
        mapping = replace(_by_heads(header, {}, table), header_line=header.line if header else 0)
        return Guess(mapping, (), shape_of(table, header))
    width = max(len(row.cells) for row in (*data, *([header] if header else [])))
    columns = [[row.cell(i) for row in data if row.cell(i)] for i in range(width)]
    kinds = {i: _kind_of(cells) for i, cells in enumerate(columns)}
    mapping = _by_heads(header, kinds, table)
    mapping = _by_content(mapping, kinds, columns, data)
    order, order_sure = find_date_order(columns[mapping.day]) if mapping.day is not None else ("dmy", True)
    numbers = [columns[i] for i in (mapping.amount, mapping.money_in, mapping.money_out, mapping.balance) if i is not None]
    mark, mark_sure = find_decimal_mark([cell for cells in numbers for cell in cells])
    doubts = []
    if not order_sure:
        doubts.append("Day and month could be the other way round in these dates.")
    if not mark_sure:
        mark, doubt = _mark_beside_groups(numbers, table.delimiter)
        doubts.append(doubt)
    mapping = replace(mapping, date_order=order, decimal_mark=mark, header_line=header.line if header else 0)
    return Guess(mapping, tuple(doubts), shape_of(table, header))


def _mark_beside_groups(numbers: list[list[str]], delimiter: str) -> tuple[str, str]:
    """The decimal mark where every mark stands before three digits, and what is doubtful: banks write no thousandths, so the
    mark that stands there groups. Where both stand, semicolons between the cells speak for decimal commas."""
    standing = {c for cells in numbers for cell in cells for c in ".," if c in cell}
    groups = standing.pop() if len(standing) == 1 else "." if delimiter == ";" else ","
    name = "point" if groups == "." else "comma"
    return (
        "," if groups == "." else ".",
        f"The {name} in these amounts is read as grouping thousands; it could be the decimal mark.",
    )


def shape_of(table: CsvTable, header: CsvRow | None) -> str:
    """A digest of what stays the same from one file of a bank to the next: delimiter, heads, or else the width."""
    heads = [cell.casefold() for cell in header.cells] if header else [str(table.width)]
    return hashlib.sha256("\x1f".join([table.delimiter, *heads]).encode()).hexdigest()[:32]


def _is_number(cell: str) -> bool:
    return read_decimal(cell, ".") is not None or read_decimal(cell, ",") is not None


def _is_day(cell: str) -> bool:
    return any(read_day(cell, order) for order in ORDERS) and not re.fullmatch(r"[+-]?\d+[.,]\d+", cell.strip())


def _data_rows(table: CsvTable) -> list[CsvRow]:
    """The records that have a date and a number in different cells, and about the usual number of cells."""
    least = max(2, table.width - 2)
    found = []
    for row in _sample(table.rows):
        if len(row.cells) < least:
            continue
        days = {i for i, cell in enumerate(row.cells) if cell and _is_day(cell)}
        numbers = {i for i, cell in enumerate(row.cells) if cell and _is_number(cell)}
        if (days and numbers - days) or (len(days) > 1 and len(row.cells) > 2 and numbers):
            found.append(row)
    return found


def _sample(rows: Sequence[CsvRow]) -> Sequence[CsvRow]:
    """The first rows, and of a long file some spread over the rest: enough to see every order of dates that is in use."""
    if len(rows) <= 2 * SAMPLE:
        return rows
    return [*rows[:SAMPLE], *rows[SAMPLE :: len(rows) // SAMPLE]]


def _header_row(table: CsvTable, data: list[CsvRow]) -> CsvRow | None:
    """The last record before the data that is as wide and holds words only; without data, the first that reads as heads."""
    before = list(itertools.takewhile(lambda row: not data or row.line < data[0].line, table.rows[:MOST_PREAMBLE]))
    for row in reversed(before) if data else before:
        filled = [cell for cell in row.cells if cell]
        wide = len(row.cells) >= max(2, table.width - 2) and len(filled) >= min(2, len(row.cells))
        if wide and not any(_is_number(cell) or _is_day(cell) for cell in filled) and _known_heads(filled):
            return row
    return None


def _known_heads(cells: Sequence[str]) -> int:
    return sum(any(re.search(p, cell.casefold()) for p in _HEADS.values()) for cell in cells)


def _kind_of(cells: list[str]) -> str:
    """What a column's cells are, most of them: "day", "number", "sign", "currency", "text" or "empty"."""
    if not cells:
        return "empty"

    def most(test) -> bool:
        return sum(map(bool, map(test, cells))) >= 0.9 * len(cells)

    if most(_is_day):
        return "day"
    if most(lambda c: c.casefold() in SIGN_OUT | SIGN_IN):
        return "sign"
    if most(lambda c: re.fullmatch(r"[A-Z]{3}", c)):
        return "currency"
    if most(_is_number):
        return "number"
    return "text"


_ROLE_KINDS = {
    "day": {"day"}, "value_day": {"day"}, "amount": {"number"}, "money_in": {"number", "empty"},
    "money_out": {"number", "empty"}, "balance": {"number"}, "sign": {"sign"}, "currency": {"currency"},
    "bank_ref": {"text", "number"}, "number": {"text", "number"}, "payee": {"text", "number"}, "memo": {"text", "number"},
}  # fmt: skip


def _by_heads(header: CsvRow | None, kinds: dict[int, str], table: CsvTable) -> CsvMapping:
    """The roles the heads name, where the cells below agree; a role goes to the first column that fits."""
    roles: dict[str, int] = {}
    taken: set[int] = set()
    heads = [cell.casefold() for cell in header.cells] if header else []
    for role, pattern in _HEADS.items():
        for i, head in enumerate(heads):
            fits = kinds.get(i, "empty") in _ROLE_KINDS[role] or not kinds
            if i not in taken and role not in roles and fits and re.search(pattern, head):
                roles[role] = i
                taken.add(i)
    # A memo column named "description" is the payee where no other column is.
    if "payee" not in roles and "memo" in roles:
        described = [i for i, head in enumerate(heads) if _AS_PAYEE.search(head) and (i not in taken or i == roles["memo"])]
        roles["payee"] = described[0] if described else roles["memo"]
        if roles["payee"] == roles["memo"]:
            del roles["memo"]
    if "amount" in roles:  # in and out beside one signed amount are repetitions of it
        roles.pop("money_in", None)
        roles.pop("money_out", None)
    found: dict[str, Any] = {**roles}
    return CsvMapping(table.delimiter, **found)


def _by_content(mapping: CsvMapping, kinds: dict[int, str], columns: list[list[str]], data: list[CsvRow]) -> CsvMapping:
    """Fills the roles that the heads left open from what stands in the columns."""
    days = [i for i, kind in kinds.items() if kind == "day"]
    numbers = [i for i, kind in kinds.items() if kind == "number" and i not in (mapping.bank_ref, mapping.number)]
    if mapping.day is None and days:
        free = [i for i in days if i != mapping.value_day] or days
        mapping = replace(mapping, day=free[0])
    if mapping.sign is None:
        mapping = replace(mapping, sign=next((i for i, kind in kinds.items() if kind == "sign"), None))
    if mapping.currency is None:
        mapping = replace(mapping, currency=next((i for i, kind in kinds.items() if kind == "currency"), None))
    if mapping.amount is None and mapping.money_in is None and mapping.money_out is None:
        mapping = _find_amount(mapping, numbers, columns, data)
    if mapping.amount is not None and mapping.money_in is None and mapping.balance is None:
        rest = [i for i in numbers if i != mapping.amount]
        mapping = replace(mapping, balance=next((i for i in rest if _runs_along(data, i, mapping.amount)), None))
    texts = [
        i
        for i, kind in kinds.items()
        if kind == "text" and i not in (mapping.payee, mapping.memo, mapping.bank_ref, mapping.number)
    ]
    texts.sort(key=lambda i: -len(set(columns[i])) * _mean_length(columns[i]))
    if mapping.payee is None and texts:
        mapping = replace(mapping, payee=texts.pop(0))
    if mapping.memo is None and texts:
        mapping = replace(mapping, memo=texts.pop(0))
    return replace(mapping, more_memo=tuple(sorted(i for i in texts if _mean_length(columns[i]) >= 3))[:3])


def _find_amount(mapping: CsvMapping, numbers: list[int], columns: list[list[str]], data: list[CsvRow]) -> CsvMapping:
    free = [i for i in numbers if i not in (mapping.balance, mapping.payee, mapping.memo)]
    for i, j in ((i, j) for i in free for j in free if i < j):
        if all(bool(_value(row.cell(i))) != bool(_value(row.cell(j))) for row in data):
            return replace(mapping, money_out=i, money_in=j)
    for amount in free:
        if any(_runs_along(data, other, amount) for other in numbers if other != amount):
            return replace(mapping, amount=amount)
    with_decimals = [i for i in free if any("." in cell or "," in cell for cell in columns[i])]
    chosen = next(iter(with_decimals or free), None)
    return replace(mapping, amount=chosen)


def _value(cell: str):
    number = read_decimal(cell, "," if re.search(r",\d{1,2}\D*$", cell) else ".")
    return number or 0


def _runs_along(data: list[CsvRow], balance: int, amount: int) -> bool:
    """Whether one column is the running balance of the other, oldest first or newest first, in most rows."""
    if len(data) < 3:
        return False
    values = [(_value(row.cell(balance)), abs(_value(row.cell(amount)))) for row in data]
    steps = list(itertools.pairwise(values))
    rising = sum(abs(b[0] - a[0]) == b[1] for a, b in steps)
    falling = sum(abs(b[0] - a[0]) == a[1] for a, b in steps)
    return max(rising, falling) >= 0.8 * len(steps)


def _mean_length(cells: list[str]) -> float:
    return sum(map(len, cells)) / len(cells) if cells else 0
