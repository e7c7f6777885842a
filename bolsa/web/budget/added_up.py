"""What is left over, added up month by month, as a step line under the year's columns; dips are marked."""

from dataclasses import dataclass

from bolsa.core.budget.year import MONTHS, Year
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, Tick, marks_at, money_scale

# The table's columns in per cent of its width: the name 14, each month 6.2, the mean 5.4, the year 6.2.
WIDTH, HEIGHT = 1220, 170
LEFT, STEP = WIDTH * 0.14, WIDTH * 0.062
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
    kept_path: str = ""
    kept_last: Tick | None = None


def draw_added_up(year: Year, currency: str, kept: Year | None = None) -> AddedUp:
    """The line scaled to the drawing; each month's value stands over the whole of its column. Of a trial the year as it is kept
    is a second line."""
    y, rules = money_scale(AREA, [0, *year.added_up, *(kept.added_up if kept else ())], currency, parts=3)
    heights = [y(amount) for amount in year.added_up]
    edges = [round(LEFT + STEP * i, 1) for i in range(MONTHS + 1)]
    middles = [round(LEFT + STEP * (i + 0.5), 1) for i in range(MONTHS)]
    path = f"M{edges[0]} {heights[0]}" + "".join(f"V{height}H{edges[i + 1]}" for i, height in enumerate(heights))
    rows = tuple(
        (month_name(month), money(year.left_over[i], currency), money(year.added_up[i], currency))
        + ((money(kept.added_up[i], currency),) if kept else ())
        for i, month in enumerate(year.months)
    )
    words = [f"{row[0]}: {row[1]} left over, {row[2]} added up" + (f"; as kept {row[3]}" if kept else "") for row in rows]
    name = f"Left over, added up from {rows[0][0]} to {rows[-1][0]}"
    heads = ("Month", "Left over", "Added up", *(("As kept",) if kept else ()))
    picture = Picture(name, AREA, rules, (), marks_at(AREA, middles, words), heads, rows)
    dips = tuple(Dip(middles[i], heights[i], money(year.added_up[i], currency)) for i in year.dips)
    last = Tick(heights[-1], money(year.added_up[-1], currency))
    if kept is None:
        return AddedUp(picture, path, y(0), dips, last)
    were = [y(amount) for amount in kept.added_up]
    kept_path = f"M{edges[0]} {were[0]}" + "".join(f"V{height}H{edges[i + 1]}" for i, height in enumerate(were))
    apart = max(were[-1], last.at + 14) if were[-1] >= last.at else min(were[-1], last.at - 14)
    return AddedUp(picture, path, y(0), dips, last, kept_path, Tick(apart, money(kept.added_up[-1], currency)))
