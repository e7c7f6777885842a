"""Months as columns, with level lines. Drawn by `columns` of shared/picture.html."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from bolsa.core.months import Month
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, Tick, marks_at, money_scale, month_slots

COLUMNS = Area(1180, 230, 76, 1168, 16, 196)


@dataclass(frozen=True)
class Column:
    """A month's column: its kind is "counted", "soft" (beside the question) or "half" (not over, or not whole)."""

    x: float
    y: float
    height: float
    kind: str


@dataclass(frozen=True)
class Columns:
    """Columns of one width, the height of nothing, and level lines with their words."""

    picture: Picture
    columns: tuple[Column, ...]
    width: float
    zero_y: float
    levels: tuple[Tick, ...]


def draw_months(
    name: str, amounts: Mapping[Month, int], kinds: Mapping[Month, str], currency: str, levels: Sequence[tuple[str, int]] = (),
    href: Callable[[Month], str] | None = None, area: Area = COLUMNS,
) -> Columns:  # fmt: skip
    """A column a month of `kinds`, in its order, and level lines such as a mean."""
    months = list(kinds)
    y, rules = money_scale(area, [0, *(amounts.get(m, 0) for m in months), *(x for _, x in levels)], currency, parts=4)
    step, middles, ticks = month_slots(area, months)
    width = round(min(step * 0.66, 64), 1)
    columns = tuple(
        Column(round(x - width / 2, 1), min(y(amounts.get(m, 0)), y(0)), round(abs(y(amounts.get(m, 0)) - y(0)), 1), kinds[m])
        for x, m in zip(middles, months, strict=True)
    )
    rows = tuple((month_name(m), money(amounts.get(m, 0), currency)) for m in months)
    marks = marks_at(area, middles, [f"{month}: {amount}" for month, amount in rows], [href(m) for m in months] if href else ())
    lines = tuple(Tick(y(amount), f"{words} {money(amount, currency)}") for words, amount in levels)
    return Columns(Picture(name, area, rules, ticks, marks, ("Month", "Amount"), rows), columns, width, y(0), lines)
