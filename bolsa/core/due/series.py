"""Payments that seem to come again and again, found from history."""

import itertools
from dataclasses import dataclass
from datetime import date, timedelta
from statistics import median
from typing import NamedTuple

from bolsa.core.due.rhythm import Rhythm
from bolsa.core.months import Month, add_months

FEWEST = 3
LOOKED_AT = 8  # the latest times, which say more than those of years ago
TOLERANCE_DAYS = 4


@dataclass(frozen=True)
class Spacing:
    """How far apart the times something came may lie: so many days, or so many months on about the same day."""

    label: str
    days: int = 0
    months: int = 0

    def after(self, anchor: date) -> date:
        """The day it comes next after the anchor."""
        if self.months:
            return add_months(anchor, self.months)
        return anchor + timedelta(days=self.days)


SPACINGS = (
    Spacing("weekly", days=7),
    Spacing("fortnightly", days=14),
    Spacing("four-weekly", days=28),
    Spacing("monthly", months=1),
    Spacing("two-monthly", months=2),
    Spacing("quarterly", months=3),
    Spacing("half-yearly", months=6),
    Spacing("yearly", months=12),
)


class Occurrence(NamedTuple):
    """One time a payee's entry touched an account."""

    day: date
    amount_minor: int


@dataclass(frozen=True)
class FoundSeries:
    """Something that seems to come again: since when, at what spacing, when last and how often; the amount to expect is the last
    one, which the others lay within so many per cent of."""

    payee: str
    account_id: int
    spacing: Spacing
    first_day: date
    last_day: date
    amount_minor: int
    times: int
    within_percent: int

    @property
    def rhythm(self) -> Rhythm:
        """As a rule that names the day it came last, and as many before it as were looked at."""
        if self.spacing.days:
            apart = timedelta(days=self.spacing.days)
            start = self.last_day - round((self.last_day - self.first_day) / apart) * apart
            weeks = self.spacing.days // 7
            return Rhythm("FREQ=WEEKLY" if weeks == 1 else f"FREQ=WEEKLY;INTERVAL={weeks}", start)
        months = Month.of(self.last_day) - Month.of(self.first_day)
        start = add_months(self.last_day, -(months - months % self.spacing.months))
        rule = "FREQ=MONTHLY" if self.spacing.months == 1 else f"FREQ=MONTHLY;INTERVAL={self.spacing.months}"
        rule = "FREQ=YEARLY" if self.spacing.months == 12 else rule
        if start.day == self.day_of_month:
            return Rhythm(rule, start)
        return Rhythm(
            f"{rule};BYMONTHDAY={self.day_of_month}" + (f";BYMONTH={start.month}" if "YEAR" in rule else ""), start.replace(day=1)
        )

    @property
    def day_of_month(self) -> int:
        """The day it comes on, 31 for a month's last."""
        is_last = (self.last_day + timedelta(days=1)).day == 1
        return 31 if is_last else self.last_day.day


def find_series(payee: str, account_id: int, occurrences: list[Occurrence]) -> FoundSeries | None:
    """The series the occurrences make, or None: three or more of one direction, evenly spaced, of like amounts.

    The last gaps must lie within four days of the spacing, and the amounts within a half of their median. Occurrences
    are given in order of day.
    """
    recent = occurrences[-LOOKED_AT:]
    if len(recent) < FEWEST or len({o.amount_minor > 0 for o in recent}) != 1:
        return None
    middle = median(abs(o.amount_minor) for o in recent)
    if any(abs(abs(o.amount_minor) - middle) > middle / 2 for o in recent):
        return None
    for spacing in SPACINGS:
        slack = 1 if spacing.days else TOLERANCE_DAYS
        if all(abs((spacing.after(a.day) - b.day).days) <= slack for a, b in itertools.pairwise(recent)):
            last = recent[-1]
            widest = max(abs(o.amount_minor - last.amount_minor) for o in recent)
            within = -(-100 * widest // abs(last.amount_minor)) if last.amount_minor else 0
            return FoundSeries(payee, account_id, spacing, recent[0].day, last.day, last.amount_minor, len(occurrences), within)
    return None
