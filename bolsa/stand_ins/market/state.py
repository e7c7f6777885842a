"""What the market stand-in knows: a rate and the closes of securities for every business day, their splits and distributions, and
an index value for every month; the same from one seed."""

import math
import random
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import NamedTuple

FIRST_DAY = date(2015, 1, 1)
MOST_DAYS = 5000
# Units of EUR for one unit of the currency, about which its rate wanders.
MIDDLES = {"SEK": 0.0905, "USD": 0.905, "GBP": 1.16, "NOK": 0.088, "DKK": 0.134, "CHF": 1.03}
# Value indexes by name: 100 in January 2015, and about how much they move a year.
INDEXES = {"Harbour homes": 0.031, "Inland homes": 0.019, "Used vans": -0.11}
ANCHOR = date(2022, 12, 1)  # the day the prices below are of


@dataclass(frozen=True)
class Listed:
    """A security the market lists: its price on the anchor day, how it drifts a year and swings, its splits (day, new, old), and
    in which months it distributes how much of its price a year."""

    name: str
    isin: str
    symbol: str
    market: str
    currency: str
    kind: str
    price: float
    drift: float
    swing: float
    splits: tuple[tuple[date, int, int], ...] = ()
    pays_in: tuple[int, ...] = ()
    yields: float = 0.0

    @property
    def words(self) -> tuple[str, ...]:
        return self.name, self.isin, self.symbol, self.market, self.currency, self.kind


LISTED = (
    Listed("Skerry Nordic Index", "ZZ00SKNI0005", "SKNI", "XSKR", "SEK", "fund", 226.0, 0.055, 0.04, (), (4,), 0.021),
    Listed("Skerry Bond Ladder", "ZZ00SKBL0004", "SKBL", "XSKR", "SEK", "fund", 125.0, 0.021, 0.008, (), (4, 10), 0.026),
    Listed("Tern Robotics", "ZZ00TERN0001", "TERN", "XHLD", "USD", "share", 67.0, 0.16, 0.09, ((date(2026, 4, 15), 3, 1),),
           (2, 8), 0.006),
    Listed("Wherry Freight", "ZZ00WHRY0000", "WHRY", "XHLD", "USD", "share", 29.6, 0.04, 0.07, (), (2,), 0.014),
    Listed("Lodestar Water", "ZZ00LODE0004", "LODE", "XHLD", "USD", "share", 74.0, 0.06, 0.05, (), (5, 11), 0.024),
    Listed("Petrel Instruments", "ZZ00PETR0009", "PETR", "XHLD", "USD", "share", 45.0, 0.09, 0.08, (), (6,), 0.009),
    Listed("Halden 40", "ZZ00HL400006", "HL40", "XPHA", "EUR", "other", 1840.0, 0.05, 0.05),
    Listed("Gannet Small Firms", "ZZ00GSML0007", "GSML", "XPHA", "EUR", "fund", 52.0, 0.07, 0.06, (), (5,), 0.012),
    Listed("Halden Mixed Sixty", "ZZ00HM600000", "HM60", "XPHA", "EUR", "fund", 103.0, 0.04, 0.03, (), (12,), 0.018),
    Listed("Port Halden 2.5 % 2031", "ZZ00PH310003", "PH31", "XPHA", "EUR", "bond", 98.4, 0.003, 0.006, (), (3, 9), 0.025),
)  # fmt: skip


class Told(NamedTuple):
    """A split, or a distribution of an amount a share; `day` is the first without it."""

    kind: str
    day: date
    pay_day: date | None = None
    amount: Decimal | None = None
    new: int | None = None
    old: int | None = None


def _listed(symbol: str, market: str) -> Listed | None:
    return next((one for one in LISTED if (one.symbol, one.market) == (symbol, market)), None)


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

    def find_listed(self, text: str) -> list[Listed]:
        """The securities whose words hold all that is asked, those whose symbol or code it is first."""
        wanted = text.casefold().split()
        found = [one for one in LISTED if all(word in " ".join(one.words).casefold() for word in wanted)]
        return sorted(found, key=lambda one: text.casefold() not in (one.symbol.casefold(), one.isin.casefold()))

    def price_on(self, symbol: str, market: str, day: date) -> Decimal | None:
        """The close of a business day as it was then, not adjusted for later splits; None on others."""
        listed = _listed(symbol, market)
        if listed is None or day.weekday() > 4 or day < FIRST_DAY:
            return None
        waves = random.Random(f"{self.seed} {symbol}")  # noqa: S311 (made-up prices)
        swings = [(waves.uniform(25, 700), waves.uniform(0, 6.28), waves.uniform(0.2, 1) * listed.swing) for _ in range(5)]
        at, since = (day - FIRST_DAY).days, (day - ANCHOR).days
        wave = sum(height * (math.sin(at / length + shift)) for length, shift, height in swings)
        there = (ANCHOR - FIRST_DAY).days
        wave -= sum(height * (math.sin(there / length + shift)) for length, shift, height in swings)
        daily = random.Random(f"{self.seed} {symbol} {day}").gauss(0, listed.swing / 12)  # noqa: S311
        price = listed.price * math.exp(listed.drift * since / 365.25 + wave + daily)
        for split_day, new, old in listed.splits:
            if day >= split_day:
                price = price * old / new
        return Decimal(f"{price:.4f}")

    def prices(self, symbol: str, market: str, first: date, last: date) -> list[tuple[date, Decimal]]:
        """The closes of some days, in order; none of a security it does not list."""
        days = min((last - first).days + 1, 2 * MOST_DAYS)
        found = ((day, self.price_on(symbol, market, day)) for day in (first + timedelta(days=i) for i in range(days)))
        return [(day, price) for day, price in found if price is not None]

    def events(self, symbol: str, market: str, last: date) -> list[Told]:
        """Splits, and distributions with the day without them, the pay day and the amount of one share, in order of day."""
        listed = _listed(symbol, market)
        if listed is None:
            return []
        found: list[Told] = []
        found += [Told("split", day, None, None, new, old) for day, new, old in listed.splits if day <= last]
        for year in range(FIRST_DAY.year, last.year + 1):
            for month in listed.pays_in:
                day = date(year, month, 10)
                day += timedelta(days=(3 - day.weekday()) % 7)  # a Thursday
                before = self.price_on(symbol, market, day - timedelta(days=1))
                if before is not None and day <= last:
                    amount = Decimal(f"{float(before) * listed.yields / len(listed.pays_in):.4f}")
                    found.append(Told("dividend", day, day + timedelta(days=15), amount))
        return sorted(found, key=lambda event: event.day)

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
