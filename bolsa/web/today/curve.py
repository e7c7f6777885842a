"""The money curve of the next thirty days as a picture."""

from dataclasses import dataclass

from bolsa.services.today.sittings import Ahead
from bolsa.web.filters import money, short_day
from bolsa.web.pictures.kit import Area, Picture, day_scale, marks_at, money_scale

AREA = Area(420, 200, 62, 408, 16, 170)


@dataclass(frozen=True)
class Curve:
    """The step line, its lowest point with the place of its words, and the height of zero if it is in sight."""

    picture: Picture
    path: str
    lowest_x: float
    lowest_y: float
    label_y: float
    label_anchor: str
    zero_y: float | None


def draw_curve(ahead: Ahead, currency: str) -> Curve:
    """The curve scaled to the drawing; the balance steps at each day's end."""
    points = ahead.curve
    amounts = [point.balance_minor for point in points]
    x, ticks = day_scale(AREA, points[0].day, points[-1].day)
    y, rules = money_scale(AREA, amounts, currency, parts=4)
    path = f"M{x(points[0].day)} {y(amounts[0])}" + "".join(f"H{x(p.day)}V{y(p.balance_minor)}" for p in points[1:])
    words = [f"{short_day(p.day)}: {money(p.balance_minor, currency)}" for p in points]
    rows = tuple((short_day(p.day), money(p.balance_minor, currency)) for p in points)
    marks = marks_at(AREA, [x(p.day) for p in points], words)
    lowest_x, lowest_y = x(ahead.lowest.day), y(ahead.lowest.balance_minor)
    name = f"Money in everyday accounts, lowest {money(ahead.lowest.balance_minor, currency)} on {short_day(ahead.lowest.day)}"
    picture = Picture(name, AREA, rules, ticks, marks, ("Day", "Money at its end"), rows, first=0)
    anchor = "start" if lowest_x < AREA.width / 2 else "end"
    is_low = lowest_y > AREA.bottom - 26  # no room for words below it
    zero = y(0) if min(amounts) <= 0 <= max(amounts) else None
    return Curve(picture, path, lowest_x, lowest_y, lowest_y + (-9 if is_low else 18), anchor, zero)
