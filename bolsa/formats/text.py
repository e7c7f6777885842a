"""From bytes to text: what encoding a file really has, whatever it declares."""

import codecs
import re
from collections.abc import Callable, Iterator

from bolsa.errors import UnreadableFile

MOST_BYTES = 32 * 1024 * 1024
_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n)|[^\r\n]+")
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
WIDE_MARKS = tuple(mark for mark, encoding in _MARKS if encoding != "utf-8-sig")
_BINARY_STARTS = {
    b"%PDF": "a PDF",
    b"PK\x03\x04": "a ZIP or spreadsheet file",
    b"\x89PNG": "a picture",
    b"\xff\xd8\xff": "a picture",
    b"\xd0\xcf\x11\xe0": "an old spreadsheet or document",
    b"SQLite": "a database",
    b"\x1f\x8b": "a compressed file",
}


def decode(content: bytes, declared: str | None = None) -> str:
    """The text of a file. A byte order mark decides; else UTF-8 if it is valid; else what is declared; else Windows-1252.

    WORKAROUND: banks declare ASCII and send accents, or declare a code page and send UTF-8. Valid UTF-8 with a byte
    above 127 is almost never an accident, so it is believed before the declaration.
    Raises: UnreadableFile if the file is empty, too large, or plainly no text.
    """
    if not content.strip(b"\x00\t\r\n \xef\xbb\xbf"):
        raise UnreadableFile("The file is empty.")
    if len(content) > MOST_BYTES:
        raise UnreadableFile(f"The file is larger than {MOST_BYTES // 1024 // 1024} MB. Ask the bank for a shorter period.")
    for start, what in _BINARY_STARTS.items():
        if content.startswith(start):
            raise UnreadableFile(f"The file is {what}, not a bank's file of entries.")
    for mark, encoding in _MARKS:
        if content.startswith(mark):
            return _decode_as(content, encoding)
    wide = _wide_without_mark(content)
    if wide:
        return _decode_as(content, wide)
    if content.count(0) > len(content) // 100:
        raise UnreadableFile("The file is not text: it is full of zero bytes.")
    for encoding in filter(None, ("utf-8", declared, "cp1252")):
        if encoding:
            try:
                return content.decode(encoding)
            except (UnicodeDecodeError, LookupError):
                continue
    return content.decode("latin-1")


def require_utf8(content: bytes) -> None:
    """Nothing, if a file that says so is UTF-8. Raises: UnreadableFile naming the line: its letters would be guessed."""
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        line = 1 + content.count(b"\n", 0, error.start)
        found = content[max(0, error.start - 20) : error.start + 10].decode("latin-1")
        raise UnreadableFile("The file says that it is UTF-8, and these bytes are not.", line=line, found=found) from error


def require_no_zero_bytes(text: str) -> None:
    """Nothing, if a text holds no zero bytes but those that fill up its end. Raises: UnreadableFile naming the line."""
    at = text.find("\x00")
    if at >= 0 and text[at:].strip("\x00\x1a\r\n "):
        raise UnreadableFile(
            "It holds zero bytes, as no text does: it was damaged, or is another kind of file.", line=line_of(text, at)
        )


def _decode_as(content: bytes, encoding: str) -> str:
    try:
        return content.decode(encoding)
    except UnicodeDecodeError as error:
        raise UnreadableFile(f"The file begins as {encoding} text, but byte {error.start} does not fit.") from error


def _wide_without_mark(content: bytes) -> str | None:
    """UTF-16 that lost its mark shows as a zero in every other byte of its plain letters."""
    head = content[:400]
    half = max(1, len(head) // 2)
    if head[1::2].count(0) > half * 0.7 and head[::2].count(0) < half * 0.1:
        return "utf-16-le"
    if head[::2].count(0) > half * 0.7 and head[1::2].count(0) < half * 0.1:
        return "utf-16-be"
    return None


def replace_between(text: str, begin: str, end: str, change: Callable[[str], str]) -> str:
    """The text with each stretch from a beginning mark to its end mark changed, marks and all; one that never ends stays.

    The text is gone through once: a pattern would look for the end anew from each mark, which takes hours where none is closed.
    """
    parts, place = [], 0
    while (at := text.find(begin, place)) >= 0 and (until := text.find(end, at + len(begin))) >= 0:
        parts += [text[place:at], change(text[at + len(begin) : until])]
        place = until + len(end)
    return "".join([*parts, text[place:]]) if parts else text


def line_of(text: str, position: int) -> int:
    """The number of the line a position is in, counted from 1; CR, LF and CRLF each end one."""
    return 1 + lines_between(text, 0, position)


def lines_between(text: str, start: int, end: int) -> int:
    """How many lines end between two positions; CR, LF and CRLF each end one. The text is not copied."""
    return text.count("\n", start, end) + text.count("\r", start, end) - text.count("\r\n", start, end)


def lines_of(text: str) -> Iterator[str]:
    """The lines with their ends, one at a time. The text is not copied, as a StringIO would, at four bytes a letter."""
    return (match.group() for match in _LINE.finditer(text))
