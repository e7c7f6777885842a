"""The public holidays the household goes by: of a country it chose, of none, or else of the country of its way of writing."""

import sqlite3
from collections.abc import Callable, Container
from datetime import date
from functools import lru_cache

from bolsa.core.due.rhythm import never_free
from bolsa.errors import InvalidInput
from bolsa.services.changes import note
from bolsa.services.house.preferences import reader_of
from bolsa.store.house import household

NONE, AS_WRITTEN = "none", ""


def holidays_of(db: sqlite3.Connection) -> Callable[[date], bool]:
    """Whether a day is a public holiday for the household. The table of holidays is read when the first day is asked about."""
    return holidays_in(chosen_country(db) or reader_of(db).locale.rpartition("_")[2])


def holidays_in(country: str) -> Callable[[date], bool]:
    """Whether a day is a public holiday in a country (ISO 3166, two letters), or in "none"."""
    return never_free if country == NONE else lambda day: _is_holiday(country, day)


def chosen_country(db: sqlite3.Connection) -> str:
    """The country whose holidays the household chose, "none", or "" where it is that of its way of writing."""
    return household.find_setting(db, "holidays") or AS_WRITTEN


def choose_country(db: sqlite3.Connection, country: str) -> None:
    """Says whose holidays count from now on. Raises: InvalidInput for a country nobody keeps holidays of."""
    if country not in (NONE, AS_WRITTEN):
        country = check_country(country)
    with note(db):
        household.put_setting(db, "holidays", country)


def check_country(country: str) -> str:
    """A country's two letters, or "none", as they are kept. Raises: InvalidInput for one whose holidays are not known."""
    kept = country.strip().upper()
    if country.strip().lower() == NONE:
        return NONE
    if kept not in list_countries():
        raise InvalidInput(
            f"No holidays are known for “{country.strip()[:20]}”. Try a country’s two letters, such as PT, or none.",
            field="country",
        )
    return kept


@lru_cache(1)
def list_countries() -> tuple[str, ...]:
    """The countries whose holidays are known, by their two letters, in order."""
    import holidays

    return tuple(sorted(code for code in holidays.list_supported_countries(include_aliases=False) if len(code) == 2))


@lru_cache(10_000)
def _is_holiday(country: str, day: date) -> bool:
    return day in _calendar(country)


@lru_cache(8)
def _calendar(country: str) -> Container[date]:
    import holidays  # a fifth of a second to import: only who moves days off holidays waits for it

    return holidays.country_holidays(country)
