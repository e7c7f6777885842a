"""The pictures of holdings: a gain as a bar cut into price, currency and income; the price of a security over time."""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from fractions import Fraction

from bolsa.core.holdings.holding import Sums
from bolsa.core.holdings.prices import MarketEvent, Priced
from bolsa.core.holdings.trades import KIND_WORDS, Trade
from bolsa.core.money import E8
from bolsa.core.units import Price
from bolsa.web.filters import day as day_words
from bolsa.web.filters import price as price_words
from bolsa.web.filters import shares
from bolsa.web.pictures.kit import Area, Picture, Tick, day_scale, marks_at

BAR_WIDTH = 190
HUES = {"price": 1, "currency": 2, "income": 4}
AREA = Area(1180, 250, 76, 1150, 16, 214)
MOST_POINTS = 400


@dataclass(frozen=True)
class BarPart:
    """A part of a gain: where it lies in the bar, and its hue."""

    name: str
    x: float
    width: float
    hue: int


@dataclass(frozen=True)
class GainScale:
    """How far the bars of a table reach to the left and the right of nothing."""

    left: int
    right: int

    @property
    def zero(self) -> float:
        return round(BAR_WIDTH * self.left / max(1, self.left + self.right), 1)

    def width(self, amount: int) -> float:
        return round(BAR_WIDTH * abs(amount) / max(1, self.left + self.right), 1)


def gain_scale(all_sums: Sequence[Sums]) -> GainScale:
    """The scale that holds every bar."""
    parts = [(one.price_minor, one.currency_minor, one.income_minor) for one in all_sums]
    left = max((-sum(x for x in one if x < 0) for one in parts), default=0)
    return GainScale(left, max((sum(x for x in one if x > 0) for one in parts), default=0))


def gain_bar(scale: GainScale, sums: Sums) -> tuple[BarPart, ...]:
    """The parts of a gain: losses from nothing to the left, gains to the right."""
    left = right = scale.zero
    found = []
    for name, amount in (("price", sums.price_minor), ("currency", sums.currency_minor), ("income", sums.income_minor)):
        width = scale.width(amount)
        if amount < 0:
            left = round(left - width, 1)
            found.append(BarPart(name, left, width, HUES[name]))
        elif amount > 0:
            found.append(BarPart(name, right, width, HUES[name]))
            right = round(right + width, 1)
    return tuple(part for part in found if part.width)


@dataclass(frozen=True)
class PriceCourse:
    """The line of a price, and the trades on it: (x, y, words, whether shares came in)."""

    picture: Picture
    path: str
    trades: tuple[tuple[float, float, str, bool], ...]


def draw_prices(
    prices: Sequence[Priced], trades: Sequence[Trade], splits: Sequence[MarketEvent], currency: str, today: date
) -> PriceCourse:
    """The prices of a security, thinned where there are more than the drawing shows, and its trades as notches. Prices before a
    split are drawn as if it had been, so that the line has no cliff where nothing was lost."""
    step = max(1, len(prices) // MOST_POINTS)
    shown = [adjusted(one, splits) for one in (*prices[:-1:step], prices[-1])]
    days = [one.day for one in shown]
    y, rules = _price_scale([one.price_e8 for one in shown], currency)
    x, ticks = day_scale(AREA, shown[0].day, max(today, shown[-1].day))
    places = [x(one.day) for one in shown]
    path = "M" + "L".join(f"{place} {y(one.price_e8)}" for place, one in zip(places, shown, strict=True))
    rows = tuple((day_words(one.day), price_words(one.in_(currency))) for one in shown)
    words = [f"{day}: {price} {currency}" for day, price in rows]
    notches = []
    for trade in trades:
        near = shown[max(0, bisect_right(days, trade.day) - 1)]
        said = f"{shares(abs(trade.shares_e8))} {KIND_WORDS[trade.kind]}" if trade.shares_e8 else KIND_WORDS[trade.kind]
        if trade.day >= shown[0].day and trade.kind not in ("dividend", "fee"):
            notches.append((x(trade.day), y(near.price_e8), f"{said}, {day_words(trade.day)}", trade.shares_e8 >= 0))
    picture = Picture(
        "The price over time", AREA, rules, ticks, marks_at(AREA, places, words), ("Day", f"Price in {currency}"), rows,
        first=len(shown) - 1,
    )  # fmt: skip
    return PriceCourse(picture, path, tuple(notches))


def adjusted(price: Priced, splits: Sequence[MarketEvent]) -> Priced:
    """A price as if all splits after it had been before it. Rounding: half up, once."""
    factor = Fraction(1)
    for event in splits:
        if price.day < event.day and event.ratio_new and event.ratio_old:
            factor *= Fraction(event.ratio_old, event.ratio_new)
    return replace(price, price_e8=int(price.price_e8 * factor + Fraction(1, 2))) if factor != 1 else price


def _price_scale(known: Sequence[int], currency: str) -> tuple[Callable[[float], float], tuple[Tick, ...]]:
    low, high = min(known), max(known)
    step = _round_step((high - low) / 4 or E8)
    low, high = low // step * step, -(-high // step) * step
    if low == high:
        high = low + step
    unit = (AREA.bottom - AREA.top) / (high - low)

    def y(price_e8: float) -> float:
        return round(AREA.bottom - (price_e8 - low) * unit, 1)

    return y, tuple(Tick(y(at), price_words(Price(at, currency))) for at in range(low, high + 1, step))


def _round_step(least: float) -> int:
    power = 1
    while True:
        for factor in (1, 2, 5):
            if power * factor >= least:
                return power * factor
        power *= 10
