"""A category's last twelve months as a picture: what was spent as columns, what was expected as a stroke over each."""

from dataclasses import dataclass

from bolsa.core.budget.month import CategoryMonth
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.kit import Area, Picture, marks_at, money_scale, month_slots

AREA = Area(360, 140, 54, 354, 8, 112)


@dataclass(frozen=True)
class Column:
    """A month: its column, and the height of the stroke, None where nothing was expected."""

    x: float
    y: float
    height: float
    expected_y: float | None


@dataclass(frozen=True)
class SpendingCourse:
    """The columns, each of one width, and the height of zero."""

    picture: Picture
    columns: tuple[Column, ...]
    width: float
    zero_y: float


def draw_spending(course: list[CategoryMonth], currency: str) -> SpendingCourse:
    """The course scaled to the drawing; a month of refunds goes below zero."""
    y, rules = money_scale(AREA, [0, *(x for m in course for x in (m.spent_minor, m.expected_minor))], currency, parts=3)
    step, middles, ticks = month_slots(AREA, [m.month for m in course])
    width = round(step * 0.66, 1)
    columns = tuple(
        Column(
            round(x - width / 2, 1), min(y(m.spent_minor), y(0)), round(abs(y(m.spent_minor) - y(0)), 1),
            y(m.expected_minor) if m.expected_minor else None,
        )
        for x, m in zip(middles, course, strict=True)
    )  # fmt: skip
    rows = tuple((month_name(m.month), money(m.spent_minor, currency), money(m.expected_minor, currency)) for m in course)
    marks = marks_at(AREA, middles, [f"{month}: {spent} spent, {expected} expected" for month, spent, expected in rows])
    name = "Spent in the last twelve months"
    picture = Picture(name, AREA, rules, ticks, marks, ("Month", "Spent", "Expected"), rows)
    return SpendingCourse(picture, columns, width, y(0))
