"""The public holidays of the household's country, by the way it reads and writes."""

import sqlite3
from collections.abc import Callable, Container
from datetime import date
from functools import lru_cache

from bolsa.services.house.preferences import reader_of


def holidays_of(db: sqlite3.Connection) -> Callable[[date], bool]:
    """Whether a day is a public holiday there. The table of holidays is read when the first day is asked about."""
    country = reader_of(db).locale.rpartition("_")[2]
    return lambda day: _is_holiday(country, day)


@lru_cache(10_000)
def _is_holiday(country: str, day: date) -> bool:
    return day in _calendar(country)


@lru_cache(8)
def _calendar(country: str) -> Container[date]:
    import holidays  # a fifth of a second to import: only who moves days off holidays waits for it

    return holidays.country_holidays(country)
