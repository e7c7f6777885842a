"""Payments that seem to come again and again, found from history."""

import itertools
import re
from collections.abc import Sequence
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
    spellings: tuple[str, ...] = ()  # the payees it came from, where a number was written behind the name each time

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


_NUMBERED = re.compile(r"^(.*?\D)[\s./#-]+(?:no|nr)?\.?\s*(\d{1,3})$", re.IGNORECASE)


def without_number(payee: str) -> tuple[str, int] | None:
    """A payee's name without the number at its end, and that number; None for a name without one.

    >>> without_number("Heron Nursery 11"), without_number("Heron Nursery")
    (('Heron Nursery', 11), None)
    """
    match = _NUMBERED.match(payee)
    return (match[1].strip(), int(match[2])) if match and match[1].strip() else None


def counts_along(numbered: Sequence[tuple[date, int]]) -> bool:
    """Whether the numbers behind a name, in order of day, are those of months, of weeks, or of a run: they belong to no name.

    >>> counts_along([(date(2026, 3, 2), 3), (date(2026, 4, 2), 4)]), counts_along([(date(2026, 3, 2), 7), (date(2026, 4, 2), 7)])
    (True, False)
    """
    if len({number for _, number in numbered}) < 2:
        return False
    by_month = {(number - day.month) % 12 for day, number in numbered}
    by_week = {number - day.isocalendar().week for day, number in numbered}
    is_run = all(after[1] == before[1] + 1 for before, after in itertools.pairwise(numbered))
    of_months = len(by_month) == 1 and all(1 <= number <= 12 for _, number in numbered)
    return is_run or of_months or by_week == {0}


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
