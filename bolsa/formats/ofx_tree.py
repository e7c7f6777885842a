"""From OFX text to a tree of elements: ofxtools first, and a recovering parser for what it refuses."""

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element

from bolsa.core.known import known
from bolsa.errors import UnreadableFile
from bolsa.formats.ofx_leaves import PlainRow
from bolsa.formats.text import line_of, lines_between, replace_between

_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_TOKEN = re.compile(r"<(/?)\s*([A-Za-z][\w.:-]*)([^<>]*)>")
_FILE_END = re.compile(r"</OFX\s*>", re.IGNORECASE)
_SMALL_TAG = re.compile(r"</?[a-z]")
_END_TAG = re.compile(r"</\s*([A-Za-z][\w.:-]*)")
_AMOUNT = re.compile(r"<TRNAMT\s*>([^<]*)", re.IGNORECASE)
_PENDING = re.compile(r"<STMTTRNP\s*>", re.IGNORECASE)
_MOST_DEPTH = 40
TOO_DEEP = "The file nests its elements deeper than any statement does."
# Elements that hold others whether or not a bank closes them; a row ends where the next one begins.
_HOLDERS = {
    "STMTRS", "CCSTMTRS", "BANKTRANLIST", "STMTTRN", "LEDGERBAL", "AVAILBAL", "BANKACCTFROM", "CCACCTFROM", "PAYEE", "INVSTMTRS",
    "INVACCTFROM", "INVTRANLIST", "INVPOSLIST", "INVPOS", "INVTRAN", "INVBUY", "INVSELL", "SECID", "SECINFO", "SECLIST",
}  # fmt: skip
_ENDS_ROW = {"STMTTRN", "LEDGERBAL", "AVAILBAL", "STMTRS", "CCSTMTRS"}


_ROW = re.compile(
    r"<STMTTRN(?:\s[^<>]*)?>(.*?)(?:</STMTTRN\s*>|(?=<STMTTRN[\s>]|</?BANKTRANLIST|<(?:LEDGERBAL|AVAILBAL)\b|</?(?:CC)?STMTRS\b)|\Z)",
    re.IGNORECASE | re.DOTALL,
)
# An element without words of its own may hold others: such a row is for the library. So is a letter written as an entity.
_LEAF = re.compile(r"<([A-Z][A-Z0-9.]*+)>\s*+([^<>&]++)(?:</\1\s*+>\s*+)?")
_PLAIN_ROW = re.compile(rf"\s*+(?:{_LEAF.pattern})++")
_RUN = "STMTTRN"  # in the tree, one such element stands for each run of rows, in their order


@dataclass(frozen=True)
class Row:
    """One STMTTRN: its element, read by itself, and the line it begins on."""

    element: Element | PlainRow
    line: int


class Tree:
    """The root element of everything but the rows, which are read one at a time from the text, however many they are."""

    def __init__(self, body: str, first_line: int):
        self._body, self._first_line = body, first_line
        self._runs: list[tuple[int, int]] = []  # where in the text each run of rows begins and ends
        self._closed: set[str] | None = None
        frame = self._cut_out_rows()
        root = _by_library(frame, "OFX")
        # WORKAROUND: where an end tag is missing the library may take a list for closed too early; a run that is lost says so.
        if root is not None:
            _refuse_deep(root)
        if root is None or len(list(root.iter(_RUN))) != len(self._runs):
            root = _recover(frame, self._closed_somewhere())
        self.root = root
        runs = list(self.root.iter(_RUN))
        if len(runs) != len(self._runs):
            raise UnreadableFile("The tags around the rows (STMTTRN) do not fit together.", line=first_line)
        self._run_of = dict(zip(runs, self._runs, strict=True))

    def _cut_out_rows(self) -> str:
        """The text with each run of rows replaced by one element; the runs are noted."""
        parts, end = [], 0
        for match in _ROW.finditer(self._body):
            between = self._body[end : match.start()]
            if self._runs and not between.strip():
                self._runs[-1] = self._runs[-1][0], match.end()
            else:
                parts += [between, f"<{_RUN}><FITID>0</FITID></{_RUN}>"]
                self._runs.append((match.start(), match.end()))
            end = match.end()
        return "".join([*parts, self._body[end:]])

    def _closed_somewhere(self) -> set[str]:
        if self._closed is None:
            self._closed = {m[1].upper() for m in _END_TAG.finditer(self._body)}
        return self._closed

    def rows(self, statement: Element) -> Iterator[Row]:
        """The rows of a statement in order."""
        line, place = self._first_line, 0
        for begin, end in self._runs_of(statement):
            for match in _ROW.finditer(self._body, begin, end):
                line, place = line + lines_between(self._body, place, match.start()), match.start()
                yield Row(_plain_row(match[1]) or self._other_row(match[1]), line)

    def _other_row(self, text: str) -> Element:
        fragment = f"<STMTTRN>{text}</STMTTRN>"
        element = _by_library(fragment, "STMTTRN")
        return element if element is not None else known(_recover(fragment, self._closed_somewhere()).find("STMTTRN"))

    def amounts(self, statement: Element) -> Iterator[str]:
        """The texts of the amounts of a statement's rows, from which the decimal mark is found."""
        for begin, end in self._runs_of(statement):
            for match in _AMOUNT.finditer(self._body, begin, end):
                yield html.unescape(match[1]).strip()

    def _runs_of(self, statement: Element) -> Iterator[tuple[int, int]]:
        for run in statement.iter(_RUN):
            yield self._run_of[run]

    def line_of_pending(self, pending: Element) -> int:
        """The line on which a pending row of the tree begins; 0 if it cannot be told."""
        places = zip(self.root.iter("STMTTRNP"), _PENDING.finditer(self._body), strict=False)
        found = next((match.start() for element, match in places if element is pending), None)
        return self._first_line + lines_between(self._body, 0, found) if found is not None else 0


def _plain_row(text: str) -> PlainRow | None:
    """The row where it is nothing but leaves with words in them; None for any other."""
    if not _PLAIN_ROW.fullmatch(text):
        return None
    return PlainRow((tag, " ".join(words.split())) for tag, words in reversed(_LEAF.findall(text)))


def parse_tree(text: str, start: int) -> Tree:
    """The tree below <OFX>, which begins at `start`. Raises: UnreadableFile if the file breaks off inside a list."""
    first_line = line_of(text, start)
    body = text[start:].replace("\u00ad", "")
    # WORKAROUND: CDATA has no place in SGML, and ofxtools does not know it; as escaped text both parsers take it.
    body = replace_between(body, "<![CDATA[", "]]>", lambda words: html.escape(words, quote=False))
    body = _CONTROL.sub(" ", body)
    _refuse_cut_short(body, first_line)
    return Tree(body, first_line)


def _refuse_cut_short(body: str, first_line: int) -> None:
    for tag in ("STMTTRN", "BANKTRANLIST"):
        opened = closed = -1
        for match in re.finditer(rf"<(/?){tag}\s*>", body, re.IGNORECASE):
            opened, closed = (opened, match.start()) if match[1] else (match.start(), closed)
        if opened > closed and not _FILE_END.search(body, opened):
            line = first_line + lines_between(body, 0, len(body))
            raise UnreadableFile(f"The file is cut short: it ends inside <{tag}>.", line=line, found=body[-40:].strip())


def _by_library(text: str, root_tag: str) -> Element | None:
    """The tree as ofxtools builds it, or None where it refuses the text, or would take small letters for other elements."""
    if _SMALL_TAG.search(text):
        return None
    from ofxtools.Parser import TreeBuilder  # half a second to import: only who reads OFX waits for it

    builder = TreeBuilder()
    try:
        builder.feed(text)
        root = builder.close()
    except (SyntaxError, ValueError, AssertionError, IndexError, AttributeError):  # its ParseError is a SyntaxError
        return None
    return root if root is not None and root.tag == root_tag else None


def _refuse_deep(root: Element) -> None:
    """Nothing, if a tree is as shallow as statements are: whoever looks through each element's own would look for ever."""
    level = [root]
    for _ in range(_MOST_DEPTH):
        level = [child for element in level for child in element]
        if not level:
            return
    raise UnreadableFile(TOO_DEEP, found=level[0].tag)


def _recover(body: str, closed_somewhere: set[str]) -> Element:
    """The tree of a text whose end tags may be missing, whichever header it carries.

    An end tag closes its nearest open namesake and all that was left open inside. An element that has text is a leaf: the
    next start tag closes it. `closed_somewhere` are the elements that the file closes anywhere, so that an empty leaf without
    an end tag does not swallow its neighbours.
    """
    root = Element("OFX")
    stack = [root]
    for mark in (("<!--", "-->"), ("<?", "?>")):
        body = replace_between(body, *mark, lambda _: "<!>")
    for match in _TOKEN.finditer(body):
        end, name, more = match.groups()
        empty = more.endswith("/")
        tag = name.upper().rpartition(":")[2]
        if tag == "OFX":
            continue
        if end:
            _close(stack, tag)
            continue
        if _is_leaf(stack[-1]):
            stack.pop()
        if tag in _ENDS_ROW:
            _close(stack, "STMTTRN")
        element = Element(tag)
        stack[-1].append(element)
        following = _text_after(body, match.end())
        if empty or (not following.strip() and name.upper() not in closed_somewhere and tag not in _HOLDERS):
            continue
        if len(stack) >= _MOST_DEPTH:
            raise UnreadableFile(TOO_DEEP, found=tag)
        stack.append(element)
        element.text = following
    return root


def _text_after(body: str, position: int) -> str:
    end = body.find("<", position)
    return body[position : end if end >= 0 else len(body)]


def _is_leaf(element: Element) -> bool:
    return bool((element.text or "").strip()) and not len(element)


def _close(stack: list[Element], tag: str) -> None:
    for depth in range(len(stack) - 1, 0, -1):
        if stack[depth].tag == tag:
            del stack[depth:]
            return
