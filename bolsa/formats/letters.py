"""Confirmations of brokers as letters (.eml): what a letter says of a trade, as a table that is read like any other.

Source: RFC 5322 and MIME, read by the standard library. Nothing in a letter is fetched or run, no attachment is opened; of HTML
the words alone are taken. A letter gives the rows of its own table, if it has one with shares; else its lines "Label: value" make
one row.
"""

import re
from email import message_from_bytes, policy
from email.message import EmailMessage
from email.utils import parseaddr
from html.parser import HTMLParser

from bolsa.errors import UnreadableFile
from bolsa.formats.csv_table import CsvRow, CsvTable
from bolsa.formats.spool import Spool
from bolsa.formats.trades_guess import kind_of, looks_like_trades

DELIMITER = "\t"  # a letter is not cut at a letter; this stands where a table's delimiter would
MOST_LETTER = 2_000_000  # bytes
MOST_LINES = 2_000
LONGEST_LINE = 400  # letters; a longer one is prose
_HEAD = re.compile(rb"\A(?:[A-Za-z][A-Za-z0-9-]*:[^\r\n]*(?:\r?\n[ \t][^\r\n]*)*\r?\n){2,}", re.MULTILINE)
_NEEDED = re.compile(rb"^(?:from|subject):", re.IGNORECASE | re.MULTILINE)
_LABELLED = re.compile(r"\s*[*•·-]?\s*([^\W\d_][^:=\t]{1,40}?)\s*(?::|\t|\.{3,}|\s{3,})\s*(\S.*)")
_SHARES_OF = re.compile(
    r"([\d.,'’ ]*\d)\s*(?:shares|units|anteile|stück|stk|andelar|aktier|parts|participaciones|aandelen)\b"
    r"(?:\s+(?:of|in|à|der|i|de))?\s*(.*)",
    re.IGNORECASE,
)
_BLOCKS = {"p", "div", "tr", "br", "li", "h1", "h2", "h3", "h4", "table", "ul"}


def looks_like_letter(content: bytes) -> bool:
    """Whether it begins as a letter does: lines of a head, with a sender and a subject among them."""
    head = _HEAD.match(content[:16_384])
    return head is not None and len(_NEEDED.findall(head[0])) >= 2


def read_letter(content: bytes) -> CsvTable:
    """The table a letter holds. Raises: UnreadableFile if it says nothing of a trade."""
    if len(content) > MOST_LETTER:
        raise UnreadableFile("The letter is larger than 2 MB; save its confirmation as a table instead.")
    message = message_from_bytes(content, policy=policy.default)
    subject, lines, tables = str(message.get("Subject", "")), *_body_of(message)
    own = next((found for rows in tables if len(rows) > 1 and looks_like_trades(found := _as_table(rows))), None)
    if own is not None:
        return own
    pairs = [_pair(rows) for table in tables for rows in table if len(rows) == 2] + [_labelled(line) for line in lines]
    labels = _row_of([pair for pair in pairs if pair], subject, str(message.get("Date", "")))
    table = _as_table([list(labels), list(labels.values())]) if labels else None
    if table is None or not (looks_like_trades(table) or ({"Type"} & labels.keys() and _has_amount(labels))):
        raise UnreadableFile("It tells of no trade that can be read.")
    return table


def describe_letter(content: bytes) -> tuple[str, str]:
    """A letter's subject and its sender's name, each in one line."""
    message = message_from_bytes(content[:65_536], policy=policy.default)
    subject, sender = (" ".join(str(message.get(name, "")).split()) for name in ("Subject", "From"))
    name = parseaddr(sender)[0] or sender
    return subject[:120] or "without a subject", name[:80]


def _body_of(message: EmailMessage) -> tuple[list[str], list[list[list[str]]]]:
    """The lines of a letter's words, and the tables of its HTML, each as rows of cells."""
    body = message.get_body(preferencelist=("html", "plain"))
    if body is None:
        raise UnreadableFile("The letter has no words of its own.")
    try:
        text = body.get_content()
    except (LookupError, UnicodeError) as error:
        raise UnreadableFile("The letter's words are in an encoding that is not known.") from error
    if body.get_content_subtype() == "plain":
        return text.splitlines()[:MOST_LINES], []
    reader = _Words()
    reader.feed(text)
    reader.close()
    return "".join(reader.words).splitlines()[:MOST_LINES], reader.tables


class _Words(HTMLParser):
    """The words of HTML with a line's end at each block, and its tables."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.words: list[str] = []
        self.tables: list[list[list[str]]] = []
        self._hidden = 0
        self._cell: list[str] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in ("script", "style", "head"):
            self._hidden += 1
        if tag == "table" and len(self.tables) < MOST_LINES:
            self.tables.append([])
        if tag == "tr" and self.tables:
            self.tables[-1].append([])
        if tag in ("td", "th"):
            self._cell = []
        if tag in _BLOCKS:
            self.words.append("\n")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("script", "style", "head"):
            self._hidden = max(0, self._hidden - 1)
        if tag in ("td", "th") and self._cell is not None:
            if self.tables and self.tables[-1]:
                self.tables[-1][-1].append(" ".join("".join(self._cell).split()))
            self._cell = None
            self.words.append("\t")

    def handle_data(self, data: str) -> None:
        if self._hidden:
            return
        self.words.append(data.replace("\n", " "))
        if self._cell is not None:
            self._cell.append(data)


def _as_table(rows: list[list[str]]) -> CsvTable:
    full = [CsvRow(i, tuple(row)) for i, row in enumerate(rows, 1) if any(row)]
    return CsvTable(DELIMITER, Spool(full), max((len(row.cells) for row in full), default=1))


def _pair(cells: list[str]) -> tuple[str, str] | None:
    label, value = cells[0].rstrip(" :"), cells[1]
    return (label, value) if label and value and not label[0].isdigit() else None


def _labelled(line: str) -> tuple[str, str] | None:
    found = _LABELLED.fullmatch(line.rstrip()) if len(line) <= LONGEST_LINE else None
    return (" ".join(found[1].split()), " ".join(found[2].split())) if found else None


def _row_of(pairs: list[tuple[str, str]], subject: str, sent: str) -> dict[str, str]:
    """By label: what the letter says. "Bought: 12 shares of Tern" says three things at once; what happened may stand in the
    subject alone, and the day in the letter's own."""
    labels: dict[str, str] = {}
    for label, value in pairs:
        counted = _SHARES_OF.fullmatch(value)
        if counted and kind_of(label):
            labels.setdefault("Type", label)
        if counted:
            labels.setdefault("Shares", counted[1].strip())
            if counted[2].strip():
                labels.setdefault("Security", counted[2].strip(" ."))
        else:
            labels.setdefault(label, value)
    if labels and not any(kind_of(value) and label.casefold() in _KIND_LABELS for label, value in labels.items()):
        word = next((word for word in (subject, *labels.values()) if kind_of(word)), "")
        if word and "Type" not in labels:
            labels["Type"] = word[:60]
    if labels and sent and not any(re.search(r"date|datum|dato|fecha|\bday\b", label, re.IGNORECASE) for label in labels):
        labels["Date"] = sent
    return labels


_KIND_LABELS = {"type", "transaction", "transaction type", "action", "what happened", "order type", "art", "geschäftsart", "typ"}


def _has_amount(labels: dict[str, str]) -> bool:
    return any(re.search(r"total|amount|net|betrag|belopp|received|paid", label, re.IGNORECASE) for label in labels)
