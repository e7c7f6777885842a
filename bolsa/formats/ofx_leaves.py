"""What stands in the leaves of an OFX tree: texts, amounts and days, as banks write them."""

import html
import re
from datetime import date
from functools import lru_cache
from xml.etree.ElementTree import Element

from bolsa.formats.dates import day_or_month_end


@lru_cache(20_000)  # a file names the same days again and again
def read_ofx_day(text: str) -> date | None:
    """The day of an OFX date-time (YYYYMMDD, then perhaps time, fraction and [offset:zone]), as the bank wrote it.

    The offset is not applied: a booking's day is the bank's calendar day.
    """
    match = re.match(r"\s*(\d{4})[-/.]?(\d{2})[-/.]?(\d{2})", text or "")
    return day_or_month_end(*(int(part) for part in match.groups())) if match else None


class PlainRow(dict[str, str]):
    """A row that is nothing but leaves with words in them, as nearly all rows are: each tag's first words."""

    def find(self, path: str) -> None:
        """The element of this path: there is none."""


def text_of(element: Element | PlainRow | None, path: str) -> str:
    """The text of a leaf below the element, wherever a missing end tag may have put it; "" if there is none."""
    if element is None:
        return ""
    if isinstance(element, PlainRow):
        return element.get(path, "")
    found = element.find(path)
    if found is None:
        found = element.find(f".//{path}") if "/" in path else next(element.iter(path), None)
    text = found.text if found is not None else None
    return " ".join((html.unescape(text) if "&" in text else text).split()) if text else ""
