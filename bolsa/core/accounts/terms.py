"""What only some kinds of account have: a card's limit and days, a loan's payment, a deposit's maturity, a curve of value."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from bolsa.core.months import Month


@dataclass(frozen=True)
class Terms:
    """The terms of one account; None or "" where they do not apply. Rates are a year's, as a fraction: 0.185 is 18.5 %."""

    limit_minor: int | None = None
    rate: Decimal | None = None
    statement_day: int | None = None
    due_day: int | None = None
    principal_minor: int | None = None
    term_months: int | None = None
    payment_minor: int | None = None
    first_payment_on: date | None = None
    interest_category_id: int | None = None
    set_by_id: int | None = None
    matures_on: date | None = None
    free_on: date | None = None
    exit_cost_minor: int | None = None
    ceiling_minor: int | None = None
    curve: str = ""
    curve_rate: Decimal | None = None
    curve_until: date | None = None
    curve_last_minor: int | None = None
    curve_index: str | None = None
    lot_method: str = "first"  # a key of core/holdings/lots.METHODS
    floor_minor: int | None = None  # the balance an everyday account should not go below


NO_TERMS = Terms()


def next_day_of_month(number: int, after: date) -> date:
    """The next day with that number after the day; a short month's last day stands for a number it does not have."""
    month = Month.of(after)
    day = month.day(number)
    return day if day > after else (month + 1).day(number)


def used_of_limit(balance_minor: int, limit_minor: int) -> tuple[int, float]:
    """What of a card's limit is used, in minor units, and as a share of it; a card in credit uses none."""
    used = max(0, -balance_minor)
    return used, used / limit_minor if limit_minor else 0.0
