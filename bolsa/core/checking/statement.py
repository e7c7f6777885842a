"""Statements as they are kept, and what was written off at checks."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Statement:
    """What a bank says an account held at the end of a day; "open" while it is checked, then "reconciled"."""

    id: int
    account_id: int
    closing_day: date
    opening_minor: int
    closing_minor: int
    state: str
    reconciled_at: str | None
    opening_day: date | None = None  # its first day, where the bank's statement says one


@dataclass(frozen=True)
class WrittenOff:
    """What was written off in a year under a category; `amount_minor` is from the accounts' side."""

    year: int
    category: str
    currency: str
    amount_minor: int
    times: int
