"""Scales with round ticks, the marks of a picture, and labels that do not overlap. Coordinates are in pixels of the drawing."""

import itertools
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from flask import g

from bolsa.core.money import digits_of
from bolsa.core.months import Month, months_between
from bolsa.web.filters import axis, month_short, short_day

MOST_DAYS_BY_WEEK = 62
MOST_TICKS = 13
TICK_ROOM = 46  # what "Jan 26" takes, with some air
TICK_MARGIN = 14  # a tick nearer to an edge would have its words cut
LABEL_GAP = 14


@dataclass(frozen=True)
class Area:
    """A drawing's size, and the box within it where the figures are."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int


@dataclass(frozen=True)
class Tick:
    """A rule or a place on an axis, and what is written beside it."""

    at: float
    words: str


@dataclass(frozen=True)
class Mark:
    """A place that says its value when the pointer or the arrow keys are on it, and leads on if it has an address."""

    x: float
    left: float
    width: float
    words: str
    href: str = ""


@dataclass(frozen=True)
class Picture:
    """What any drawing needs around its shapes. `first` is the mark whose words stand below it before any is pointed at; `heads`
    and `rows` are the table behind it, the first column words, the others figures."""

    name: str
    area: Area
    rules: tuple[Tick, ...]
    ticks: tuple[Tick, ...]
    marks: tuple[Mark, ...]
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    first: int = -1


def money_scale(
    area: Area, amounts: Iterable[int], currency: str, *, parts: int = 5
) -> tuple[Callable[[float], float], tuple[Tick, ...]]:
    """The height of an amount (minor units), and the rules at round ones; the scale ends at the round amounts around all."""
    known = list(amounts)
    low, high = min(known), max(known)
    step = round_step((high - low) / parts, currency)
    low, high = low // step * step, -(-high // step) * step
    if low == high:
        low, high = low - step, high + step
    unit = (area.bottom - area.top) / (high - low)

    def y(amount_minor: float) -> float:
        return round(area.bottom - (amount_minor - low) * unit, 1)

    return y, tuple(Tick(y(amount), axis(amount, currency)) for amount in range(low, high + 1, step))


def round_step(least: float, currency: str) -> int:
    """The smallest of 1, 2 or 5 times a power of ten of whole units that is at least so much."""
    power: int = 10 ** digits_of(currency)
    while True:
        for factor in (1, 2, 5):
            if power * factor >= least:
                return power * factor
        power *= 10


def day_scale(area: Area, first: date, last: date) -> tuple[Callable[[date], float], tuple[Tick, ...]]:
    """The place of a day, and ticks at weeks, months or years, whichever the stretch is long for."""
    days = max(1, (last - first).days)

    def x(day: date) -> float:
        return round(area.left + (area.right - area.left) * (day - first).days / days, 1)

    if days <= MOST_DAYS_BY_WEEK:
        begins = first + timedelta(days=(g.reader.week_start - first.weekday()) % 7)
        ticks = [
            Tick(x(day), short_day(day)) for day in (begins + timedelta(days=7 * n) for n in range(days // 7 + 1)) if day <= last
        ]
    else:
        months = months_between(Month.of(first) + 1, Month.of(last))
        step = next(n for n in (1, 3, 12, 24, 60, 120, 1200, 12_000) if len(months) / n <= MOST_TICKS)
        ticks = [Tick(x(m.first_day), _of_month(m, step)) for m in months if (m.year * 12 + m.number - 1) % step == 0]
    edges = (area.left + TICK_MARGIN, area.right - TICK_MARGIN)
    return x, tuple(tick for tick in ticks if edges[0] <= tick.at <= edges[1])


def _of_month(month: Month, step: int) -> str:
    if step >= 12:
        return str(month.year)
    return f"{month_short(month)} {month.year % 100:02d}" if month.number == 1 else month_short(month)


def month_slots(area: Area, months: Sequence[Month]) -> tuple[float, tuple[float, ...], tuple[Tick, ...]]:
    """The width of a month's slot, the middle of each, and ticks as close as their words allow: months, quarters or halves."""
    step = (area.right - area.left) / max(1, len(months))
    middles = tuple(round(area.left + step * (i + 0.5), 1) for i in range(len(months)))
    every = next((n for n in (1, 3, 6) if step * n >= TICK_ROOM), 12)
    named = [(i, month) for i, month in enumerate(months) if month.number % every == 1 % every]
    ticks = (
        Tick(middles[i], f"{month_short(m)} {m.year % 100:02d}" if m.number == 1 or (i, m) == named[0] else month_short(m))
        for i, m in named
    )
    return step, middles, tuple(ticks)


def marks_at(area: Area, places: Sequence[float], words: Sequence[str], hrefs: Sequence[str] = ()) -> tuple[Mark, ...]:
    """Marks at places that go right, each reaching half way to the next."""
    edges = [area.left, *((a + b) / 2 for a, b in itertools.pairwise(places)), area.right]
    return tuple(
        Mark(x, round(edges[i], 1), round(max(0.0, edges[i + 1] - edges[i]), 1), words[i], hrefs[i] if hrefs else "")
        for i, x in enumerate(places)
    )


def band_path(places: Sequence[float], base: Sequence[int], top: Sequence[int], y: Callable[[float], float]) -> str:
    """The outline of a layer of a stack: along its top, and back along its base."""
    up = "L".join(f"{x} {y(value)}" for x, value in zip(places, top, strict=True))
    down = "L".join(f"{x} {y(value)}" for x, value in zip(reversed(places), reversed(base), strict=True))
    return f"M{up}L{down}Z"


def spread(heights: Sequence[float], gap: int = LABEL_GAP) -> list[float]:
    """The heights of labels, moved down where two would overlap; in the order given."""
    placed: dict[int, float] = {}
    last = float("-inf")
    for i in sorted(range(len(heights)), key=lambda k: heights[k]):
        last = placed[i] = max(heights[i], last + gap)
    return [round(placed[i], 1) for i in range(len(heights))]
