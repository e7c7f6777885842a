"""Net worth by month as the shapes of a drawing: owned above the axis, owed below it, the net as a line."""

from dataclasses import dataclass

from bolsa.core.months import Month
from bolsa.core.worth.net_worth import WorthPoint
from bolsa.web.round_steps import round_steps

WIDTH, HEIGHT = 1180, 300
LEFT, RIGHT, TOP, BOTTOM = 76, 1168, 16, 272


@dataclass(frozen=True)
class Bar:
    """One month: its two bars and the point of the net line."""

    point: WorthPoint
    x: float
    width: float
    owned_y: float
    owned_height: float
    owed_height: float
    net_x: float
    net_y: float
    label: bool


@dataclass(frozen=True)
class Drawing:
    """The bars, the net line's path, the axis, and the rules with their amounts in minor units."""

    bars: tuple[Bar, ...]
    net_path: str
    zero_y: float
    rules: tuple[tuple[float, int], ...]
    last: Month | None


def draw_course(points: tuple[WorthPoint, ...], currency: str) -> Drawing:
    """The course scaled to the drawing."""
    top = max([p.owned_minor for p in points] + [p.net_minor for p in points] + [100])
    bottom = min([p.owed_minor for p in points] + [p.net_minor for p in points] + [0])
    scale = (BOTTOM - TOP) / (top - bottom)

    def y(value: int) -> float:
        return round(TOP + (top - value) * scale, 1)

    step = (RIGHT - LEFT) / max(1, len(points))
    bars = []
    for i, p in enumerate(points):
        x = LEFT + step * i
        wide = min(step * 0.62, 60)
        bars.append(
            Bar(
                p, round(x + (step - wide) / 2, 1), round(wide, 1), y(p.owned_minor), round(y(0) - y(p.owned_minor), 1),
                round(max(0, y(p.owed_minor) - y(0)), 1), round(x + step / 2, 1), y(p.net_minor),
                len(points) <= 14 or p.month.number % 3 == 1,
            )
        )  # fmt: skip
    path = "M" + "L".join(f"{bar.net_x} {bar.net_y}" for bar in bars) if bars else ""
    rules = tuple((y(amount), amount) for amount in round_steps(bottom, top, currency))
    return Drawing(tuple(bars), path, y(0), rules, points[-1].month if points else None)
