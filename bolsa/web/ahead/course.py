"""The long view as a picture: money over the years as an area, other cases as lines, the fan behind, flags for what happens."""

from collections.abc import Sequence
from dataclasses import dataclass

from bolsa.core.ahead.fan import Fan
from bolsa.core.ahead.years import PlanYear
from bolsa.services.ahead.plans import CaseView
from bolsa.web.filters import money
from bolsa.web.pictures.kit import Area, Picture, Tick, band_path, marks_at, money_scale

AREA = Area(1180, 360, 84, 1150, 84, 326)
FLAG_ROWS = 3
FLAG_HEIGHT = 22
LETTER = 6.6
LINE_HUES = (3, 2, 5, 6, 7, 8)


@dataclass(frozen=True)
class Flag:
    """Something that happens in a year, on a pole; `row` is how far up."""

    x: float
    y: float
    width: float
    words: str


@dataclass(frozen=True)
class OtherLine:
    """Another case as a line, with its name at its end."""

    name: str
    path: str
    hue: int
    x: float
    y: float


@dataclass(frozen=True)
class LongCourse:
    """The drawing of a case, what is missing hatched, with the others beside it."""

    picture: Picture
    line: str
    area: str
    missing: str
    fan: str
    zero_y: float
    below: tuple[float, float] | None
    flags: tuple[Flag, ...]
    others: tuple[OtherLine, ...]


def draw_long(view: CaseView, others: Sequence[CaseView], fan: Fan | None, home: str) -> LongCourse:
    """A case from this year to its last; the scale holds the case and the others, and of the fan what lies within them."""
    years = view.years
    step = (AREA.right - AREA.left) / max(1, len(years) - 1)
    places = [round(AREA.left + step * at, 1) for at in range(len(years))]
    totals = [one.total_minor for one in years]
    beside = {other.case.id: [one.total_minor for one in other.years][: len(years)] for other in others}
    most = max([0, *totals, *(x for row in beside.values() for x in row)])
    least = min([0, *totals, *(x for row in beside.values() for x in row)])
    cap = 2 * max(most, 1)
    low = [max(min(x, cap), min(least, -most // 2)) for x in fan.low] if fan else []
    high = [max(min(x, cap), least) for x in fan.high] if fan else []
    y, rules = money_scale(AREA, [0, *totals, *low, *high, *(x for row in beside.values() for x in row)], home)
    above = [max(0, x) for x in totals]
    under = [min(0, x) for x in totals]
    zero = [0] * len(years)
    words = [_words(one, home) for one in years]
    rows = tuple((str(one.year), money(one.total_minor, home)) for one in years)
    picture = Picture(
        "Money over the years",
        AREA,
        rules,
        _ticks(years, places),
        marks_at(AREA, places, words),
        ("Year", "At its end"),
        rows,
        first=0,
    )
    below = next(((x, y(0)) for x, one in zip(places, years, strict=True) if one.missing_minor), None)
    lines = []
    for at, other in enumerate(others):
        row = beside[other.case.id]
        path = "M" + "L".join(f"{x} {y(value)}" for x, value in zip(places, row, strict=False))
        lines.append(OtherLine(other.case.name, path, LINE_HUES[at % len(LINE_HUES)], places[len(row) - 1], y(row[-1])))
    return LongCourse(
        picture, "M" + "L".join(f"{x} {y(value)}" for x, value in zip(places, totals, strict=True)),
        band_path(places, zero, above, y),
        band_path(places, zero, under, y), band_path(places, low, high, y) if fan else "", y(0), below, _flags(view, places),
        tuple(lines),
    )  # fmt: skip


def _words(one: PlanYear, home: str) -> str:
    said = (
        f"{one.year}: {money(one.total_minor, home)} at its end, {money(one.in_minor, home)} in, {money(one.out_minor, home)} out"
    )
    return said + (f", {money(one.missing_minor, home)} missing" if one.missing_minor else "")


def _ticks(years: Sequence[PlanYear], places: Sequence[float]) -> tuple[Tick, ...]:
    every = 5 if len(years) > 14 else 1
    return tuple(Tick(x, str(one.year)) for x, one in zip(places, years, strict=True) if one.year % every == 0)


def _flags(view: CaseView, places: Sequence[float]) -> tuple[Flag, ...]:
    """What is planned and who stops working, each on the first row where it has room."""
    at = {one.year: x for x, one in zip(places, view.years, strict=True)}
    told = [(event.year, event.name) for event in view.case.plan.events if not event.is_out]
    told += [(person.works_until.year, f"{person.name} stops") for person in view.case.plan.people]
    ends = [0.0] * FLAG_ROWS
    found = []
    for year, words in sorted(told):
        if year not in at:
            continue
        width = min(180.0, len(words) * LETTER + 18)
        x = min(at[year], AREA.right - width)
        row = next((n for n in range(FLAG_ROWS) if ends[n] <= x), FLAG_ROWS - 1)
        ends[row] = x + width + 6
        found.append(Flag(x, 8 + row * FLAG_HEIGHT, width, words if len(words) < 26 else words[:25] + "…"))
    return tuple(found)
