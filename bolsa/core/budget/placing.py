"""One placing of money, and an entry behind what was spent."""

from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from bolsa.core.months import Month


@dataclass(frozen=True)
class Placing:
    """One placing (amount above zero), taking back (below), or side of a shift (with the other category)."""

    category_id: int
    month: Month
    amount_minor: int
    made_on: date
    other_id: int | None = None
    reason: str = ""


class Spent(NamedTuple):
    """An entry behind what a category spent in a month; the amount is what was spent, less than 0 for a refund."""

    entry_id: int
    day: date
    payee: str
    amount_minor: int
