"""ISO 20022 camt.053 (statement), camt.052 (report) and camt.054 (notification), in any version a bank uses.

Source: ISO 20022 Bank-to-Customer Cash Management, messages camt.052 to camt.054, versions 001.02 to 001.08. Element names
are compared without their namespace, and no schema address is ever fetched.
"""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from functools import lru_cache
from itertools import islice
from typing import NamedTuple
from xml.etree import ElementTree
from xml.etree.ElementTree import Element, ParseError

import defusedxml.ElementTree
from defusedxml import DefusedXmlException

from bolsa.core.amounts import read_marked
from bolsa.core.bringing.rows import BroughtRow, BroughtStatement
from bolsa.core.money import is_currency_code, to_minor
from bolsa.errors import UnreadableFile
from bolsa.formats.dates import day_or_month_end
from bolsa.formats.spool import Spool
from bolsa.formats.text import WIDE_MARKS, decode, lines_of, require_utf8

_DAY = re.compile(r"\s*(\d{4})-(\d{2})-(\d{2})")
_HOLDERS = ("Stmt", "Rpt", "Ntfctn")
_CLOSING = ("CLBD", "ITBD", "CLAV")  # closing booked, interim booked, closing available: the first there is


def looks_like_camt(content: bytes) -> bool:
    """Whether the file shows the root of a bank-to-customer message near its beginning."""
    head = content[:4000].replace(b"\x00", b"")
    return b"BkToCstmr" in head or re.search(rb"camt\.05[234]", head) is not None


def read_camt(content: bytes, default_currency: str = "EUR") -> list[BroughtStatement]:
    """The statements of a camt file, in its order. Raises: UnreadableFile naming the line."""
    statements = list(_statements(_text_of(content), default_currency))
    if not statements:
        raise UnreadableFile("The file holds no statement (no Stmt, Rpt or Ntfctn element).")
    return _tell_currencies_apart(statements)


def _text_of(content: bytes) -> str:
    declared = re.search(rb"encoding\s*=\s*[\"']([\w.-]+)", content[:200])
    encoding = declared[1].decode().lower() if declared else "utf-8"  # what XML means where it says nothing
    if encoding in ("utf-8", "utf8") and not content.startswith(WIDE_MARKS):
        require_utf8(content)
    text = decode(content, encoding)
    # The text is decoded by what it holds; a declaration that says otherwise must not be heard a second time.
    return re.sub(r"^\ufeff?\s*<\?xml[^>]*\?>", "", text)


def _statements(text: str, default_currency: str) -> Iterator[BroughtStatement]:
    """The statements in order, read as a stream: each entry is taken out of the tree as soon as it is complete."""
    holder: Element | None = None
    entries: Spool[_Entry] = Spool()
    depth = depth_of_holder = 0
    # Entities can be declared in a document type only. A text without one is read by the parser in C, three times as fast.
    iterparse: Callable[..., Iterable[tuple[str, Element]]] = (
        defusedxml.ElementTree.iterparse if "<!DOCTYPE" in text else ElementTree.iterparse
    )
    try:
        for event, element in iterparse(_Reader(text), events=("start", "end")):
            if event == "start":
                element.tag = element.tag.rpartition("}")[2]
                depth += 1
            else:
                depth -= 1
            tag = element.tag
            if event == "start" and tag in _HOLDERS and holder is None:
                holder, entries, depth_of_holder = element, Spool(), depth
            elif event == "end" and tag == "Ntry" and holder is not None and depth == depth_of_holder:
                entries.append(_entry(element))
                holder.remove(element)
            elif event == "end" and element is holder:
                yield _statement(holder, entries, default_currency)
                holder.clear()
                holder = None
    except DefusedXmlException as error:
        raise UnreadableFile("The file declares entities, which no bank needs; it is not read.", line=1) from error
    except ParseError as error:
        line, column = error.position
        found = next(islice(lines_of(text), line - 1, None), "")[max(0, column - 20) : column + 20]
        raise UnreadableFile("The XML breaks off or is damaged.", line=line, column=column + 1, found=found.strip()) from error


class _Reader:
    """A text as a file that is read in pieces, without the copy that a StringIO makes at four bytes a letter."""

    def __init__(self, text: str):
        self.text, self.place = text, 0

    def read(self, size: int) -> str:
        piece = self.text[self.place : self.place + size]
        self.place += size
        return piece


class _Entry(NamedTuple):
    """What an entry says, before the statement around it is known to the end."""

    status: str
    amount: Decimal | None
    day: date | None
    value_day: date | None
    payee: str
    memo: str
    bank_ref: str
    words: str  # of an entry that lacks something, for the message


def _statement(holder: Element, entries: Spool[_Entry], default_currency: str) -> BroughtStatement:
    number = _text(holder, "Acct/Id/IBAN") or _text(holder, "Acct/Id/Othr/Id") or _text(holder, "Acct/Id/PrtryAcct/Id")
    currency = _text(holder, "Acct/Ccy") or next((a.get("Ccy", "") for a in holder.findall("Bal/Amt")), "")
    currency = currency if is_currency_code(currency) else ""
    last_day = _day(holder, "FrToDt", "ToDtTm") or _day(holder, "CreDtTm", "")
    rows: Spool[BroughtRow] = Spool()
    pending: list[BroughtRow] = []
    told = moved = 0
    earliest, totals = date.max, _Totals()
    for entry in entries:
        if entry.status == "INFO":
            told += 1
            continue
        row = _row(entry, last_day, currency or default_currency)
        totals.note(row)
        if row.pending:
            pending.append(row)
        else:
            rows.append(row)
            moved += row.amount_minor
            earliest = min(earliest, row.day)
    warnings = [f"{told} entries are for information only (status INFO) and were left out."] if told else []
    balance_minor, balance_day = _closing(holder, currency or default_currency)
    opening = _balance_of(holder, ("OPBD", "PRCD"), currency or default_currency)
    closing = _balance_of(holder, ("CLBD",), currency or default_currency)
    agrees = opening is not None and closing is not None and opening[0] + moved == closing[0]
    if opening and closing and not pending and not agrees:
        warnings.append("The file's opening balance and entries do not lead to its closing balance.")
    warnings += totals.differing(holder, currency or default_currency)
    kind = "CREDITCARD" if _text(holder, "Acct/Tp/Cd") == "CARD" else ""
    # A report (camt.052) lists what is pending at its moment; a statement speaks of what is booked.
    lists_pending = bool(pending) or holder.tag == "Rpt"
    for row in pending:
        rows.append(row)
    first, last = (_day(holder, "FrToDt", name) for name in ("FrDtTm", "ToDtTm"))
    opened = (opening[0], earliest - timedelta(days=1)) if opening and agrees and earliest < date.max else (None, None)
    return BroughtStatement(
        rows, number, kind, currency, balance_minor, balance_day, tuple(warnings), lists_pending, None, first, last, *opened
    )


class _Totals:
    """How many entries a statement holds and what they come to, in, out and together, beside what it declares (TxsSummry)."""

    DECLARED = (("TtlNtries", "entries", (0, 1)), ("TtlCdtNtries", "entries in", (0,)), ("TtlDbtNtries", "entries out", (1,)))

    def __init__(self) -> None:
        self.numbers, self.sums = Counter[tuple[bool, bool]](), Counter[tuple[bool, bool]]()

    def note(self, row: BroughtRow) -> None:
        key = row.pending, row.amount_minor < 0
        self.numbers[key] += 1
        self.sums[key] += abs(row.amount_minor)

    def differing(self, holder: Element, currency: str) -> Iterator[str]:
        """A sentence for each declared total that the entries do not come to; a bank may count the pending ones or not."""
        for tag, words, sides in self.DECLARED:
            number, total = _text(holder, f"TxsSummry/{tag}/NbOfNtries"), _amount(holder.find(f"TxsSummry/{tag}/Sum"))
            counted, came = (
                [sum(one[pending, bool(side)] for side in sides for pending in kinds) for kinds in ((False, True), (False,))]
                for one in (self.numbers, self.sums)
            )
            if number.isdecimal() and int(number) not in counted:
                yield f"The file declares {int(number):,} {words} and holds {counted[0]:,}."
            elif total is not None and to_minor(abs(total), currency) not in came:
                yield f"The file’s {words} do not come to the total it declares."


def _row(entry: _Entry, last_day: date | None, currency: str) -> BroughtRow:
    day = entry.day or last_day
    if entry.amount is None or day is None:
        lacking = "amount (Amt)" if entry.amount is None else "date (BookgDt)"
        raise UnreadableFile(f"An entry (Ntry) has no {lacking}.", found=entry.words)
    amount_minor = to_minor(entry.amount, currency)
    is_pending = entry.status == "PDNG"
    return BroughtRow(day, amount_minor, entry.payee, entry.memo, entry.bank_ref, entry.value_day, pending=is_pending)


def _entry(entry: Element) -> _Entry:
    value_day = _day(entry, "ValDt")
    day, amount = _day(entry, "BookgDt") or value_day, _amount(entry.find("Amt"))
    # CdtDbtInd is the entry's own direction, for a reversal too (RvslInd only says that it is one).
    if amount is not None and _text(entry, "CdtDbtInd") == "DBIT":
        amount = -amount
    # Plain names are found in C, paths are not: they are asked only where there is something to find.
    details = [detail for part in entry.findall("NtryDtls") for detail in part.findall("TxDtls")]
    payee, memo = _words(entry, details, is_in=(amount or 0) > 0)
    ref = _text(entry, "AcctSvcrRef") or (_text(details[0], "Refs/AcctSvcrRef") if len(details) == 1 else "")
    ref = ref or _text(entry, "NtryRef")
    words = "" if amount is not None and day is not None else " ".join(" ".join(entry.itertext()).split())
    stated = entry.find("Sts")
    status = (_text(stated, "Cd") or _clean(stated.text)) if stated is not None else ""
    return _Entry(status, amount, day, value_day, payee, memo, "" if ref in ("NOTPROVIDED", "NONREF") else ref, words)


def _words(entry: Element, details: list[Element], *, is_in: bool) -> tuple[str, str]:
    """The other side's name and what the payment is for; of a batch, all names in the memo."""
    party = "Dbtr" if is_in else "Cdtr"
    names = []
    for detail in details:
        parties = detail.find("RltdPties")
        for path in (f"{party}/Nm", f"{party}/Pty/Nm", f"Ultmt{party}/Nm", f"Ultmt{party}/Pty/Nm"):
            if parties is not None and _text(parties, path):
                names.append(_text(parties, path))
                break
    purposes = [
        " ".join(
            [
                *(_clean(u.text) for u in detail.findall("RmtInf/Ustrd")),
                *(_clean(r.text) for r in detail.findall("RmtInf/Strd/CdtrRefInf/Ref")),
            ]
        )
        for detail in details
    ]
    more = _text(entry, "AddtlNtryInf") or (_text(details[0], "AddtlTxInf") if details else "")
    if len(details) > 1:
        return more or f"{len(details)} payments", ", ".join([*dict.fromkeys(names), *filter(None, purposes)])[:300]
    purpose = purposes[0] if purposes else ""
    payee = (names[0] if names else "") or more or purpose or "Unnamed"
    return payee, " ".join(part for part in (purpose, more) if part and part != payee)


def _closing(holder: Element, currency: str) -> tuple[int | None, date | None]:
    return _balance_of(holder, _CLOSING, currency) or (None, None)


def _balance_of(holder: Element, codes: tuple[str, ...], currency: str) -> tuple[int, date | None] | None:
    """The balance of the first of these codes that the statement gives, the last one where it gives several."""
    for code in codes:
        for balance in reversed(holder.findall("Bal")):
            amount, day = _amount(balance.find("Amt")), _day(balance, "Dt")
            if _text(balance, "Tp/CdOrPrtry/Cd") == code and amount is not None and day is not None:
                sign = -1 if _text(balance, "CdtDbtInd") == "DBIT" else 1
                return sign * to_minor(amount, currency), day
    return None


def _amount(element: Element | None):
    text = (element.text or "").strip() if element is not None else ""
    return read_marked(text, ".") if text else None


def _day(element: Element, name: str, inner: str | None = None) -> date | None:
    """The day in a date element, which holds Dt or DtTm (or the inner element named)."""
    holder = element.find(name)
    if holder is None:
        return None
    paths = (inner or ".",) if inner is not None else ("Dt", "DtTm", ".")
    for path in paths:
        match = _DAY.match(_text(holder, path))
        if match:
            return _day_of(match[1], match[2], match[3])
    return None


@lru_cache(20_000)  # a file names the same days again and again
def _day_of(year: str, month: str, day: str) -> date | None:
    return day_or_month_end(int(year), int(month), int(day))


def _text(element: Element, path: str) -> str:
    found = element.find(path)
    return _clean(found.text) if found is not None else ""


def _clean(text: str | None) -> str:
    return " ".join((text or "").split())


def _tell_currencies_apart(statements: list[BroughtStatement]) -> list[BroughtStatement]:
    """Statements whose number stands for several currencies get the currency added to it: they are several accounts."""
    currencies: dict[str, set[str]] = {}
    for statement in statements:
        currencies.setdefault(statement.number, set()).add(statement.currency)
    return [replace(s, number=f"{s.number}{s.currency}") if len(currencies[s.number]) > 1 else s for s in statements]
