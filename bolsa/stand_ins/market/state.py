"""What the market stand-in knows: a rate for every business day and an index value for every month, the same from one seed."""

import math
import random
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

FIRST_DAY = date(2015, 1, 1)
MOST_DAYS = 5000
# Units of EUR for one unit of the currency, about which its rate wanders.
MIDDLES = {"SEK": 0.0905, "USD": 0.905, "GBP": 1.16, "NOK": 0.088, "DKK": 0.134, "CHF": 1.03}
# Value indexes by name: 100 in January 2015, and about how much they move a year.
INDEXES = {"Harbour homes": 0.031, "Inland homes": 0.019, "Used vans": -0.11}


@dataclass
class Market:
    """The stand-in's prices, and whether it is switched to be down."""

    seed: int = 20260514
    is_down: bool = False

    def rate_on(self, base: str, currency: str, day: date) -> Decimal | None:
        """What one unit of the currency is worth in the base on a business day; None on others, or for unknown currencies."""
        if day.weekday() > 4 or day < FIRST_DAY:
            return None
        ours, theirs = self._in_eur(currency, day), self._in_eur(base, day)
        return Decimal(f"{ours / theirs:.6f}") if ours and theirs else None

    def _in_eur(self, currency: str, day: date) -> float | None:
        if currency == "EUR":
            return 1.0
        middle = MIDDLES.get(currency)
        if middle is None:
            return None
        waves = random.Random(f"{self.seed} {currency}")  # noqa: S311 (made-up prices)
        swings = [(waves.uniform(20, 900), waves.uniform(0, 6.28), waves.uniform(0.004, 0.03)) for _ in range(5)]
        at = (day - FIRST_DAY).days
        daily = random.Random(f"{self.seed} {currency} {day}").uniform(-0.002, 0.002)  # noqa: S311
        return middle * (1 + sum(height * math.sin(at / length + shift) for length, shift, height in swings) + daily)

    def rates(self, base: str, currency: str, first: date, last: date) -> list[tuple[date, Decimal]]:
        """The rates of some days, in order."""
        days = min((last - first).days + 1, MOST_DAYS)
        found = ((day, self.rate_on(base, currency, day)) for day in (first + timedelta(days=i) for i in range(days)))
        return [(day, rate) for day, rate in found if rate is not None]

    def index(self, name: str, last: date) -> list[tuple[date, Decimal]]:
        """An index's values on the last day of each month until a day, in order; none for an unknown name."""
        if name not in INDEXES:
            return []
        dice, value, points = random.Random(f"{self.seed} {name}"), 100.0, []  # noqa: S311
        day = FIRST_DAY
        while (day := (day.replace(day=28) + timedelta(days=4)).replace(day=1)) <= last + timedelta(days=1):
            value *= 1 + INDEXES[name] / 12 + dice.uniform(-0.004, 0.004)
            points.append((day - timedelta(days=1), Decimal(f"{value:.2f}")))
        return points
