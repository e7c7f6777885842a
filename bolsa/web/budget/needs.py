"""Twelve months of an aim as a picture: what each needs (or got) as columns, what is there at each end as a line over them."""

from dataclasses import dataclass

from bolsa.core.budget.month import CategoryMonth
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, marks_at, money_scale, month_slots

AREA = Area(480, 150, 62, 474, 10, 122)


@dataclass(frozen=True)
class NeedsCourse:
    """The columns (x, y, height), each of one width, the line of what is there, and the height of zero."""

    picture: Picture
    columns: tuple[tuple[float, float, float], ...]
    width: float
    line: str
    zero_y: float


def draw_needs(course: list[CategoryMonth], currency: str, *, placed: bool = False) -> NeedsCourse:
    """The course scaled to the drawing: of each month its need, with what is there before anything of it goes; or, of months that
    were, what was placed, with what was left."""
    amounts = [row.placed_minor if placed else max(row.need_minor, row.placed_minor) for row in course]
    there = [row.left_minor if placed else row.carried_minor + amount for row, amount in zip(course, amounts, strict=True)]
    y, rules = money_scale(AREA, [0, *amounts, *there], currency, parts=3)
    step, middles, ticks = month_slots(AREA, [row.month for row in course])
    width = round(step * 0.6, 1)
    columns = tuple(
        (round(x - width / 2, 1), min(y(amount), y(0)), round(abs(y(amount) - y(0)), 1))
        for x, amount in zip(middles, amounts, strict=True)
    )
    line = "M" + "L".join(f"{x} {y(amount)}" for x, amount in zip(middles, there, strict=True))
    rows = tuple(
        (month_name(row.month), money(amount, currency), money(held, currency))
        for row, amount, held in zip(course, amounts, there, strict=True)
    )
    words = ("placed", "left") if placed else ("needed", "there by then")
    marks = marks_at(AREA, middles, [f"{month}: {amount} {words[0]}, {held} {words[1]}" for month, amount, held in rows])
    name = "Placed in the last twelve months" if placed else "What the coming twelve months would need"
    heads = ("Month", words[0].capitalize(), words[1].capitalize())
    return NeedsCourse(Picture(name, AREA, rules, ticks, marks, heads, rows), columns, width, line, y(0))
