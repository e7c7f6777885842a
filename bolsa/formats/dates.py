"""Dates as files write them. A reader is told the order of day, month and year; nothing is guessed per value."""

import re
from datetime import date
from functools import lru_cache

from bolsa.core.months import Month

ORDERS = ("ymd", "dmy", "mdy")
_NAMES = {
    name: number
    for number, names in enumerate(
        [
            "jan januar januari enero janvier",
            "feb februar februari febrero fev fevrier février",
            "mar march mrz märz maart marzo mars",
            "apr april abr abril avr avril",
            "may mai mei mayo maj",
            "jun june juni junio juin",
            "jul july juli julio juillet",
            "aug august augustus ago agosto aout août",
            "sep sept september septiembre septembre",
            "oct october okt oktober octubre octobre",
            "nov november noviembre novembre",
            "dec december dez dezember dic diciembre décembre decembre des",
            "",
        ],
        1,
    )
    for name in names.split()
}
_NUMERIC = re.compile(r"(\d{1,4})[./\-\s](\d{1,2})[./\-\s](\d{1,4})(?!\d)")
_COMPACT = re.compile(r"(\d{8})(?!\d)|(\d{14})")
_NAMED = re.compile(
    r"(?:[^\W\d_]{2,10}\.?,?\s+)?(\d{1,2})(?:st|nd|rd|th|\.)?[\s\-./]*([^\W\d_]{3,10})\.?,?[\s\-./]*(\d{4}|\d{2})"
)
_NAME_FIRST = re.compile(r"([^\W\d_]{3,10})\.?\s+(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})")


def day_or_month_end(year: int, month: int, day: int) -> date | None:
    """The date; the month's last day for a 29th to 31st that is not there; None for anything else impossible.

    WORKAROUND: banks that count thirty days a month send 30 February.
    """
    if not (1 <= month <= 12 and 1 <= day <= 31 and 1900 <= year <= 2200):
        return None
    return Month(year, month).day(day)


@lru_cache(20_000)  # a file writes the same days again and again
def read_day(text: str, order: str) -> date | None:
    """The day in the text, read in the order "ymd", "dmy" or "mdy"; a time, a weekday or a zone around it is ignored.

    A year of four digits in front is a year in any order. None if there is no date.

    >>> read_day("14/05/2026 09:30", "dmy"), read_day("2026-05-14T23:59:00Z", "dmy"), read_day("5 Jan 26", "dmy")
    (datetime.date(2026, 5, 14), datetime.date(2026, 5, 14), datetime.date(2026, 1, 5))
    """
    bare = text.strip().strip("'\"").lower()
    named = _NAMED.match(bare) or _NAME_FIRST.match(bare)
    if named:
        return _named_day((named[1], named[2], named[3]))
    compact = _COMPACT.match(bare)
    if compact:
        return _compact_day(bare[:8], order)
    numeric = _NUMERIC.match(bare)
    if not numeric:
        return None
    parts = numeric.groups()
    if len(parts[0]) == 4:
        year, month, day = parts
    elif len(parts[0]) == 3 or len(parts[2]) in (1, 3):
        return None
    else:
        places = {letter: parts[i] for i, letter in enumerate(order)}
        year, month, day = places["y"], places["m"], places["d"]
        if len(parts[2]) == 4:
            year = parts[2]
            day, month = (parts[0], parts[1]) if order != "mdy" else (parts[1], parts[0])
    return day_or_month_end(_full_year(year), int(month), int(day))


def _named_day(parts: tuple[str, str, str]) -> date | None:
    day, name, year = parts if parts[0].isdigit() else (parts[1], parts[0], parts[2])
    month = _NAMES.get(name) or _NAMES.get(name[:3])
    return day_or_month_end(_full_year(year), month, int(day)) if month else None


def _compact_day(digits: str, order: str) -> date | None:
    if order == "ymd" or (digits[:2] in ("19", "20") and 1 <= int(digits[4:6]) <= 12 and 1 <= int(digits[6:]) <= 31):
        return day_or_month_end(int(digits[:4]), int(digits[4:6]), int(digits[6:]))
    first, second, year = int(digits[:2]), int(digits[2:4]), int(digits[4:])
    return day_or_month_end(year, *((second, first) if order == "dmy" else (first, second)))


def _full_year(text: str) -> int:
    year = int(text)
    if len(text) > 2:
        return year
    return 2000 + year if year < 80 else 1900 + year


def find_date_order(samples: list[str]) -> tuple[str, bool]:
    """The order that reads every sample, and whether it is the only one.

    A year of four digits in front is read in any order; a year of two digits in front only where nothing else fits. Day first
    is taken when day and month could both be meant (the usual order where this is read), and the doubt is told.
    """
    distinct = list(dict.fromkeys(samples))
    fitting = [order for order in ("dmy", "mdy") if all(read_day(text, order) for text in distinct)]
    if not fitting:
        return "ymd", all(read_day(text, "ymd") for text in distinct)
    readings = {tuple(read_day(text, order) for text in distinct) for order in fitting}
    # Points between numbers are written where the day stands first; strokes leave it open.
    return fitting[0], len(readings) == 1 or all(re.match(r"\s*\d+\.\s?\d+\.", text) for text in distinct)
