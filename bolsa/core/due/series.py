"""Payments that come again and again, found from history, and what is due from them next."""

import itertools
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from statistics import median
from typing import NamedTuple

from bolsa.core.months import add_months

FEWEST = 3
TOLERANCE_DAYS = 4


@dataclass(frozen=True)
class Rhythm:
    """How often something comes: every so many days, or every so many months on about the same day."""

    label: str
    days: int = 0
    months: int = 0

    def after(self, anchor: date, times: int) -> date:
        """The day that many occurrences after the anchor, always counted from the anchor."""
        if self.months:
            return add_months(anchor, self.months * times)
        return anchor + timedelta(days=self.days * times)


RHYTHMS = (
    Rhythm("weekly", days=7),
    Rhythm("fortnightly", days=14),
    Rhythm("four-weekly", days=28),
    Rhythm("monthly", months=1),
    Rhythm("two-monthly", months=2),
    Rhythm("quarterly", months=3),
    Rhythm("half-yearly", months=6),
    Rhythm("yearly", months=12),
)


class Occurrence(NamedTuple):
    """One time a payee's entry touched an account."""

    day: date
    amount_minor: int


@dataclass(frozen=True)
class Series:
    """Something that comes again: its rhythm, the day it last came, and the amount to expect (the last one)."""

    payee: str
    account_id: int
    rhythm: Rhythm
    last_day: date
    amount_minor: int
    times: int


@dataclass(frozen=True)
class Due:
    """One expected occurrence. `late_days` is how long past its day it is, 0 if not yet due."""

    series: Series
    day: date
    late_days: int = 0


def find_series(payee: str, account_id: int, occurrences: list[Occurrence]) -> Series | None:
    """The series the occurrences make, or None: three or more of one direction, evenly spaced, of like amounts.

    The last gaps must lie within four days of the rhythm, and the amounts within a half of their median. Occurrences
    are given in order of day.
    """
    recent = occurrences[-8:]
    if len(recent) < FEWEST or len({o.amount_minor > 0 for o in recent}) != 1:
        return None
    middle = median(abs(o.amount_minor) for o in recent)
    if any(abs(abs(o.amount_minor) - middle) > middle / 2 for o in recent):
        return None
    for rhythm in RHYTHMS:
        slack = 1 if rhythm.days else TOLERANCE_DAYS
        steps = itertools.pairwise(recent)
        if all(abs((rhythm.after(a.day, 1) - b.day).days) <= slack for a, b in steps):
            last = recent[-1]
            return Series(payee, account_id, rhythm, last.day, last.amount_minor, len(occurrences))
    return None


def dues_of(series: Series, today: date, until: date, known_until: date) -> list[Due]:
    """What is due from a series until a day: one that should have come and did not (late), then those to come.

    `known_until` is the day the account's books reach: what was due after it is not late, only not brought in yet, and
    counts for today. A series that missed more than one occurrence is taken to have ended, and gives none.
    """
    dues = []
    for times in range(1, 200):
        day = series.rhythm.after(series.last_day, times)
        if day > until:
            break
        if day < today:
            late = (today - day).days
            if (known_until - day).days > 31:
                return []
            if late > TOLERANCE_DAYS and day < known_until:
                dues.append(Due(series, day, late))
                continue
        dues.append(Due(series, max(day, today)))
    return dues


@dataclass(frozen=True)
class CurvePoint:
    """The money in everyday accounts at the end of a day."""

    day: date
    balance_minor: int


def money_curve(balance_minor: int, today: date, days: int, changes: Iterable[tuple[date, int]]) -> list[CurvePoint]:
    """The balance at the end of today and of each of the next `days` days, as the changes come."""
    by_day: dict[date, int] = {}
    for day, amount_minor in changes:
        by_day[day] = by_day.get(day, 0) + amount_minor
    points = []
    for i in range(days + 1):
        day = today + timedelta(days=i)
        balance_minor += by_day.get(day, 0)
        points.append(CurvePoint(day, balance_minor))
    return points
