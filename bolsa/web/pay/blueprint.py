"""The blueprint the pages of pay share, and what its forms have in common."""

import re
from decimal import Decimal

from flask import Blueprint, g

from bolsa.core.amounts import parse_amount, parse_exact
from bolsa.core.units import Percent
from bolsa.errors import InvalidInput

blueprint = Blueprint("pay", __name__, template_folder="templates")
KIND_WORDS = {
    "earned": "Earned", "before": "Taken off before tax", "tax": "Taxes", "after": "Taken off after tax",
    "employer": "The employer’s part",
}  # fmt: skip
_TO = re.compile(r"([ac])(\d{1,18})")


def parse_to(text: str) -> tuple[int | None, int | None]:
    """The account or the category a line goes to, as its choice sends it: a12, c7, or nothing."""
    found = _TO.fullmatch(text)
    if text and not found:
        raise InvalidInput("Choose an account or a category.", field="lines")
    if not found:
        return None, None
    return (int(found[2]), None) if found[1] == "a" else (None, int(found[2]))


def parse_amount_or_percent(text: str, currency: str) -> tuple[int | None, Percent | None]:
    """An amount in minor units or so many per cent of gross ("6 %"), as the reader writes it; neither, where nothing is typed."""
    text = text.strip()
    if not text:
        return None, None
    if text.endswith("%"):
        value = parse_exact(text[:-1], g.reader.decimal_mark, "a percentage", "lines", "6 %")
        if not 0 <= value <= 100 or value != value.quantize(Decimal("0.0001")):
            raise InvalidInput(f"“{text[:20]}” is no percentage. Write it like “6 %”.", field="lines")
        return None, Percent(value)
    return parse_amount(text, currency, decimal_mark=g.reader.decimal_mark, field="lines"), None
