"""Bands: for which years ahead money is meant, what is there for them, and what yearly spending asks of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.holdings.mix import Exposure
from bolsa.core.months import add_months

ORDER = ("near", "middle", "far")


@dataclass(frozen=True)
class Band:
    """A stretch of years: which, how long (None: all after), what is there by class, and what it asks for (None: no end)."""

    key: str
    first_year: int
    years: int | None
    by_class: Mapping[int, int]
    rows: tuple[Exposure, ...]
    needed_minor: int | None

    @property
    def there_minor(self) -> int:
        return sum(self.by_class.values())

    @property
    def short_minor(self) -> int:
        """What is lacking, 0 if nothing is."""
        return max(0, self.needed_minor - self.there_minor) if self.needed_minor is not None else 0


def band_by_day(free_on: date, today: date, near_years: int, middle_years: int) -> str:
    """The band of what comes free on a day: the one whose years hold that day.

    >>> today = date(2026, 5, 14)
    >>> [band_by_day(day, today, 2, 5) for day in (date(2028, 5, 14), date(2028, 5, 15), date(2033, 5, 15))]
    ['near', 'middle', 'far']
    """
    if free_on <= add_months(today, 12 * near_years):
        return "near"
    return "middle" if free_on <= add_months(today, 12 * (near_years + middle_years)) else "far"


def band_of(hand: str | None, free_on: date | None, of_class: str | None, today: date, near_years: int, middle_years: int) -> str:
    """The band of an exposure: as set by hand, else by the day it comes free, else its class's; far where nobody said."""
    if hand:
        return hand
    if free_on is not None:
        return band_by_day(free_on, today, near_years, middle_years)
    return of_class or "far"


def bands(placed: Sequence[tuple[str, Exposure]], near_years: int, middle_years: int, yearly_minor: int) -> tuple[Band, ...]:
    """The three bands, with what is placed in each; near and middle ask for their years of spending, far asks for no sum."""
    found = []
    firsts = {"near": 0, "middle": near_years, "far": near_years + middle_years}
    lengths = {"near": near_years, "middle": middle_years, "far": None}
    for key in ORDER:
        rows = tuple(exposure for band, exposure in placed if band == key)
        by_class: dict[int, int] = {}
        for exposure in rows:
            by_class[exposure.class_id] = by_class.get(exposure.class_id, 0) + exposure.minor
        years = lengths[key]
        found.append(Band(key, firsts[key], years, by_class, rows, years * yearly_minor if years is not None else None))
    return tuple(found)


@dataclass(frozen=True)
class Rung:
    """Something locked: until when it can first be taken out, when it ends by itself, and what taking it out before costs."""

    name: str
    free_on: date | None
    ends_on: date | None
    minor: int
    cost_minor: int | None


def ladder(rungs: Sequence[Rung], today: date) -> list[Rung]:
    """What is locked still, by the day it ends or comes free."""
    locked = [rung for rung in rungs if (rung.ends_on or rung.free_on or today) > today]
    return sorted(locked, key=lambda rung: (rung.ends_on or rung.free_on or today, rung.name))
