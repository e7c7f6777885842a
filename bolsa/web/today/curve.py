"""The money curve of the next thirty days, as the points of a drawing."""

from dataclasses import dataclass

from bolsa.core.due.series import CurvePoint
from bolsa.services.today.sittings import Ahead

WIDTH, HEIGHT = 420, 190
LEFT, RIGHT, TOP, FLOOR = 16, 404, 34, 150


@dataclass(frozen=True)
class Drawing:
    """The path of the step line, where its lowest point is, and the height of the zero line if it is in sight."""

    path: str
    lowest: CurvePoint
    lowest_x: float
    lowest_y: float
    zero_y: float | None
    label_x: float
    label_anchor: str


def draw_curve(ahead: Ahead) -> Drawing:
    """The curve scaled to the drawing; days go right in equal steps, the balance steps at each day's end."""
    values = [point.balance_minor for point in ahead.curve]
    low, high = min(values), max(values)
    if low == high:
        low, high = low - 1, high + 1
    step = (RIGHT - LEFT) / max(1, len(values) - 1)

    def y(value: int) -> float:
        return round(FLOOR - (value - low) / (high - low) * (FLOOR - TOP), 1)

    path = f"M{LEFT} {y(values[0])}" + "".join(f"H{round(LEFT + step * i, 1)}V{y(value)}" for i, value in enumerate(values) if i)
    at = ahead.curve.index(ahead.lowest)
    x = round(LEFT + step * at, 1)
    anchor = "start" if x < WIDTH / 3 else "end" if x > 2 * WIDTH / 3 else "middle"
    zero = y(0) if low <= 0 <= high else None
    return Drawing(path, ahead.lowest, x, y(ahead.lowest.balance_minor), zero, x, anchor)
