"""Net worth by month as a picture: owned above the axis, owed below it, the net as a line."""

from dataclasses import dataclass

from flask import url_for

from bolsa.core.worth.net_worth import WorthPoint
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, Tick, marks_at, money_scale, month_slots, spread

AREA = Area(1180, 310, 76, 1168, 20, 276)


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


@dataclass(frozen=True)
class Course:
    """The bars, the net line's path, the axis, and the labels at the first month."""

    picture: Picture
    bars: tuple[Bar, ...]
    net_path: str
    zero_y: float
    labels: tuple[Tick, ...]


def draw_course(points: tuple[WorthPoint, ...], currency: str) -> Course:
    """The course scaled to the drawing; at least one point."""
    amounts = [0, *(amount for p in points for amount in (p.owned_minor, p.owed_minor, p.net_minor))]
    y, rules = money_scale(AREA, amounts, currency, parts=6)
    step, middles, ticks = month_slots(AREA, [p.month for p in points])
    wide = min(step * 0.62, 60)
    bars = tuple(
        Bar(
            p, round(x - wide / 2, 1), round(wide, 1), y(p.owned_minor), round(y(0) - y(p.owned_minor), 1),
            round(max(0, y(p.owed_minor) - y(0)), 1), x, y(p.net_minor),
        )
        for p, x in zip(points, middles, strict=True)
    )  # fmt: skip
    rows = tuple(
        (month_name(p.month), *(money(amount, currency) for amount in (p.owned_minor, p.owed_minor, p.net_minor))) for p in points
    )
    words = [f"{month}: net {net}, owned {owned}, owed {owed.lstrip('−')}" for month, owned, owed, net in rows]
    marks = marks_at(AREA, middles, words, [url_for("worth.course", month=p.month) for p in points])
    name = f"Net worth by month, {rows[0][0]} to {rows[-1][0]}"
    picture = Picture(name, AREA, rules, ticks, marks, ("Month", "Owned", "Owed", "Net"), rows)
    at_first = (bars[0].owned_y - 5, bars[0].net_y - 8, y(0) + bars[0].owed_height - 5)
    labels = tuple(Tick(at, label) for at, label in zip(spread(at_first), ("owned", "net", "owed"), strict=True))
    return Course(picture, bars, "M" + "L".join(f"{bar.net_x} {bar.net_y}" for bar in bars), y(0), labels)
