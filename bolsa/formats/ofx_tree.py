"""From OFX text to a tree of elements: ofxtools first, and a recovering parser for what it refuses."""

import html
import re
from dataclasses import dataclass
from xml.etree.ElementTree import Element

from ofxtools.Parser import TreeBuilder

from bolsa.errors import UnreadableFile
from bolsa.formats.text import line_of

_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_CDATA = re.compile(r"<!\[CDATA\[(.*?)\]\]>", re.DOTALL)
_TOKEN = re.compile(r"<!--.*?-->|<\?.*?\?>|<(/?)\s*([A-Za-z][\w.:-]*)([^<>]*?)(/?)>", re.DOTALL)
_MOST_DEPTH = 40
# Elements that hold others whether or not a bank closes them; a row ends where the next one begins.
_HOLDERS = {"STMTRS", "CCSTMTRS", "BANKTRANLIST", "STMTTRN", "LEDGERBAL", "AVAILBAL", "BANKACCTFROM", "CCACCTFROM", "PAYEE"}
_ENDS_ROW = {"STMTTRN", "LEDGERBAL", "AVAILBAL", "STMTRS", "CCSTMTRS"}


@dataclass(frozen=True)
class Tree:
    """The root element, and the line each STMTTRN begins on, in document order."""

    root: Element
    lines: dict[Element, int]

    def line_of(self, element: Element) -> int:
        return self.lines.get(element, 0)


def parse_tree(text: str, start: int) -> Tree:
    """The tree below <OFX>, which begins at `start`. Raises: UnreadableFile if the file breaks off inside a list."""
    # WORKAROUND: CDATA has no place in SGML, and ofxtools does not know it; as escaped text both parsers take it.
    body = _CDATA.sub(lambda found: html.escape(found[1], quote=False), _CONTROL.sub(" ", text[start:].replace("\u00ad", "")))
    _refuse_cut_short(text, body)
    root = _by_library(body)
    if root is None:
        root = _recover(body)
    places = [start + m.start() for m in re.finditer(r"<STMTTRN\s*>", text[start:], re.IGNORECASE)]
    elements = list(root.iter("STMTTRN"))
    return Tree(root, dict(zip(elements, _lines_of(text, places), strict=False)))


def _lines_of(text: str, places: list[int]) -> list[int]:
    """The line numbers of rising positions, in one pass."""
    lines, line, before = [], 1, 0
    for place in places:
        line += line_of(text[before:place], place - before) - 1
        lines.append(line)
        before = place
    return lines


def _refuse_cut_short(text: str, body: str) -> None:
    upper = body.upper()
    for tag in ("STMTTRN", "BANKTRANLIST"):
        opened, closed = upper.rfind(f"<{tag}>"), upper.rfind(f"</{tag}>")
        if opened > closed and "</OFX>" not in upper[opened:]:
            line = line_of(text, len(text))
            raise UnreadableFile(f"The file is cut short: it ends inside <{tag}>.", line=line, found=body[-40:].strip())


def _by_library(body: str) -> Element | None:
    """The tree as ofxtools builds it, or None where it refuses the text or finds another number of rows than stand there."""
    builder = TreeBuilder()
    try:
        builder.feed(body)
        root = builder.close()
    except (SyntaxError, ValueError, AssertionError, IndexError, AttributeError):  # its ParseError is a SyntaxError
        return None
    rows = len(re.findall(r"<STMTTRN\s*>", body, re.IGNORECASE))
    return root if root is not None and root.tag == "OFX" and len(list(root.iter("STMTTRN"))) == rows else None


def _recover(body: str) -> Element:
    """The tree of a text whose end tags may be missing, whichever header it carries.

    An end tag closes its nearest open namesake and all that was left open inside. An element that has text is a leaf: the
    next start tag closes it. Which elements are never closed anywhere is known before, so that an empty leaf
    without an end tag does not swallow its neighbours.
    """
    closed_somewhere = {m[2].upper() for m in _TOKEN.finditer(body) if m[1]}
    root = Element("OFX")
    stack = [root]
    for match in _TOKEN.finditer(body):
        end, name, _, empty = match.groups()
        if name is None:
            continue
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
            raise UnreadableFile("The file nests its elements deeper than any statement does.", found=tag)
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
