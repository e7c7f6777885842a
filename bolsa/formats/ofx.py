"""OFX 1.x (SGML) and 2.x (XML): bank and card statements, as published (OFX 1.6 and 2.3) and as banks send them.

Three steps: find the header and decode the text; text to a tree, by ofxtools where it takes the file and by our recovering
parser (ofx_tree.py) where it does not; tree to statements, asking for nothing a bank may leave out.
"""

import re
from datetime import date
from decimal import Decimal, InvalidOperation
from xml.etree.ElementTree import Element

from bolsa.core.amounts import find_decimal_mark, read_marked
from bolsa.core.bringing.rows import BroughtRow, BroughtStatement
from bolsa.core.money import is_currency_code, to_minor
from bolsa.errors import UnreadableFile
from bolsa.formats.ofx_leaves import PlainRow, read_ofx_day, text_of
from bolsa.formats.ofx_shares import read_shares
from bolsa.formats.ofx_tree import Row, Tree, parse_tree
from bolsa.formats.spool import Spool
from bolsa.formats.text import decode, line_of

_DECLARED = re.compile(rb"(?:CHARSET\s*:\s*|encoding\s*=\s*[\"'])([\w.-]+)", re.IGNORECASE)
_CODE_PAGES = {
    "1252": "cp1252",
    "windows-1252": "cp1252",
    "437": "cp437",
    "850": "cp850",
    "8859-1": "iso-8859-1",
    "iso-8859-1": "iso-8859-1",
    "iso-8859-15": "iso-8859-15",
}
_NO_ID = {"", "0", "NONE", "NULL", "N/A", "000000"}


def has_investments(content: bytes) -> bool:
    """Whether the file holds an investment statement, in any usual encoding."""
    return b"<INVSTMTRS" in content.replace(b"\x00", b"").upper()


def looks_like_ofx(content: bytes) -> bool:
    """Whether the file shows an OFX header or the root element near its beginning, in any usual encoding."""
    head = content[:4000].replace(b"\x00", b"").upper()
    return b"<OFX>" in head or b"OFXHEADER" in head or b"<?OFX" in head or b"<OFX " in head


def read_ofx(content: bytes, default_currency: str = "EUR") -> list[BroughtStatement]:
    """The bank and card statements of an OFX file, in its order; statements without rows are kept.

    `default_currency` says how many digits amounts have where the file names no currency.

    Raises: UnreadableFile naming the line or the element.
    """
    declared = _DECLARED.search(content[:2000])
    text = decode(content, _CODE_PAGES.get(declared[1].decode().lower()) if declared else None)
    declaration = re.search(r"<!\s*(?:DOCTYPE|ENTITY)", text, re.IGNORECASE)
    if declaration:
        line = line_of(text, declaration.start())
        raise UnreadableFile("The file declares entities, which no bank needs; it is not read.", line=line)
    start = re.search(r"<OFX[\s>]", text, re.IGNORECASE)
    if not start:
        raise UnreadableFile("The file has no <OFX> element: it is not an OFX file.")
    tree = parse_tree(text, start.start())
    statements = [
        (_investments if found.tag == "INVSTMTRS" else _statement)(found, tree, default_currency)
        for found in tree.root.iter()
        if found.tag in ("STMTRS", "CCSTMTRS", "INVSTMTRS")
    ]
    if not statements:
        _refuse_without_statements(tree)
    return statements


def is_whole(content: bytes) -> bool:
    """Whether an answer holds its closing mark, and nothing after it: one that broke off says nothing."""
    return re.search(rb"</OFX\s*>\s*\Z", content, re.IGNORECASE) is not None


def is_account_unknown(content: bytes) -> bool:
    """Whether the answer says that the institution does not know the account (status 2003, OFX 2.2 section 11.4.2.3)."""
    return re.search(rb"<CODE>\s*2003\b", content) is not None


def _refuse_without_statements(tree: Tree) -> None:
    for status in tree.root.iter("STATUS"):
        if text_of(status, "CODE") not in ("", "0") and text_of(status, "SEVERITY").upper() != "INFO":
            message = text_of(status, "MESSAGE") or f"code {text_of(status, 'CODE')}"
            raise UnreadableFile(f"The bank answered with an error instead of a statement: {message}.")
    raise UnreadableFile("The file holds no statement (no STMTRS, CCSTMTRS or INVSTMTRS element).")


def _statement(element: Element, tree: Tree, default_currency: str) -> BroughtStatement:
    currency = text_of(element, "CURDEF").upper()
    currency = currency if is_currency_code(currency) else ""
    account = element.find("BANKACCTFROM")
    kind = text_of(account, "ACCTTYPE").upper() if account is not None else ""
    if account is None:
        account = element.find("CCACCTFROM")
        kind = "CREDITCARD" if account is not None or element.tag == "CCSTMTRS" else ""
    mark, _ = find_decimal_mark(tree.amounts(element))
    warnings: dict[str, None] = {}
    rows = Spool(_row(row, mark, currency or default_currency, warnings) for row in tree.rows(element))
    announced = element.find(".//BANKTRANLISTP")
    if announced is not None:
        for pending in announced.iter("STMTTRNP"):
            rows.append(_pending_row(pending, tree.line_of_pending(pending), mark, currency or default_currency))
    balance = _balance(element, mark, currency or default_currency, warnings)
    number = text_of(account, "ACCTID") if account is not None else ""
    first, last = (read_ofx_day(text_of(element, f"BANKTRANLIST/{name}")) for name in ("DTSTART", "DTEND"))
    return BroughtStatement(
        rows, number, kind, currency, *balance, warnings=tuple(warnings), lists_pending=announced is not None,
        first_day=first, last_day=last,
    )  # fmt: skip


def _investments(element: Element, tree: Tree, default_currency: str) -> BroughtStatement:
    """An investment statement: its shares. The money in it is for Holdings, for which the file is kept whole."""
    currency = text_of(element, "CURDEF").upper()
    currency = currency if is_currency_code(currency) else ""
    account = element.find("INVACCTFROM")
    number = text_of(account, "ACCTID")
    shares = read_shares(tree.root, element, currency or default_currency)
    warning = "The file holds an investment statement. Its shares are read, and the file is kept whole, for Holdings."
    return BroughtStatement((), number, "INVESTMENT", currency, warnings=(warning,), shares=shares)


def _pending_row(element: Element, line: int, mark: str, currency: str) -> BroughtRow:
    """A row of the list of pending transactions (OFX 2.2, section 11.4.3.5)."""
    amount, day = read_marked(text_of(element, "TRNAMT"), mark), read_ofx_day(text_of(element, "DTTRAN"))
    if amount is None or day is None:
        lacking = "amount (TRNAMT)" if amount is None else "date (DTTRAN)"
        raise UnreadableFile(f"This <STMTTRNP> has no {lacking}.", line=line)
    payee, memo = _words(element)
    ref = text_of(element, "REFNUM")
    return BroughtRow(day, to_minor(amount, currency), payee, memo, ref, file_line=line, pending=True)


def _row(row: Row, mark: str, currency: str, warnings: dict[str, None]) -> BroughtRow:
    element, line = row.element, row.line
    amount = read_marked(text_of(element, "TRNAMT"), mark)
    if amount is None:
        raise UnreadableFile("This <STMTTRN> has no amount (TRNAMT).", line=line, found=text_of(element, "TRNAMT"))
    posted = text_of(element, "DTPOSTED") or text_of(element, "DTUSER") or text_of(element, "DTAVAIL")
    day = read_ofx_day(posted)
    if day is None:
        raise UnreadableFile("This <STMTTRN> has no date (DTPOSTED).", line=line, found=posted)
    amount, foreign = _in_statement_currency(element, amount, currency)
    if foreign:
        warnings[foreign] = None
    payee, memo = _words(element)
    ref = text_of(element, "FITID")
    return BroughtRow(
        day=day,
        amount_minor=to_minor(amount, currency),
        payee=payee,
        memo=memo,
        bank_ref="" if ref.upper() in _NO_ID else ref,
        value_day=read_ofx_day(text_of(element, "DTAVAIL")) or read_ofx_day(text_of(element, "DTUSER")),
        file_line=line,
    )


def _in_statement_currency(element: Element | PlainRow, amount: Decimal, currency: str) -> tuple[Decimal, str]:
    """The amount in the statement's currency: a row may be in its own (CURRENCY aggregate, OFX 2.3 section 5.2).

    CURRATE is the ratio of the statement's currency to the row's; ORIGCURRENCY says that it was converted already.
    """
    own = element.find("CURRENCY")
    if own is None or text_of(own, "CURSYM").upper() in ("", currency):
        return amount, ""
    try:
        return amount * Decimal(text_of(own, "CURRATE").replace(",", ".") or "1"), ""
    except InvalidOperation:
        return amount, f"A row in {text_of(own, 'CURSYM')} has no readable rate; its amount was taken as it stands."


def _words(element: Element | PlainRow) -> tuple[str, str]:
    name = text_of(element, "NAME") or text_of(element, "PAYEE/NAME")
    memo = text_of(element, "MEMO") or text_of(element, "EXTDNAME")
    number = text_of(element, "CHECKNUM")
    if number and number not in f"{name} {memo}" and text_of(element, "TRNTYPE").upper() == "CHECK":
        memo = f"{memo} cheque {number}".strip()
    if not name:
        name, memo = memo, ""
    if not name:
        name = text_of(element, "TRNTYPE").capitalize() or "Unnamed"
    # WORKAROUND: NAME holds 32 characters, so banks repeat it whole in MEMO.
    if memo.startswith(name):
        name, memo = memo, ""
    return name, memo


def _balance(element: Element, mark: str, currency: str, warnings: dict[str, None]) -> tuple[int | None, date | None]:
    ledger = element.find(".//LEDGERBAL")
    if ledger is None:
        return None, None
    amount_text, day_text = text_of(ledger, "BALAMT"), text_of(ledger, "DTASOF")
    amount = read_marked(amount_text, mark)
    day = read_ofx_day(day_text) or read_ofx_day(text_of(element, "BANKTRANLIST/DTEND"))
    if amount is None or day is None:
        warnings["The file's closing balance could not be read, so there is nothing to compare with."] = None
        return None, None
    return to_minor(amount, currency), day
