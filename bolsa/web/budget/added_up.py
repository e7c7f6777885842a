"""What is left over, added up month by month, as a step line under the year's columns; dips are marked."""

from dataclasses import dataclass

from bolsa.core.budget.year import MONTHS, Year
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, Tick, marks_at, money_scale

# The table's columns in per cent of its width: the name 15, each month 6.4, the year 8.2.
WIDTH, HEIGHT = 1220, 170
LEFT, STEP = WIDTH * 0.15, WIDTH * 0.064
AREA = Area(WIDTH, HEIGHT, round(LEFT), round(LEFT + 12 * STEP), 26, 152)


@dataclass(frozen=True)
class Dip:
    """The bottom of a fall: its place and what is said of it."""

    x: float
    y: float
    words: str


@dataclass(frozen=True)
class AddedUp:
    """The step line, the height of nothing, the dips and the last value."""

    picture: Picture
    path: str
    zero_y: float
    dips: tuple[Dip, ...]
    last: Tick


def draw_added_up(year: Year, currency: str) -> AddedUp:
    """The line scaled to the drawing; each month's value stands over the whole of its column."""
    y, rules = money_scale(AREA, [0, *year.added_up], currency, parts=3)
    heights = [y(amount) for amount in year.added_up]
    edges = [round(LEFT + STEP * i, 1) for i in range(MONTHS + 1)]
    middles = [round(LEFT + STEP * (i + 0.5), 1) for i in range(MONTHS)]
    path = f"M{edges[0]} {heights[0]}" + "".join(f"V{height}H{edges[i + 1]}" for i, height in enumerate(heights))
    rows = tuple(
        (month_name(month), money(year.left_over[i], currency), money(year.added_up[i], currency))
        for i, month in enumerate(year.months)
    )
    words = [f"{month}: {left} left over, {added} added up" for month, left, added in rows]
    name = f"Left over, added up from {rows[0][0]} to {rows[-1][0]}"
    picture = Picture(name, AREA, rules, (), marks_at(AREA, middles, words), ("Month", "Left over", "Added up"), rows)
    dips = tuple(Dip(middles[i], heights[i], money(year.added_up[i], currency)) for i in year.dips)
    last = Tick(heights[-1], money(year.added_up[-1], currency))
    return AddedUp(picture, path, y(0), dips, last)
