"""The pictures of answers: parts stacked over time, what made a difference, in and out with what stayed."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from bolsa.core.answers.cut import Part
from bolsa.core.months import Month
from bolsa.web.filters import money, month_name
from bolsa.web.pictures.columns import COLUMNS, Column
from bolsa.web.pictures.kit import Area, Picture, band_path, marks_at, money_scale, month_slots, spread

STACK = Area(1180, 290, 76, 1010, 16, 256)
BAR_AREA_LEFT, BAR_AREA_RIGHT, BAR_STEP = 300, 1080, 30
HUES = 8
MINI_WIDTH, MINI_HEIGHT = 120, 22


@dataclass(frozen=True)
class Layer:
    """One part of a stack: its outline, its hue (1 to 8), and its label beside the last month."""

    path: str
    hue: int
    name: str
    label_y: float


@dataclass(frozen=True)
class Stack:
    """Parts stacked, the first at the bottom, and the places of half months."""

    picture: Picture
    layers: tuple[Layer, ...]
    halves: tuple[tuple[float, float], ...]


def draw_stack(
    name: str, months: Sequence[Month], parts: Sequence[tuple[str, Part]], halves: Collection[Month], currency: str
) -> Stack:
    """The parts stacked month by month. A month of refunds, below nothing, adds nothing to the height."""
    heights = [[max(0, part.by_month.get(m, 0)) for m in months] for _, part in parts]
    tops: list[list[int]] = []
    base = [0] * len(months)
    for own in heights:
        base = [low + high for low, high in zip(base, own, strict=True)]
        tops.append(base)
    y, rules = money_scale(STACK, [0, *(base or [0])], currency, parts=4)
    step, middles, ticks = month_slots(STACK, list(months))
    below = [0] * len(months)
    # A name stands as high as its layer in the last whole month: where a month runs, all layers lie on each other.
    last = max((i for i, m in enumerate(months) if m not in halves), default=len(months) - 1)
    layers, middle_ys = [], []
    for place, top in enumerate(tops):
        layers.append((band_path(middles, below, top, y), place % HUES + 1))
        middle_ys.append(y((top[last] + below[last]) / 2) + 4)
        below = top
    labels = spread(middle_ys)
    too_low = max(0.0, max(labels, default=0.0) - STACK.bottom)
    labels = [label - too_low for label in labels]
    drawn = tuple(Layer(path, hue, words, at) for (path, hue), (words, _), at in zip(layers, parts, labels, strict=True))
    rows = tuple((month_name(m), *(money(part.by_month.get(m, 0), currency) for _, part in parts)) for m in months)
    said = [
        f"{row[0]}: {money(total, currency)}, "
        + ", ".join(f"{words} {cell}" for (words, _), cell in zip(parts, row[1:], strict=True))
        for row, total in zip(rows, base, strict=True)
    ]
    picture = Picture(name, STACK, rules, ticks, marks_at(STACK, middles, said), ("Month", *(words for words, _ in parts)), rows)
    hatched = tuple((round(x - step / 2, 1), round(step, 1)) for x, m in zip(middles, months, strict=True) if m in halves)
    return Stack(picture, drawn, hatched)


@dataclass(frozen=True)
class Bar:
    """A horizontal bar from the middle line: its name, its box, where its figure stands and how it is anchored."""

    name: str
    y: float
    left: float
    width: float
    figure: str
    figure_x: float
    anchor: str
    is_more: bool


@dataclass(frozen=True)
class Bars:
    """Bars to the right of nothing where it is more, to the left where it is less."""

    picture: Picture
    bars: tuple[Bar, ...]
    zero_x: float


def draw_bars(name: str, rows: Sequence[tuple[str, int]], currency: str, heads: tuple[str, str]) -> Bars:
    """A bar a row, in their order."""
    height = BAR_STEP * len(rows) + 12
    area = Area(1180, height, BAR_AREA_LEFT, BAR_AREA_RIGHT, 4, height - 6)
    amounts = [amount for _, amount in rows]
    low, high = min(0, *amounts), max(0, *amounts)
    unit = (area.right - area.left - 200) / max(1, high - low)
    zero = round(area.left + 100 - low * unit, 1)
    bars = []
    for i, (words, amount) in enumerate(rows):
        length = round(abs(amount) * unit, 1)
        is_more = amount >= 0
        end = zero + length + 6 if is_more else zero - length - 6
        left = zero if is_more else round(zero - length, 1)
        figure = money(amount, currency)
        bars.append(
            Bar(words, 8 + BAR_STEP * i, left, max(length, 1), figure, round(end, 1), "start" if is_more else "end", is_more)
        )
    table = tuple((words, money(amount, currency)) for words, amount in rows)
    return Bars(Picture(name, area, (), (), (), heads, table), tuple(bars), zero)


@dataclass(frozen=True)
class FlowDrawing:
    """What came above the line, what went below it, what stayed as a line over both."""

    picture: Picture
    came: tuple[Column, ...]
    went: tuple[Column, ...]
    width: float
    zero_y: float
    stayed: str
    dots: tuple[tuple[float, float], ...]


def draw_flow(
    months: Sequence[Month], figures: Sequence[tuple[int, int, int]], halves: Collection[Month], currency: str
) -> FlowDrawing:
    """A month's in, out and stayed, scaled together."""
    y, rules = money_scale(COLUMNS, [0, *(x for came, went, stayed in figures for x in (came, -went, stayed))], currency, parts=5)
    step, middles, ticks = month_slots(COLUMNS, list(months))
    width = round(min(step * 0.5, 46), 1)

    def column(x: float, amount: int, month: Month) -> Column:
        top, bottom = min(y(amount), y(0)), max(y(amount), y(0))
        return Column(round(x - width / 2, 1), top, round(bottom - top, 1), "half" if month in halves else "counted")

    came = tuple(column(x, figure[0], m) for x, figure, m in zip(middles, figures, months, strict=True))
    went = tuple(column(x, -figure[1], m) for x, figure, m in zip(middles, figures, months, strict=True))
    dots = tuple((x, y(figure[2])) for x, figure in zip(middles, figures, strict=True))
    rows = tuple((month_name(m), *(money(x, currency) for x in figure)) for m, figure in zip(months, figures, strict=True))
    words = [f"{month}: in {came_}, out {went_}, stayed {stayed_}" for month, came_, went_, stayed_ in rows]
    name = f"In and out, and what stayed, {rows[0][0]} to {rows[-1][0]}"
    picture = Picture(name, COLUMNS, rules, ticks, marks_at(COLUMNS, middles, words), ("Month", "In", "Out", "Stayed"), rows)
    return FlowDrawing(picture, came, went, width, y(0), "M" + "L".join(f"{x} {at}" for x, at in dots), dots)


def draw_mini(amounts: Sequence[int]) -> tuple[tuple[float, float, float, float], ...]:
    """Small columns in a row of a table: x, y, width, height; a month below nothing has none."""
    highest = max(1, *amounts, 1)
    step = MINI_WIDTH / max(1, len(amounts))
    shares = [max(0, amount) / highest for amount in amounts]
    return tuple(
        (round(step * i, 1), round(MINI_HEIGHT * (1 - share), 1), round(step * 0.72, 1), round(MINI_HEIGHT * share, 1))
        for i, share in enumerate(shares)
    )
