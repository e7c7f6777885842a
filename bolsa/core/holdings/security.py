"""Securities, and how many shares an institution lists."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Security:
    """Something shares are held of; `code` is its ISIN, or what the institution's files call it, "" if nobody said."""

    id: int
    name: str
    code: str


@dataclass(frozen=True)
class Declared:
    """A position an institution declared for the end of a day."""

    security_id: int
    day: date
    shares_e8: int
