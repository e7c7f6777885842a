"""Net worth over time as a picture: what is owned above the axis and what is owed below it, by class, the net as a line."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.worth.holes import WorthHole
from bolsa.core.worth.net_worth import CLASSES, DEBTS, WorthPoint
from bolsa.web.filters import day as day_words
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, band_path, day_scale, marks_at, money_scale, spread

AREA = Area(1180, 330, 76, 1046, 16, 296)


@dataclass(frozen=True)
class ClassArea:
    """One class over time: its outline, its hue, and where its name stands."""

    name: str
    path: str
    hue: int
    label_y: float
    is_shown: bool


@dataclass(frozen=True)
class Course:
    """The areas, the net line, the height of nothing, and the stretches that are not known: (x, width, words)."""

    picture: Picture
    areas: tuple[ClassArea, ...]
    net_path: str
    zero_y: float
    net_label_y: float
    last: tuple[float, float]
    holes: tuple[tuple[float, float, str], ...]


def draw_course(
    points: Sequence[WorthPoint], holes: Sequence[WorthHole], currency: str, href: Callable[[date], str], *, by_month: bool
) -> Course:
    """The course scaled to the drawing; of a single point an even line."""
    above, below = [[0] * len(points)], [[0] * len(points)]
    bands: list[tuple[str, list[int], list[int]]] = []
    for name in CLASSES:
        amounts = [p.by_class.get(name, 0) for p in points]
        # A class that is owed at some time stands below the axis then, whichever it is: money overdrawn, say.
        stack = below if name == DEBTS or sum(amounts) < 0 else above
        base = stack[-1]
        stack.append([low + amount for low, amount in zip(base, amounts, strict=True)])
        bands.append((name, base, stack[-1]))
    net = [p.net_minor for p in points]
    y, rules = money_scale(AREA, [0, *net, *above[-1], *below[-1], *(x for _, _, top in bands for x in top)], currency, parts=6)
    first, last = points[0].day, points[-1].day
    x, ticks = day_scale(AREA, first, last if last > first else first + timedelta(days=1))
    places = [x(p.day) for p in points] if len(points) > 1 else [float(AREA.left), float(AREA.right)]
    if len(points) == 1:
        bands = [(name, base * 2, top * 2) for name, base, top in bands]
        net = net * 2
    drawn = [name for name, base, top in bands if any(a != b for a, b in zip(base, top, strict=True))]
    middles = [y((base[-1] + top[-1]) / 2) + 4 for _, base, top in bands]
    labels = spread([*middles, y(net[-1]) + 4])
    areas = tuple(
        ClassArea(name, band_path(places, base, top, y), i + 1, labels[i], name in drawn)
        for i, (name, base, top) in enumerate(bands)
    )
    heads = ("Day", *drawn, "Net")
    said = [month_name(p.month) if by_month else day_words(p.day) for p in points]
    rows = tuple(
        (words, *(money(p.by_class.get(name, 0), currency) for name in drawn), money(p.net_minor, currency))
        for words, p in zip(said, points, strict=True)
    )
    marks = marks_at(
        AREA,
        places[: len(points)],
        [
            f"{row[0]}: net {row[-1]}, " + ", ".join(f"{name} {cell}" for name, cell in zip(drawn, row[1:-1], strict=True))
            for row in rows
        ],
        [href(p.day) for p in points],
    )
    picture = Picture(f"Net worth, {said[0]} to {said[-1]}", AREA, rules, ticks, marks, heads, rows, len(points) - 1)
    hatched = tuple(
        _hole(hole, first, last, x) for hole in holes if hole.first < last and (hole.last is None or hole.last > first)
    )
    path = "M" + "L".join(f"{at} {y(value)}" for at, value in zip(places, net, strict=True))
    return Course(picture, areas, path, y(0), labels[-1], (places[-1], y(net[-1])), hatched)


def _hole(hole: WorthHole, first: date, last: date, x: Callable[[date], float]) -> tuple[float, float, str]:
    left, right = x(max(hole.first, first)), x(min(hole.last or last, last))
    return left, round(max(4.0, right - left), 1), hole.name
