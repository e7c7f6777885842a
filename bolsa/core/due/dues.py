"""What is due from kept series: each day one should come, and what came for it.

One entry pays one due, over all series of an account together (assignment.py): first the dues whose amount it has, then the
others that it may be, the nearer day first. An amount far from what is expected is another purchase. What a person said goes
before: this entry is for that due, whoever it was paid to; this one is for none; this due is left out.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import NamedTuple

from bolsa.core.assignment import assign
from bolsa.core.due.rhythm import MOST_MOVED, Rhythm, never_free

TOLERANCE_DAYS = 3
PLAUSIBLE_TIMES = 3  # an amount so many times as large or as small may still be this due
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


OF_A_DUE, OF_A_LINE = ("skipped", "missed"), ("matched", "out")


class Mark(NamedTuple):
    """What a person said: "skipped", the due of that day is left out; "missed", it has not come; "matched", a line is for it;
    "out", a line is for none."""

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
    is_noted: bool = False  # of one that is late: a person said that it has not come

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


@dataclass(frozen=True)
class Followed:
    """A series with what may have come for it: the lines of its payee on its account, in order of day, from as far before its
    first due as the tolerance reaches (of a series that expects the last amount, all of them), those that a person said are for
    it, and what was said."""

    series: Series
    came: Sequence[Came] = ()
    marks: Sequence[Mark] = ()


def follow_all(
    followed: Sequence[Followed],
    until: date,
    today: date,
    known_until: Callable[[int], date],
    is_holiday: Callable[[date], bool] = never_free,
    *,
    first: date = date.min,
) -> list[list[Due]]:
    """For each series its dues from a day (at the earliest its start) until another, in order, each with what came for it.

    One is late once its tolerance has passed and the account's own source tells of days beyond it (`known_until`, by account),
    or once its day has passed and a person says that it has not come: what happened later is not known. A series whose last dues
    all failed to come for MOST_UNMET in a row awaits nothing more.
    """
    days = [_days(one.series, first, until, is_holiday) for one in followed]
    claims = claim(followed, days)
    return [
        _dues(one, own, claimed, today, known_until(one.series.account_id))
        for one, own, claimed in zip(followed, days, claims, strict=True)
    ]


def follow(
    series: Series, came: Sequence[Came], marks: Sequence[Mark], until: date, today: date, known_until: date,
    is_holiday: Callable[[date], bool] = never_free, *, first: date = date.min,
) -> list[Due]:  # fmt: skip
    """The dues of one series, as if there were no other."""
    return follow_all([Followed(series, came, marks)], until, today, lambda _: known_until, is_holiday, first=first)[0]


def _days(series: Series, first: date, until: date, is_holiday: Callable[[date], bool]) -> list[date]:
    end = min(until, series.ended_on) if series.ended_on else until
    return series.rhythm.days(max(series.rhythm.start - timedelta(days=MOST_MOVED), first), end, is_holiday)


def _dues(followed: Followed, days: Sequence[date], claimed: dict[date, Came], today: date, known_until: date) -> list[Due]:
    series = followed.series
    skipped, missed = ({mark.day for mark in followed.marks if mark.kind == kind} for kind in ("skipped", "missed"))
    dues: list[Due] = []
    amount, unmet, since = _amount_before(series, followed.came, days), 0, None
    for day in days:
        line = claimed.get(day)
        late = (today - day).days
        is_known = late > series.tolerance_days and known_until > day + timedelta(days=series.tolerance_days)
        is_late = is_known or (late > 0 and day in missed)
        if line:
            unmet = 0
            is_like = _is_like(series, amount, line.amount_minor)
            since = None if is_like else (since if dues and dues[-1].changed_since and _same(dues[-1], line) else day)
            dues.append(Due(series, day, amount, "arrived" if is_like else "different", line, changed_since=since))
            amount = line.amount_minor if series.amount_kind == "last" else amount
        elif day in skipped:
            dues.append(Due(series, day, amount, "skipped"))
        elif is_late:
            unmet += 1
            dues.append(Due(series, day, amount, "late", late_days=late, is_noted=day in missed))
        else:
            dues.append(Due(series, day, amount, "awaited"))
    return [due for due in dues if due.state != "awaited"] if unmet >= MOST_UNMET else dues


def _is_like(series: Series, expected_minor: int, amount_minor: int) -> bool:
    return abs(amount_minor - expected_minor) * 100 <= abs(expected_minor) * series.tolerance_percent


def _is_plausible(series: Series, amount_minor: int) -> bool:
    """Whether an amount may be a due of the series at all."""
    usual, amount = abs(series.amount_minor), abs(amount_minor)
    same_way = (amount_minor > 0) == (series.amount_minor > 0)
    return same_way and amount <= PLAUSIBLE_TIMES * usual and usual <= PLAUSIBLE_TIMES * amount


def _amount_before(series: Series, came: Sequence[Came], days: Sequence[date]) -> int:
    """What the first of these days expects."""
    if series.amount_kind != "last" or not days:
        return series.amount_minor
    return _last_amount(series, came, days[0])


def _last_amount(series: Series, came: Sequence[Came], day: date) -> int:
    """The amount that came last before a due, as far as it may have been one of the series."""
    reach = day - timedelta(days=series.tolerance_days)
    earlier = [line for line in came if line.day < reach and _is_plausible(series, line.amount_minor)]
    return max(earlier, key=lambda line: line.day).amount_minor if earlier else series.amount_minor


def _same(before: Due, line: Came) -> bool:
    return before.came is not None and before.came.amount_minor == line.amount_minor


_LIKE, _PLAUSIBLE = -1_000.0, -300.0  # weights, and a day apart is one: any that has the amount goes before any that may be it


def claim(followed: Sequence[Followed], days: Sequence[Sequence[date]]) -> list[dict[date, Came]]:
    """For each series which line came for which of its days; no line is for two dues, whatever series they are of."""
    lines = {line.line_id: line for one in followed for line in one.came}
    told = [
        {mark.day: lines[mark.line_id] for mark in one.marks if mark.kind == "matched" and mark.line_id in lines}
        for one in followed
    ]
    taken = {line.line_id for by_day in told for line in by_day.values()}
    slots: list[tuple[int, date]] = []
    weights: dict[int, dict[int, float]] = {}
    for place, one in enumerate(followed):
        offers = _offers(one, days[place], taken, set(told[place]))
        seats: dict[date, int] = {}
        for line, day, weight in offers:
            if day not in seats:
                seats[day] = len(slots)
                slots.append((place, day))
            weights.setdefault(line.line_id, {})[seats[day]] = weight
    found = [{day: line for day, line in said.items() if day in set(own)} for said, own in zip(told, days, strict=True)]
    ids = sorted(weights, key=lambda id_: (lines[id_].day, id_))
    for row, slot in assign([weights[id_] for id_ in ids]).items():
        place, day = slots[slot]
        found[place][day] = lines[ids[row]]
    return found


def _offers(one: Followed, days: Sequence[date], taken: set[int], told: set[date]) -> Iterator[tuple[Came, date, float]]:
    """The lines that may be dues of a series, each with the day and the weight of that pair."""
    series = one.series
    out = taken | {mark.line_id for mark in one.marks if mark.kind == "out"}
    closed = told | {mark.day for mark in one.marks if mark.kind == "skipped"}
    reach = timedelta(days=series.tolerance_days)
    expected: dict[date, set[int]] = {}
    for line in one.came:
        if line.line_id in out or not _is_plausible(series, line.amount_minor):
            continue
        for day in days[bisect_left(days, line.day - reach) : bisect_right(days, line.day + reach)]:
            if day in closed:
                continue
            if day not in expected:
                last = {_last_amount(series, one.came, day)} if series.amount_kind == "last" else set[int]()
                expected[day] = {series.amount_minor} | last
            apart = abs((line.day - day).days)
            if any(_is_like(series, amount, line.amount_minor) for amount in expected[day]):
                yield line, day, _LIKE + apart
            else:
                off = min(abs(line.amount_minor - amount) / abs(amount) for amount in expected[day])
                yield line, day, _PLAUSIBLE + 10 * off + apart
