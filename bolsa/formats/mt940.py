"""SWIFT MT940 customer statements and MT942 interim reports, in the dialects banks use.

Source: SWIFT Standards, category 9, MT940: tags 20, 25, 28C, 60F/60M, 61, 86, 62F/62M. A file holds many messages; those of
one account follow each other as pages, with intermediate balances (60M, 62M).
"""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date, timedelta

from bolsa.core.amounts import read_decimal
from bolsa.core.bringing.rows import BroughtRow, BroughtStatement
from bolsa.core.money import to_minor
from bolsa.errors import UnreadableFile
from bolsa.formats.dates import day_or_month_end
from bolsa.formats.spool import Spool
from bolsa.formats.text import decode, lines_of

_ENVELOPE = re.compile(r"^\{[^:]*:.*?\{4:\s*|^\{[0-9]:[^}]*\}")
_TAG = re.compile(r"^:(\d{2}[A-Z]?):")
_BALANCE = re.compile(r"(R?[CD])(\d{6})([A-Z]{3})?([\d.,]+)")
_LINE = re.compile(
    r"(?P<value>\d{6})(?P<entry>\d{4})?(?P<mark>E?R?[CD])(?P<funds>[A-Z])?(?P<amount>\d[\d.,]*)"
    r"(?P<type>[NFS][A-Z0-9]{3})?(?P<ref>[^\n]*?)(?://(?P<bank>[^\n]*))?(?:\n(?P<more>.*))?$",
    re.DOTALL,
)
_FULL_LINE, _FULL_SUBFIELD = 65, 27
_NO_REF = {"", "NONREF", "NOREF", "NOTPROVIDED"}


def looks_like_mt940(content: bytes) -> bool:
    """Whether the file shows the tags of a statement near its beginning."""
    head = content[:6000].replace(b"\x00", b"")
    return b":20:" in head and re.search(rb":(?:60[FM]|25P?|28C?):", head) is not None


@dataclass
class _Account:
    """What the messages of one account say so far."""

    number: str
    currency: str = ""
    opening: tuple[int, date | None] | None = None
    closing: tuple[int, date | None] | None = None
    rows: Spool[BroughtRow] = field(default_factory=Spool)
    moved_minor: int = 0
    earliest: date = date.max


def read_mt940(content: bytes, default_currency: str = "EUR") -> list[BroughtStatement]:
    """The statements of an MT940 file, one an account, in the file's order. Raises: UnreadableFile naming the line."""
    text = decode(content)
    accounts: dict[str, _Account] = {}
    current: _Account | None = None
    for line, tag, value, words in _with_words(_fields(text)):
        if tag in ("25", "25P"):
            number = value.partition("\n")[0].strip()
            current = accounts.setdefault(number, _Account(number))
        elif tag in ("60F", "60M", "62F", "62M") and current is not None:
            _note_balance(current, tag, value, line, default_currency)
        elif tag == "61":
            if current is None:
                raise UnreadableFile("A booking (:61:) stands before any account (:25:).", line=line)
            row = _row(value, words, line, current.currency or default_currency)
            current.rows.append(row)
            current.moved_minor += row.amount_minor
            current.earliest = min(current.earliest, row.day)
    if not accounts:
        raise UnreadableFile("The file holds no account (no :25: tag).")
    return [_statement(account) for account in accounts.values()]


def _with_words(fields: Iterable[tuple[int, str, str]]) -> Iterator[tuple[int, str, str, list[str]]]:
    """Each field with the values of the :86: fields that follow it; some banks repeat the tag."""
    waiting: tuple[int, str, str, list[str]] | None = None
    for line, tag, value in fields:
        if tag == "86" and waiting:
            waiting[3].append(value)
            continue
        if waiting:
            yield waiting
        waiting = line, tag, value, []
    if waiting:
        yield waiting


def _fields(text: str) -> Iterator[tuple[int, str, str]]:
    """(line, tag, value) in order. WORKAROUND: envelope braces, page marks and blank lines around messages are passed over."""
    lines: list[str] = []
    start, tag = 0, ""
    for line_number, raw in enumerate(lines_of(text), 1):
        line = (_ENVELOPE.sub("", raw) if raw.startswith("{") else raw).rstrip()
        match = _TAG.match(line)
        if match or line in ("-", "-}", "}", "--") or line.startswith(("{", "-}")):
            if tag:
                yield start, tag, "\n".join(lines)
            tag = match[1] if match else ""
            start, lines = line_number, [line[match.end() :]] if match else []
        elif tag and line:
            lines.append(line)
    if tag:
        yield start, tag, "\n".join(lines)


def _note_balance(account: _Account, tag: str, value: str, line: int, default_currency: str) -> None:
    match = _BALANCE.match(value.replace(" ", ""))
    number = read_decimal(match[4], ",") if match else None
    if match is None or number is None:
        raise UnreadableFile(f"This balance (:{tag}:) cannot be read.", line=line, found=value)
    mark, day, currency, _ = match.groups()
    # WORKAROUND: some banks leave the currency out of a balance: it is that of the one before, else the account's.
    currency = currency or account.currency or default_currency
    account.currency = account.currency or currency
    signed = to_minor(number if mark in ("C", "RD") else -number, currency)
    if tag.startswith("60"):
        account.opening = account.opening or (signed, _day(day))
    else:
        account.closing = signed, _day(day)


def _row(value: str, words: list[str], line: int, currency: str) -> BroughtRow:
    match = _LINE.match(value)
    amount = read_decimal(match["amount"], ",") if match else None
    value_day = _day(match["value"]) if match else None
    if match is None or amount is None or value_day is None:
        raise UnreadableFile("This booking (:61:) cannot be read.", line=line, found=value)
    # C is in, D is out; a reversal turns it: RC takes a credit back, RD gives a debit back.
    is_in = match["mark"].lstrip("E") in ("C", "RD")
    payee, memo = _words(words)
    ref = (match["bank"] or "").strip() or (match["ref"] or "").strip()
    if not payee:
        payee, memo = (match["more"] or "").strip() or ref or "Unnamed", ""
    return BroughtRow(
        day=_entry_day(match["entry"], value_day),
        amount_minor=to_minor(amount if is_in else -amount, currency),
        payee=payee,
        memo=memo,
        # A reference stands for one booking only where the bank gives its own (after //).
        bank_ref="" if (match["bank"] or "").strip().upper() in _NO_REF else match["bank"].strip(),
        value_day=value_day,
        file_line=line,
    )


def _day(text: str) -> date | None:
    year = int(text[:2])
    return day_or_month_end((2000 if year < 80 else 1900) + year, int(text[2:4]), int(text[4:6]))


def _entry_day(text: str | None, value_day: date) -> date:
    """The booking day, whose year is that of the value day, or the one beside it at the turn of a year."""
    if not text:
        return value_day
    month = int(text[:2])
    year = value_day.year + (1 if value_day.month == 12 and month == 1 else -1 if value_day.month == 1 and month == 12 else 0)
    return day_or_month_end(year, month, int(text[2:4])) or value_day


def _words(values: list[str]) -> tuple[str, str]:
    """The payee and the memo of the :86: fields: with ?nn subfields, /CODE/ parts, or plain text."""
    text = _joined([line for value in values for line in value.split("\n")], _FULL_LINE)
    if re.match(r"^(\d{3})?\?\d\d", text) or re.match(r"^\d{3}[^\w\s]\d\d", text):
        return _subfields(text)
    parts = dict(
        re.findall(
            r"/(NAME|REMI|BENM|ORDP|EREF|TRTP|CNTP|SVWZ|USTD)/(.*?)(?=/(?:NAME|REMI|BENM|ORDP|EREF|TRTP|CNTP|SVWZ|USTD|IBAN|BIC|ISDT|MARF|CSID|ID|ADDR)/|$)",
            text,
        )
    )
    if parts:
        payee = parts.get("NAME") or parts.get("BENM") or parts.get("ORDP") or ""
        memo = re.sub(r"^(?:USTD|STRD)?/+", "", parts.get("REMI", "") or parts.get("USTD", "")).strip(" /")
        return (payee.strip(" /") or memo or text, memo if payee else "")
    first, _, rest = text.partition("  ")
    return first.strip()[:140], rest.strip()


def _joined(lines: list[str], full: int) -> str:
    """The lines as one text: a line as long as the format allows was broken anywhere, also in mid-word."""
    out = ""
    for line in lines:
        out += line if len(line) >= full or not line else line + " "
    return out.strip()


def _subfields(text: str) -> tuple[str, str]:
    mark = text[3] if text[:3].isdigit() else text[0]
    found: dict[str, str] = {}
    for part in text.split(mark)[1:]:
        found[part[:2]] = found.get(part[:2], "") + part[2:].rstrip("\n")
    name = (found.get("32", "") + found.get("33", "")).strip()
    purpose = _joined([found[f"{n}"] for n in (*range(20, 30), *range(60, 64)) if f"{n}" in found], _FULL_SUBFIELD)
    told = re.search(r"SVWZ\+(.*?)(?=(?:EREF|KREF|MREF|CRED|DEBT|ABWA|ABWE|IBAN|BIC)\+|$)", purpose)
    memo = (told[1] if told else purpose).strip()
    kind = found.get("00", "").strip()
    return name or memo or kind, memo if name else ""


def _statement(account: _Account) -> BroughtStatement:
    warnings: tuple[str, ...] = ()
    balance, day = account.closing or (None, None)
    agrees = account.opening and account.closing and account.opening[0] + account.moved_minor == account.closing[0]
    if account.opening and account.closing and not agrees:
        warnings = ("The file's opening balance and bookings do not lead to its closing balance.",)
    number = account.number.rpartition("/")[2].replace(" ", "")
    first = _first_day(account)
    opened = (account.opening[0], first - timedelta(days=1)) if account.opening and agrees and first else (None, None)
    last = day if first else None
    return BroughtStatement(account.rows, number, "", account.currency, balance, day, warnings, False, None, first, last, *opened)


def _first_day(account: _Account) -> date | None:
    """The first day the statement tells of: the one after its opening balance, which is that of the statement before, unless
    its rows begin earlier."""
    opened = account.opening[1] if account.opening else None
    return min(account.earliest, opened + timedelta(days=1)) if opened and opened < date.max else None
