"""The weeks ahead of an everyday account as a picture: its balance as a step line, what is due as notches, its floor."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

from bolsa.core.due.ahead import Lane
from bolsa.core.units import Money
from bolsa.web.filters import money, short_day, whole_figure
from bolsa.web.pictures.kit import Area, Picture, day_scale, marks_at, money_scale

AREA = Area(1200, 218, 84, 1188, 14, 132)
LETTER = 6.4  # pixels of a letter of a label
LABEL_ROWS = (AREA.bottom + 46, AREA.bottom + 61, AREA.bottom + 76)


@dataclass(frozen=True)
class Notch:
    """A due on the axis; its label where there is room, else no label: it stands in the table."""

    x: float
    words: str
    label_x: float
    label_y: float | None
    is_late: bool


@dataclass(frozen=True)
class LaneDrawing:
    """The shapes of one lane. `below` are the stretches under the floor, as (left, top, width, height)."""

    picture: Picture
    path: str
    lowest_x: float
    lowest_y: float
    lowest_words: str
    label_y: float
    anchor: str
    floor_y: float | None
    below: tuple[tuple[float, float, float, float], ...]
    notches: tuple[Notch, ...]


def draw_lane(lane: Lane) -> LaneDrawing:
    """The lane scaled to the drawing; the balance steps at each day's end."""
    points, currency = lane.curve, lane.account.currency
    amounts = [point.balance_minor for point in points]
    x, ticks = day_scale(AREA, points[0].day, points[-1].day)
    scaled = [*amounts, *([lane.floor_minor] if lane.floor_minor is not None else [])]
    y, rules = money_scale(AREA, scaled, currency, parts=3)
    path = f"M{x(points[0].day)} {y(amounts[0])}" + "".join(f"H{x(p.day)}V{y(p.balance_minor)}" for p in points[1:])
    by_day: dict[object, list[str]] = {}
    for due in lane.open_dues:
        day = max(due.day, points[0].day)
        by_day.setdefault(day, []).append(f"{due.series.payee} {money(due.expected_minor, currency)}")
    words = [
        f"{short_day(p.day)}: {money(p.balance_minor, currency)}" + "".join(f"; {one}" for one in by_day.get(p.day, ()))
        for p in points
    ]
    rows = tuple((short_day(p.day), money(p.balance_minor, currency), ", ".join(by_day.get(p.day, ()))) for p in points)
    low = lane.lowest
    name = f"{lane.account.name}, the weeks ahead, lowest {money(low.balance_minor, currency)} on {short_day(low.day)}"
    picture = Picture(
        name, AREA, rules, ticks, marks_at(AREA, [x(p.day) for p in points], words), ("Day", "Balance", "Due"), rows, 0
    )
    floor_y = y(lane.floor_minor) if lane.floor_minor is not None else None
    below: tuple[tuple[float, float, float, float], ...] = ()
    if floor_y is not None and lane.floor_minor is not None:
        below = tuple(
            (x(one.day), floor_y, round(x(following.day) - x(one.day), 1), round(y(one.balance_minor) - floor_y, 1))
            for one, following in pairwise(points)
            if one.balance_minor < lane.floor_minor
        )
    lowest_x, lowest_y = x(low.day), y(low.balance_minor)
    label_y = lowest_y - 9 if lowest_y > AREA.bottom - 24 else lowest_y + 18
    anchor = "start" if lowest_x < AREA.width * 0.8 else "end"
    said = f"{whole_figure(Money(low.balance_minor, currency))} on {short_day(low.day)}"
    return LaneDrawing(picture, path, lowest_x, lowest_y, said, label_y, anchor, floor_y, below, _notches(lane, x))


def _notches(lane: Lane, x: Callable[[date], float]) -> tuple[Notch, ...]:
    ends = [0.0] * len(LABEL_ROWS)
    notches = []
    today = lane.curve[0].day
    for due in sorted(lane.open_dues, key=lambda due: (max(due.day, today), due.series.payee)):
        at = x(max(due.day, today))
        words = f"{due.series.payee} {whole_figure(Money(due.expected_minor, lane.account.currency))}"
        width = LETTER * len(words)
        left = min(at, AREA.right - width)
        row = next((i for i, end in enumerate(ends) if end <= left), None)
        if row is not None:
            ends[row] = left + width + 10
        notches.append(Notch(at, words, round(left, 1), LABEL_ROWS[row] if row is not None else None, due.state == "late"))
    return tuple(notches)
