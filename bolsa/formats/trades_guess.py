"""Guessing what the columns of a broker's table mean: trades one below the other, or what was held before with its cost."""

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace

from bolsa.core.amounts import find_decimal_mark, read_decimal
from bolsa.errors import InvalidInput
from bolsa.formats.csv_guess import shape_of
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.dates import ORDERS, find_date_order, read_day

TRADES, HELD = "trades", "held"
CASH, LEFT_OUT = "cash", "left out"  # what a row may be beside the kinds of trade: money paid in or out, or nothing for us

# Words of a column head, most telling first within a role; a head may be in any of a few languages.
HEADS: dict[str, str] = {
    "code": r"isin|wkn|sedol|symbol|ticker|security.?(?:id|code|number)|instrument.?(?:id|code)|^code$|valor(?:en)?.?n",
    "basis_day": r"acquir|held.?since|since|opened|purchase.?date|date.?of.?purchase|kaufdatum|anskaffningsdatum|date.?d.?achat",
    "day": r"trade.?date|^date|date$|datum|fecha|dato|^day$|^tag$|as.?of|stichtag",
    "kind": r"^type|type?$|action|aktion|vorgang|activity|transaction(?!.?(?:id|date|ref|no|number))|^what|art$|^typ|händelse"
    r"|operation|operación|geschäft",
    "withheld": r"withh|\btax|steuer|källskatt|retenue|retención|belasting",
    "fee": r"fee|commission|courtage|gebühr|charge|brokerage|kosten$|provision|comisi|frais",
    "cost": r"cost|book.?value|einstand|anskaffning|paid.?for|purchase.?(?:value|price.?total)|prix.?de.?revient|coste",
    "price": r"price|kurs|rate|course|cours|precio|prijs|nav",
    "gross": r"gross|before.?fee|brutto|bruto|brut\b",
    "total": r"total|net(?:to)?\b|amount|value|betrag|belopp|bedrag|montant|importe|proceeds|settle",
    "shares": r"shares|quantity|units|qty|anzahl|stück|antal|aantal|nombre|cantidad|títulos|nominal|holding.?(?:size|number)",
    "currency": r"currency|währung|waehrung|^ccy|valuta|devise|divisa|munt",
    "number": r"account|konto|depot|rekening|compte|cuenta|portfolio.?(?:no|number|id)",
    "bank_ref": r"reference|order|contract|^id$|transaction.?(?:id|ref|no|number)|confirmation.?(?:no|number)|ordre|auftrag",
    "name": r"security|instrument|name|fund|stock|holding|product|wertpapier|bezeichnung|värdepapper|titre|valor$|fondo|produkt",
    "memo": r"note|memo|remark|comment|description|details|text",
}  # fmt: skip
NUMBERS = {"shares", "price", "total", "gross", "fee", "withheld", "cost"}
_TRADES_ONLY, _HELD_ONLY = {"kind", "total", "gross", "fee", "withheld", "bank_ref"}, {"cost", "basis_day"}

# Words of a row's kind, the most telling first: "dividend reinvested" is no dividend, "capital returned" no sale.
_KINDS: tuple[tuple[str, str], ...] = (
    ("reinvest", r"re-?invest|drip|wiederanlage|återinvest"),
    ("return", r"return.?of.?capital|capital.?return|kapitalrück|återbetalning.?av.?kapital"),
    ("lieu", r"cash.?in.?lieu|fraction|spitzen"),
    ("split", r"split"),
    ("dividend", r"dividend|distribution|interest|coupon|ausschüttung|utdelning|zins|ränta|dividende|intér"),
    ("in", r"transfer.?in|transferred.?in|received|delivery.?in|einlieferung|einbuchung|inleverans|opening"),
    ("out", r"transfer.?out|transferred.?out|delivered|delivery.?out|auslieferung|ausbuchung|utleverans"),
    (CASH, r"deposit|withdraw|contribution|paid.?(?:in|out)|einzahlung|auszahlung|insättning|uttag|storting|versement|retrait"
           r"|ingreso|retirada|cash.?(?:in|out)$|transfer"),
    ("sell", r"sell|sold|sale|redem|verkauf|sälj|vente|venta|verkoop"),
    ("buy", r"buy|bought|purchase|subscri|kauf|köp|achat|compra|koop|invest"),
    ("fee", r"fee|charge|custody|gebühr|avgift|frais|comisi|kosten"),
)  # fmt: skip
MOST_WORDS = 40  # different words for what happened; with more it is no such column


@dataclass(frozen=True)
class TradeMapping:
    """How to read a broker's table of one shape: `holds` says whether it is of trades or of what was held before; which column is
    what (counted from 0, None if there is none); `kinds` says by word what a row is: a kind of trade, CASH or LEFT_OUT.

    `total` counts the fee in, `gross` does not. `header_line` is the line of the heads.
    """

    delimiter: str
    holds: str = TRADES
    header_line: int = 0
    day: int | None = None
    kind: int | None = None
    name: int | None = None
    code: int | None = None
    shares: int | None = None
    price: int | None = None
    total: int | None = None
    gross: int | None = None
    fee: int | None = None
    withheld: int | None = None
    cost: int | None = None
    basis_day: int | None = None
    currency: int | None = None
    number: int | None = None
    bank_ref: int | None = None
    memo: int | None = None
    date_order: str = "dmy"
    decimal_mark: str = "."
    kinds: Mapping[str, str] = field(default_factory=dict)

    def to_json(self) -> str:
        return json.dumps(asdict(self), sort_keys=True)

    @classmethod
    def from_json(cls, text: str) -> "TradeMapping":
        return cls(**json.loads(text))

    def require_complete(self) -> None:
        """Nothing, if trades can be read. Raises: InvalidInput naming the field."""
        if self.name is None and self.code is None:
            raise InvalidInput("Say which column holds the security’s name or code.", field="name")
        if self.shares is None and (self.kind is None or self.holds == HELD):
            raise InvalidInput("Say which column holds the number of shares.", field="shares")
        if self.holds == TRADES and self.day is None:
            raise InvalidInput("Say which column holds the day.", field="day")
        if self.holds == TRADES and self.total is None and self.gross is None and self.price is None:
            raise InvalidInput("Say which column holds what was paid or received, or the price.", field="total")
        if self.date_order not in ORDERS or self.decimal_mark not in ".,":
            raise InvalidInput("That is no order of dates or no decimal mark.", field="date_order")

    @property
    def unclear(self) -> tuple[str, ...]:
        """The words for what happened of which nobody has said what they mean."""
        return tuple(word for word, kind in self.kinds.items() if not kind)


@dataclass(frozen=True)
class TradeGuess:
    """A mapping with the sentences that say where it could be otherwise, and the shape it is remembered by."""

    mapping: TradeMapping
    doubts: tuple[str, ...]
    shape: str


def looks_like_trades(table: CsvTable) -> bool:
    """Whether a table is a broker's: one line heads a column of securities and one of shares, and numbers stand below."""
    return _find_heads(table) is not None


def guess_trades(table: CsvTable, holds: str = "") -> TradeGuess:
    """The likeliest mapping of a broker's table; `holds` is "" where nobody has said which of the two it is. Columns that cannot
    be told stay None: the page asks."""
    header = _find_heads(table) or next(iter(table.rows))
    roles = _roles(header, holds)
    if not holds:
        holds = HELD if roles.keys() & _HELD_ONLY and not roles.keys() & {"kind", "total", "gross"} else TRADES
        roles = _roles(header, holds)
    rows = [row for row in table.rows[:2_000] if row.line > header.line]
    days = [row.cell(roles[role]) for role in ("day", "basis_day") if role in roles for row in rows]
    order, order_sure = find_date_order([day for day in days if day])
    mark, mark_sure = find_decimal_mark([row.cell(roles[role]) for role in NUMBERS & roles.keys() for row in rows])
    if not mark_sure and table.delimiter == ";":
        mark = ","
    mapping = TradeMapping(table.delimiter, holds, header.line, date_order=order, decimal_mark=mark)
    mapping = with_kinds(replace(mapping, **roles), rows)  # type: ignore[arg-type]
    doubts = [] if order_sure or not days else ["Day and month could be the other way round in these dates."]
    doubts += [] if mark_sure else ["The point in these amounts could also group thousands."]
    return TradeGuess(mapping, tuple(doubts), shape_of(table, header))


def with_kinds(mapping: TradeMapping, rows: Sequence[CsvRow]) -> TradeMapping:
    """The mapping with every word of its column of kinds: what was said of it before, else the likeliest, else "".

    What was said of other words stays for the next file.
    """
    if mapping.kind is None or mapping.holds != TRADES:
        return replace(mapping, kinds={})
    words = dict.fromkeys(row.cell(mapping.kind).casefold() for row in rows if row.line > mapping.header_line)
    named = [word for word in words if word][:MOST_WORDS]
    said = {word: kind for word, kind in mapping.kinds.items() if kind}
    return replace(mapping, kinds=said | {word: said.get(word) or kind_of(word) for word in named})


def kind_of(word: str) -> str:
    """What a word says that happened, "" if it cannot be told."""
    return next((kind for kind, pattern in _KINDS if re.search(pattern, word.casefold())), "")


def _find_heads(table: CsvTable) -> CsvRow | None:
    """The first line that heads a security and shares, above a line with a number there."""
    rows = table.rows[:60]
    for i, row in enumerate(rows):
        roles = _roles(row, "")
        if "shares" not in roles or not roles.keys() & {"name", "code"}:
            continue
        if any(_is_number(below.cell(roles["shares"])) for below in rows[i + 1 : i + 40]):
            return row
    return None


def _is_number(cell: str) -> bool:
    return read_decimal(cell, ".") is not None or read_decimal(cell, ",") is not None


def _roles(header: CsvRow, holds: str) -> dict[str, int]:
    """The roles the heads name; a role goes to the first column that fits, a column to the first role."""
    left_out = {TRADES: _HELD_ONLY, HELD: _TRADES_ONLY}.get(holds, set())
    roles: dict[str, int] = {}
    for role, pattern in HEADS.items():
        if role in left_out:
            continue
        for i, head in enumerate(header.cells):
            if i not in roles.values() and read_day(head, "ymd") is None and re.search(pattern, head.casefold()):
                roles[role] = i
                break
    return roles
