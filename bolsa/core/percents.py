"""Per cent as they are typed."""

import re
from decimal import Decimal

from bolsa.errors import InvalidInput

PLACES = 4  # decimals per cent are exact to, unless a rule keeps more
RATE_PLACES = 6  # of a yearly rate of interest or growth
_NUMBER = re.compile(r"[+-]?(?:[0-9]{1,6}(?:\.[0-9]{0,9})?|\.[0-9]{1,9})")


def parse_percent(text: str, field: str = "percent", *, lowest: int = 0, highest: int = 100, places: int = PLACES) -> Decimal:
    """Typed per cent, with "." or "," before its decimals, with "%" or without. Raises: InvalidInput.

    >>> parse_percent("62,5 %"), parse_percent("−1.25", lowest=-5)
    (Decimal('62.5'), Decimal('-1.25'))
    """
    bare = text.strip().removesuffix("%").strip().replace(",", ".").replace("−", "-")
    if not _NUMBER.fullmatch(bare):
        raise InvalidInput(f"“{text.strip()[:20]}” is no per cent. Write it like 4.5.", field=field)
    value = Decimal(bare)
    if not lowest <= value <= highest or value != round(value, places):
        least = f"{lowest}".replace("-", "−")
        raise InvalidInput(f"Per cent here are from {least} to {highest}, with up to {places} decimals.", field=field)
    return value
