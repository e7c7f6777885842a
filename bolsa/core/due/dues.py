"""What is due from a kept series: each day it should come, and what came for it.

An entry of the same payee on the same account claims the due nearest to its day, one entry one due, the nearest first. What a
person said goes before: this entry is for that due, this one for none, this due is left out.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import NamedTuple

from bolsa.core.due.rhythm import MOST_MOVED, Rhythm, never_free

TOLERANCE_DAYS = 3
MOST_UNMET = 3  # dues in a row that did not come: then it seems to have ended
AMOUNT_KINDS = ("fixed", "last")


@dataclass(frozen=True)
class Series:
    """Something kept as coming again on an account: its rhythm, the amount ("fixed", or the "last" that came), how far a day and
    an amount may lie off and still be as expected."""

    id: int
    payee_id: int
    payee: str
    account_id: int
    currency: str
    rhythm: Rhythm
    amount_minor: int
    amount_kind: str = "fixed"
    category_id: int | None = None
    tolerance_days: int = TOLERANCE_DAYS
    tolerance_percent: int = 0
    ended_on: date | None = None


class Came(NamedTuple):
    """An entry's line on the series' account, of its payee."""

    line_id: int
    entry_id: int
    day: date
    amount_minor: int


class Mark(NamedTuple):
    """What a person said: "skipped", the due of that day is left out; "matched", a line is for it; "out", a line is for none."""

    kind: str
    day: date
    line_id: int | None = None


@dataclass(frozen=True)
class Due:
    """One time a series should come. `state` is awaited, arrived, different, late or skipped; `came` is what claimed it."""

    series: Series
    day: date
    expected_minor: int
    state: str
    came: Came | None = None
    late_days: int = 0
    changed_since: date | None = None  # of one that came with another amount: since when it does

    @property
    def differs_minor(self) -> int:
        """How much more money to the household than expected came, less than 0 if less."""
        return self.came.amount_minor - self.expected_minor if self.came else 0

    @property
    def differs_percent(self) -> int:
        """The same of what was expected, more paid or received above 0. Rounding: half up, once."""
        if not self.expected_minor:
            return 0
        more = abs(self.came.amount_minor) - abs(self.expected_minor) if self.came else 0
        return (200 * more + abs(self.expected_minor)) // (2 * abs(self.expected_minor))


def follow(
    series: Series,
    came: Sequence[Came],
    marks: Sequence[Mark],
    until: date,
    today: date,
    known_until: date,
    is_holiday: Callable[[date], bool] = never_free,
    *,
    first: date = date.min,
) -> list[Due]:
    """The dues of a series from a day (at the earliest its start) until another, in order, each with what came for it. `came` are
    the lines from as far before the first day as the tolerance reaches; of a series that expects the last amount, all of them.

    One is late once its tolerance has passed and the account's books reach beyond it (`known_until`): what happened later is not
    known. A series whose last dues all failed to come for MOST_UNMET in a row awaits nothing more.
    """
    end = min(until, series.ended_on) if series.ended_on else until
    days = series.rhythm.days(max(series.rhythm.start - timedelta(days=MOST_MOVED), first), end, is_holiday)
    claimed = _claims(series, days, came, marks)
    skipped = {mark.day for mark in marks if mark.kind == "skipped"}
    dues: list[Due] = []
    amount, unmet, since = _amount_before(series, came, days), 0, None
    for day in days:
        line = claimed.get(day)
        late = (today - day).days
        is_late = late > series.tolerance_days and known_until > day + timedelta(days=series.tolerance_days)
        if line:
            unmet = 0
            is_like = abs(line.amount_minor - amount) * 100 <= abs(amount) * series.tolerance_percent
            since = None if is_like else (since if dues and dues[-1].changed_since and _same(dues[-1], line) else day)
            dues.append(Due(series, day, amount, "arrived" if is_like else "different", line, changed_since=since))
            amount = line.amount_minor if series.amount_kind == "last" else amount
        elif day in skipped:
            dues.append(Due(series, day, amount, "skipped"))
        elif is_late:
            unmet += 1
            dues.append(Due(series, day, amount, "late", late_days=late))
        else:
            dues.append(Due(series, day, amount, "awaited"))
    return [due for due in dues if due.state != "awaited"] if unmet >= MOST_UNMET else dues


def _amount_before(series: Series, came: Sequence[Came], days: Sequence[date]) -> int:
    """What the first of these days expects."""
    if series.amount_kind != "last" or not days:
        return series.amount_minor
    reach = days[0] - timedelta(days=series.tolerance_days)
    earlier = [line for line in came if line.day < reach and (line.amount_minor > 0) == (series.amount_minor > 0)]
    return max(earlier, key=lambda line: line.day).amount_minor if earlier else series.amount_minor


def _same(before: Due, line: Came) -> bool:
    return before.came is not None and before.came.amount_minor == line.amount_minor


def _claims(series: Series, days: Sequence[date], came: Sequence[Came], marks: Sequence[Mark]) -> dict[date, Came]:
    """Which line claims which due."""
    by_line = {line.line_id: line for line in came}
    told = {mark.day: by_line[mark.line_id] for mark in marks if mark.kind == "matched" and mark.line_id in by_line}
    taken = {line.line_id for line in told.values()} | {mark.line_id for mark in marks if mark.kind == "out"}
    closed = told.keys() | {mark.day for mark in marks if mark.kind == "skipped"}
    reach = timedelta(days=series.tolerance_days)
    pairs = sorted(
        (abs((line.day - day).days), day, line)
        for line in came
        if line.line_id not in taken and (line.amount_minor > 0) == (series.amount_minor > 0)
        for day in days[bisect_left(days, line.day - reach) : bisect_right(days, line.day + reach)]
        if day not in closed
    )
    found = {day: line for day, line in told.items() if day in set(days)}
    used = set(taken)
    for _, day, line in pairs:
        if day not in found and line.line_id not in used:
            found[day] = line
            used.add(line.line_id)
    return found
