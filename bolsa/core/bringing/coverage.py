"""What a source covers: the days of an account of which it tells all bookings, and how its days lie beside those of another.

A bank's statement tells every booking of its days. So where two sources cover the same days their bookings are the same ones,
and a booking that only one of them tells is missing in the other. How surely a day is covered depends on where it lies in the
stretch: the last day may not have been over, and a file without a declared period may have begun or ended in the middle of
something.
"""

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache
from math import log

LAST_DAY = 0.7  # how likely a booking of a stretch's last day was told already
RAGGED = (0.5, 0.7, 0.85)  # the same of the outermost days of a file that declares no period
FRIDAY_IS_OVER = 5
FIRST_DAYS = 90  # asked for of an account of which nothing is known
OVERLAP_DAYS = 10  # asked for again: what is booked late
MOST_DAYS_BACK = 730
FORGOTTEN = 0.0003  # of a thousand bookings on covered days, those a bank leaves out
DAYS_MOVED = 7  # purchase, booking and value day of one booking lie within a slow bank's long weekend

# How many working days lie between those two sources give for one booking, before anything is seen of them.
_OTHER_LAYOUT = (0.79, 0.07, 0.02, 0.01, 0.004, 0.001)
_SAME_LAYOUT = (0.99464, 0.002, 0.0005, 0.0001, 0.00005, 0.00003)
_PRIOR_SEEN = 2.0  # the prior weighs as much as so many bookings


def working_days(since: date, until: date) -> int:
    """How many of the days after one, until another, are no Saturday or Sunday; negative where the other lies before.

    >>> working_days(date(2026, 2, 20), date(2026, 2, 23)), working_days(date(2026, 2, 22), date(2026, 2, 20))
    (1, 0)
    """
    return _counted(until.toordinal()) - _counted(since.toordinal())


def _counted(ordinal: int) -> int:
    """The working days until one, since the Monday on which the calendar begins."""
    return ordinal // 7 * 5 + min(ordinal % 7, 5)


@lru_cache(4096)
def _moved(day: date, working: int) -> date:
    """The day so many working days later, or earlier."""
    step = 1 if working > 0 else -1
    while working:
        day = date.fromordinal(day.toordinal() + step)
        if day.weekday() < FRIDAY_IS_OVER:
            working -= step
    return day


@dataclass(frozen=True)
class Coverage:
    """The days of an account, first and last, of which a source tells all bookings; `layout` is the source's format, and the
    shape of its table. `is_declared` says that the source names its period; otherwise it is that of its rows."""

    layout: str
    first: date
    last: date
    is_declared: bool = False

    def chance(self, day: date) -> float:
        """How likely a booking of this day was told by the source, 0 to 1."""
        since, until = (day - self.first).days, (self.last - day).days
        if since < 0 or until < 0:
            return 0.0
        if self.is_declared:
            return 1.0 if until else LAST_DAY
        edge = min(since, until)
        return RAGGED[edge] if edge < len(RAGGED) else 1.0


def covered_until(stretches: Sequence[Coverage], day: date) -> date | None:
    """The last day that is covered, day after day, since the first of these stretches (in order) that begins before a day; None
    if none does. What begins after a gap is not part of it."""
    until: date | None = None
    for one in stretches:
        if one.first >= day:
            break
        if until is not None and (one.first - until).days > 1:
            break
        until = max(until, one.last) if until else one.last
    return until


def first_to_ask(stretches: Sequence[Coverage], agreed: date | None, today: date) -> date:
    """The first day to ask an institution for: from the first gap on, and back to when it last agreed with what is here.

    `stretches` are what was brought in, in order; `agreed` is the last day on which the declared balance was the one here. What
    lies before all that was brought in is asked for as of an account of which nothing is known.
    """
    oldest = today - timedelta(days=MOST_DAYS_BACK)
    recent = [one for one in stretches if one.last >= oldest]
    until = covered_until(recent, today + timedelta(days=1))
    if until is None:
        return today - timedelta(days=FIRST_DAYS)
    surely_known = min(until, agreed) if agreed else min(until, today - timedelta(days=FIRST_DAYS))
    beginning = min(recent[0].first, today - timedelta(days=FIRST_DAYS))
    return max(oldest, beginning, surely_known - timedelta(days=OVERLAP_DAYS))


@dataclass(frozen=True)
class Lag:
    """A way in which the days of two sources follow from each other: `between` gives every lag that leads from one day to the
    other, negative where the other lies before; `moved` the day that a lag leads to."""

    between: Callable[[date, date], tuple[int, ...]]
    moved: Callable[[date, int], date]


def _working_between(there: date, here: date) -> tuple[int, ...]:
    return (working_days(there, here),)


def _rolled_between(there: date, here: date) -> tuple[int, ...]:
    """Lags in calendar days, after which a weekend is passed over: what was paid on a Thursday and is booked on Monday took two,
    three or four.

    >>> _rolled_between(date(2026, 3, 26), date(2026, 3, 30)), _rolled_between(date(2026, 3, 27), date(2026, 3, 26))
    ((4, 3, 2), (-1,))
    """
    sign, days, later = (1, (here - there).days, here) if here >= there else (-1, (there - here).days, there)
    passed_over = 2 if later.weekday() == 0 else 0
    return tuple(sign * lag for lag in range(days, max(days - passed_over, 0) - 1, -1))


def _rolled(day: date, lag: int) -> date:
    moved = day + timedelta(days=lag)
    return moved + timedelta(days=7 - moved.weekday()) if lag >= 0 and moved.weekday() >= FRIDAY_IS_OVER else moved


IN_WORKING_DAYS = Lag(_working_between, _moved)
IN_CALENDAR_DAYS = Lag(_rolled_between, _rolled)


class Habit:
    """How much later than another source this one gives the same booking, as seen so far (pairs of the other's day and this
    one's): in the way of counting days that explains what was seen better."""

    def __init__(
        self, *, is_same_layout: bool, seen: Sequence[tuple[date, date]] = (), elsewhere: Sequence[tuple[date, date]] = ()
    ):
        """`elsewhere` is how much later than the other source further ones gave the same bookings: what is expected of this one
        while little was seen of it."""
        prior = _SAME_LAYOUT if is_same_layout else _OTHER_LAYOUT
        ways = (IN_WORKING_DAYS, IN_CALENDAR_DAYS) if seen or elsewhere else (IN_WORKING_DAYS,)
        found = [_Seen(way, prior, seen, elsewhere) for way in ways]
        self.seen = max(found, key=lambda one: one.log_likelihood((*seen, *elsewhere)))

    def cost(self, there: date, here: date) -> float | None:
        """The cost of a booking being of one day there and of the other here (−ln of how often that happens); None if it never
        does.

        A pair is no witness of itself: one that lies so was seen once less.
        """
        if abs((here - there).days) > DAYS_MOVED:
            return None
        chance = self.seen.chance_between(there, here, itself=1.0)
        return -log(chance) if chance else None

    def covered(self, coverage: Coverage, day: date, *, is_here: bool) -> float:
        """How likely a booking of `day` was told by the covering source: `is_here` says that the day is this source's and the
        coverage the other's; otherwise it is the other way round."""
        since, until = (day - coverage.first).days, (coverage.last - day).days
        deep = DAYS_MOVED + len(RAGGED)
        if since >= deep and until >= deep:
            return 1.0
        if since < -DAYS_MOVED or until < -DAYS_MOVED:
            return 0.0
        turn = -1 if is_here else 1
        moved = self.seen.lag.moved
        return sum(chance * coverage.chance(moved(day, turn * later)) for later, chance in self.seen.chances.items())


class _Seen:
    """How often each lag was seen, counted in one way; what several lags explain is shared among them as likely as they are."""

    ROUNDS = 5
    MOST_ELSEWHERE = 4.0  # bookings, as which what was seen of other sources weighs at most

    def __init__(
        self,
        lag: Lag,
        prior: Sequence[float],
        seen: Sequence[tuple[date, date]],
        elsewhere: Sequence[tuple[date, date]] = (),
    ):
        self.lag, self.lags = lag, range(1 - len(prior), len(prior))
        self.counts: Mapping[int, float] = {}
        self.total = 0
        self.weight = _PRIOR_SEEN
        self.prior: Mapping[int, float] = {one: prior[abs(one)] for one in self.lags}
        if elsewhere:
            self._count(elsewhere)
            self.prior, self.counts, self.total = {one: self.chance(one) for one in self.lags}, {}, 0
            self.weight += min(len(elsewhere), self.MOST_ELSEWHERE)
        self._count(seen)
        self.chances: Mapping[int, float] = {one: self.chance(one) for one in self.lags}

    def _count(self, seen: Sequence[tuple[date, date]]) -> None:
        times = Counter(self.lag.between(*pair) for pair in seen)
        for _ in range(self.ROUNDS if any(len(lags) > 1 for lags in times) else 1):
            counts: dict[int, float] = defaultdict(float)
            for lags, many in times.items():
                chances = [self.chance(one) for one in lags]
                for one, chance in zip(lags, chances, strict=True):
                    counts[one] += many * chance / (sum(chances) or 1.0)
            self.counts, self.total = counts, len(seen)

    def chance(self, lag: int, itself: float = 0.0) -> float:
        """How likely a lag is; `itself` is the part of the one asked about."""
        if lag not in self.lags:
            return 0.0
        seen = max(self.counts.get(lag, 0.0) - itself, 0.0) + self.weight * self.prior[lag]
        return seen / ((max(self.total - 1, 0) if itself else self.total) + self.weight)

    def chance_between(self, there: date, here: date, itself: float = 0.0) -> float:
        """How likely two days are those of one booking; `itself` is how much of what was seen is this pair."""
        lags = self.lag.between(there, here)
        shares = [self.counts.get(one, 0.0) for one in lags]
        whole = sum(shares) or 1.0
        return sum(self.chance(one, itself * share / whole) for one, share in zip(lags, shares, strict=True))

    def log_likelihood(self, seen: Sequence[tuple[date, date]]) -> float:
        return sum(log(self.chance_between(*pair) or 1e-9) for pair in seen)


@lru_cache(4096)
def cost_of_missing(covered: float) -> float:
    """The cost of a booking not being told by a source that covers its day with this chance."""
    return -log(1 - min(1.0, covered) * (1 - FORGOTTEN))
