"""Reading a broker's table by a mapping: trades, distributions, money paid in or out; or what was held before, with its cost."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

from bolsa.core.amounts import read_decimal
from bolsa.core.bringing.rows import BroughtMove, BroughtRow, BroughtShares, BroughtStatement
from bolsa.core.holdings.shares import MOST_SHARES
from bolsa.core.holdings.trades import KIND_BY_KEY, total_of
from bolsa.core.money import E8, is_currency_code, to_minor
from bolsa.errors import InvalidInput, UnreadableFile
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.dates import read_day
from bolsa.formats.trades_guess import CASH, HELD, LEFT_OUT, TradeMapping

PARTS_OFF = 100  # shares × price may part from the total by one part in so many before it is told
MOST_TOLD = 5  # lines named in one sentence
_CODE = re.compile(r"\b[A-Z]{3}\b")
_PAID_OUT = re.compile(r"withdraw|paid.?out|auszahlung|uttag|retrait|retirada|cash.?out|transfer.?out|transfer.?to")


@dataclass
class _Told:
    """What was odd, by sentence: the lines it is true of."""

    lines: dict[str, list[int]] = field(default_factory=dict)

    def note(self, sentence: str, line: int) -> None:
        """Takes a line of which a sentence is true."""
        self.lines.setdefault(sentence, []).append(line)

    @property
    def sentences(self) -> tuple[str, ...]:
        return tuple(f"{_lines_in_words(lines)}: {sentence}" for sentence, lines in self.lines.items())


def _lines_in_words(lines: list[int]) -> str:
    named = ", ".join(map(str, lines[:MOST_TOLD]))
    more = f" and {len(lines) - MOST_TOLD} more" if len(lines) > MOST_TOLD else ""
    return f"{'Line' if len(lines) == 1 else 'Lines'} {named}{more}"


def read_trades(table: CsvTable, mapping: TradeMapping, currency: str, since: date) -> BroughtStatement:
    """The trades and cash rows of a broker's table, in the account's currency, in the file's order; of what was held before, one
    opening position a row, from the day it was acquired, `since` at the earliest. Nothing is left out without a word.

    Raises: InvalidInput where the mapping lacks something or a word's meaning; UnreadableFile for a row that does not fit.
    """
    mapping.require_complete()
    if mapping.unclear:
        raise InvalidInput(f"Say what “{mapping.unclear[0]}” means in the column of what happened.", field="kinds")
    told, moves, rows, numbers = _Told(), [], [], set()
    for row in table.rows:
        if row.line <= mapping.header_line or not _says_something(row, mapping, told):
            continue
        parsed = _Parsed(row, mapping, currency)
        numbers.add(row.cell(mapping.number))
        if mapping.holds == HELD:
            moves.append(_held(parsed, since, told))
        elif parsed.kind == CASH:
            rows.append(parsed.cash_row())
        elif parsed.kind == LEFT_OUT:
            told.note("left out, as what it says is chosen to be.", row.line)
        else:
            moves += _moves(parsed, told)
    if not moves and not rows:
        raise UnreadableFile("No line has shares where they are expected.", line=mapping.header_line + 1)
    if mapping.holds != HELD and mapping.kind is None and all(move.kind != "sell" for move in moves):
        told.note("no column says what happened and no shares are below zero, so all are taken as bought.", mapping.header_line)
    number = next(iter(numbers)).replace(" ", "") if len(numbers) == 1 else ""
    return BroughtStatement(tuple(rows), number, "INVESTMENT", warnings=told.sentences, shares=BroughtShares(tuple(moves)))


def currencies_of(table: CsvTable, mapping: TradeMapping) -> set[str]:
    """The currencies that stand in the table."""
    return {code for row in table.rows if is_currency_code(code := row.cell(mapping.currency).upper())}


def _says_something(row: CsvRow, mapping: TradeMapping, told: _Told) -> bool:
    """Whether a line is one of the table's: sums beneath it name no security, heads repeat on the next page."""
    columns = (mapping.shares, mapping.total, mapping.gross, mapping.price, mapping.cost)
    has_number = any(read_decimal(row.cell(c), mapping.decimal_mark) is not None for c in columns if c is not None)
    if not has_number:
        return False
    dated = mapping.holds == HELD or bool(row.cell(mapping.day))
    named = bool(row.cell(mapping.name) or row.cell(mapping.code))
    if (mapping.holds == HELD and not named) or not dated:
        told.note("has figures but no " + ("security" if dated else "day") + ", and was left out.", row.line)
        return False
    return True


class _Parsed:
    """A record's cells, read as its mapping says."""

    def __init__(self, row: CsvRow, mapping: TradeMapping, currency: str):
        self.row, self.mapping, self.currency = row, mapping, currency
        self._require_currency(row.cell(mapping.currency).upper())

    def number(self, role: str) -> Decimal | None:
        """The number in a role's column, None if it is empty. Raises: UnreadableFile for anything else."""
        column = getattr(self.mapping, role)
        text = self.row.cell(column)
        if not text or text in ("-", "–", "—"):
            return None
        found = read_decimal(text, self.mapping.decimal_mark)
        if found is None:
            raise UnreadableFile("This is no number.", line=self.row.line, column=column + 1, found=text)
        return found

    def _require_currency(self, said: str) -> None:
        if is_currency_code(said) and said != self.currency:
            raise InvalidInput(
                f"Line {self.row.line} is in {said}, and the account is kept in {self.currency}. Choose another account, or say"
                f" which column holds the amounts in {self.currency} and leave the column of the currency out.",
                field="currency",
            )

    def minor(self, role: str) -> int | None:
        """The amount in a role's column, in minor units of the account's currency. Raises: InvalidInput if it says another."""
        for code in _CODE.findall(self.row.cell(getattr(self.mapping, role))):
            self._require_currency(code)
        found = self.number(role)
        return to_minor(found, self.currency) if found is not None else None

    def day(self, role: str) -> date | None:
        """The day in a role's column, None if it is empty. Raises: UnreadableFile for anything else."""
        column = getattr(self.mapping, role)
        text = self.row.cell(column)
        found = read_day(text, self.mapping.date_order)
        if text and found is None:
            raise UnreadableFile("This is no date in the order chosen.", line=self.row.line, column=column + 1, found=text)
        return found

    @property
    def shares_e8(self) -> int:
        found = self.number("shares") or Decimal(0)
        if abs(found) > MOST_SHARES:
            raise UnreadableFile("The file speaks of more than a billion shares.", line=self.row.line, found=str(found))
        return int((found * E8).quantize(Decimal(1), rounding=ROUND_HALF_UP))

    @property
    def kind(self) -> str:
        """What the row says that happened; without a column for it, what its numbers say."""
        has_security = bool(self.row.cell(self.mapping.name) or self.row.cell(self.mapping.code))
        if self.mapping.kind is not None and self.word:
            said = self.mapping.kinds.get(self.word, "")
            if not said:
                raise InvalidInput(f"Line {self.row.line}: nobody says what “{self.word}” means.", field="kinds")
            return CASH if said in ("dividend", "fee") and not has_security else said  # interest, or a fee, on the account
        if self.shares_e8:
            return "buy" if self.shares_e8 > 0 else "sell"
        return "dividend" if has_security else CASH

    @property
    def word(self) -> str:
        return self.row.cell(self.mapping.kind).casefold()

    @property
    def security(self) -> tuple[str, str]:
        """What the file calls the security: code and name."""
        code, name = self.row.cell(self.mapping.code), self.row.cell(self.mapping.name)
        if not (code or name):
            raise UnreadableFile("This line names no security.", line=self.row.line)
        return code, name or code

    def cash_row(self) -> BroughtRow:
        """Money paid in or out, as a row of the account. Raises: UnreadableFile if no amount stands there."""
        amount = next((found for found in (self.minor("total"), self.minor("gross")) if found), None)
        day = self.day("day")
        if amount is None or day is None:
            raise UnreadableFile("Money was paid in or out here, and no amount stands there.", line=self.row.line)
        if amount > 0 and (_PAID_OUT.search(self.word) or self.mapping.kinds.get(self.word) == "fee"):
            amount = -amount
        words = self.row.cell(self.mapping.kind) or "Paid in or out"
        return BroughtRow(day, amount, words, self.row.cell(self.mapping.memo), self.reference, file_line=self.row.line)

    @property
    def reference(self) -> str:
        return self.row.cell(self.mapping.bank_ref)[:80]


def _held(parsed: _Parsed, since: date, told: _Told) -> BroughtMove:
    """What was held before, with what it had cost."""
    code, name = parsed.security
    acquired, cost = parsed.day("basis_day"), parsed.minor("cost")
    day = max(acquired, since) if acquired else parsed.day("day") or since
    if cost is None:
        told.note("says no cost; Holdings will ask for it.", parsed.row.line)
    if parsed.shares_e8 <= 0:
        raise UnreadableFile("What is held is above zero.", line=parsed.row.line, found=parsed.row.cell(parsed.mapping.shares))
    return BroughtMove(
        code, name, day, "opening", parsed.shares_e8, -abs(cost) if cost is not None else None, "as the file says",
        parsed.reference, basis_day=acquired if acquired and acquired <= day else None,
    )  # fmt: skip


def _moves(parsed: _Parsed, told: _Told) -> Iterator[BroughtMove]:
    """The trade of a row, or none where its signs say that it was cancelled."""
    kind, row = KIND_BY_KEY[parsed.kind], parsed.row
    code, name = parsed.security
    shares, day = parsed.shares_e8, parsed.day("day")
    if day is None:
        raise UnreadableFile("This trade has no day.", line=row.line)
    if "shares" in kind.asks and not shares:
        raise UnreadableFile(f"Shares were {kind.words}, and no number of them stands there.", line=row.line)
    if kind.shares_way > 0 and shares < 0:
        told.note(
            f"shares {kind.words} below zero, which looks cancelled; left out with the trade it cancels, if that is here.",
            row.line,
        )
        return
    if kind.key != "split":
        shares = abs(shares) * kind.shares_way  # a distribution says of how many shares it is; they do not move
    fee = abs(parsed.minor("fee") or 0) if kind.key in ("buy", "sell") else 0
    withheld = abs(parsed.minor("withheld") or 0) or None
    total = _total(parsed, kind.key, shares, fee, withheld or 0, told)
    yield BroughtMove(
        code, name, day, kind.key, shares, total, row.cell(parsed.mapping.memo)[:200] or _reason(kind.key), parsed.reference, fee,
        withheld if kind.key in ("dividend", "reinvest") else None,
    )  # fmt: skip


def _reason(kind: str) -> str:
    return "as the file says" if kind in ("in", "out", "split") else ""


def _total(parsed: _Parsed, kind: str, shares: int, fee: int, withheld: int, told: _Told) -> int | None:
    """What was paid or received, the fee counted in, with the sign of its kind; None where none moves or nobody says.

    Raises: UnreadableFile where the kind needs one and nothing gives it.
    """
    way = {"buy": -1, "reinvest": -1, "in": -1, "fee": -1, "sell": 1, "lieu": 1}.get(kind, 0)
    total, gross, price = parsed.minor("total"), parsed.minor("gross"), parsed.number("price")
    if total is None and gross is not None:
        less = {"buy": -fee, "sell": fee}.get(kind, withheld)
        total = abs(gross) - less if gross >= 0 or way else gross + less
    reckoned = None
    if price and shares and kind in ("buy", "sell", "reinvest"):
        price_e8 = int((abs(price) * E8).quantize(Decimal(1), rounding=ROUND_HALF_UP))
        reckoned = total_of(kind, shares, price_e8, fee, parsed.currency, Fraction(1))
    if total is None:
        total = reckoned
    elif reckoned and abs(abs(total) - reckoned) * PARTS_OFF > abs(total) + PARTS_OFF:
        told.note("shares × price and the fee do not make the total, which was taken as it stands.", parsed.row.line)
    if total is None and kind not in ("split", "in", "out"):
        raise UnreadableFile("Nothing says what was paid or received here.", line=parsed.row.line)
    if kind in ("split", "out"):
        return None
    return total if total is None or not way else way * abs(total)
