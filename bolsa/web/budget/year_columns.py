"""A group's twelve small columns in the year: what was expected as an outline, what came or went as a fill."""

from collections.abc import Sequence
from dataclasses import dataclass

HEIGHT, WIDTH, ROOM = 18, 26, 72


@dataclass(frozen=True)
class YearColumn:
    """A month's outline and fill: their heights in pixels of HEIGHT, and what of the fill is over the outline."""

    plan: float
    actual: float
    over: float


def draw_columns(expected: Sequence[int], actual: Sequence[int | None]) -> list[YearColumn]:
    """The columns on one scale, that of the highest; a month ahead has no fill."""
    most = max(1, *expected, *(amount or 0 for amount in actual))

    def px(amount: int) -> float:
        return round(HEIGHT * max(0, amount) / most, 1)

    return [
        YearColumn(px(plan), px(min(came or 0, plan) if plan else came or 0), px((came or 0) - plan) if plan else 0.0)
        for plan, came in zip(expected, actual, strict=True)
    ]
