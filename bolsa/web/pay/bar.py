"""Where gross goes, as one bar; and how far a yearly ceiling is used, as another."""

from dataclasses import dataclass

from bolsa.core.pay.ceilings import Ceiling
from bolsa.core.pay.payslip import AFTER, BEFORE, TAX, Payslip

WIDTH = 1180
LETTER = 7.6  # the width of a letter of a part's name, about
HUES = (4, 8, 3, 6, 2, 5, 7)
NET_HUE = 1


@dataclass(frozen=True)
class BarPart:
    """A part of gross: its line (None is the net), where it lies and how wide, its hue, its name if there is room for it."""

    line_id: int | None
    x: float
    width: float
    hue: int
    name: str
    amount_minor: int


def draw_bar(slip: Payslip) -> tuple[BarPart, ...]:
    """The parts of gross in the order of the payslip, the net last; none where something is below zero."""
    taken = [(line, amount) for kind in (BEFORE, TAX, AFTER) for line, amount in slip.of_kind(kind) if amount]
    if slip.net_minor <= 0 or any(amount < 0 for _, amount in taken):
        return ()
    whole = slip.gross_minor
    parts, x = [], 0.0
    for i, (line, amount) in enumerate(taken):
        width = round(WIDTH * amount / whole, 1)
        hue = HUES[i % len(HUES)]
        parts.append(BarPart(line.id, round(x, 1), width, hue, _fitting(line.name, width), amount))
        x += width
    parts.append(BarPart(None, round(x, 1), round(WIDTH - x, 1), NET_HUE, "Net", slip.net_minor))
    return tuple(parts)


def _fitting(name: str, width: float) -> str:
    return name if len(name) * LETTER + 16 < width else ""


@dataclass(frozen=True)
class CeilingBar:
    """A ceiling's bar: how far the employer's part, pay and other payments reach, where the ceiling and the year's end lie."""

    employer: float
    own: float
    other: float
    ceiling_x: float
    end_x: float


def draw_ceiling(ceiling: Ceiling, width: int = 380) -> CeilingBar:
    """The bar in the drawing's units; its length is the ceiling, or what the year comes to if that is more."""
    whole = max(ceiling.ceiling_minor, ceiling.end_minor, 1)

    def at(amount: int) -> float:
        return round(width * max(0, amount) / whole, 1)

    reaches = (ceiling.employer_minor, ceiling.own_minor, ceiling.other_minor, ceiling.ceiling_minor, ceiling.end_minor)
    return CeilingBar(*(at(amount) for amount in reaches))
