"""Days in words, as people type them: today, yesterday, tomorrow, monday, 12/5, 12 May, 2026-05-12."""

import re
from datetime import date, timedelta

_WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_NEAR = {"yesterday": -1, "today": 0, "tomorrow": 1}
MONTHS = (
    "january", "february", "march", "april", "may", "june",
    "july", "august", "september", "october", "november", "december",
)  # fmt: skip


def read_day_words(words: list[str], today: date, *, day_first: bool = True, ahead: bool = False) -> date | None:
    """The day one or two words name; None if they name none.

    A weekday is the last one before today; a day without a year is the latest one that is not after today; with `ahead` the next
    one after today, and the first that is not before it. `day_first` says which of two numbers is the day: 12/5 is 12 May, or
    5 December.

    >>> read_day_words(["12/5"], date(2026, 5, 14)), read_day_words(["2.9.2025"], date(2026, 5, 14))
    (datetime.date(2026, 5, 12), datetime.date(2025, 9, 2))
    """
    text = " ".join(words).lower().rstrip(",")
    if text in _NEAR:
        return today + timedelta(days=_NEAR[text])
    if len(words) == 1 and len(text) >= 3:
        for number, name in enumerate(_WEEKDAYS):
            if name == text or (len(text) == 3 and name.startswith(text)):
                back = (today.weekday() - number) % 7
                return today + timedelta(days=7 - back) if ahead else today - timedelta(days=back or 7)
    iso = re.fullmatch(r"(\d{4})[-/](\d{1,2})[-/](\d{1,2})", text)
    if iso:
        return _date(int(iso[1]), int(iso[2]), int(iso[3]))
    full = re.fullmatch(r"(\d{1,2})([-/.])(\d{1,2})\2(\d{4}|\d{2})", text)
    if full:
        day, month = _ordered(int(full[1]), int(full[3]), day_first or full[2] == ".")
        return _date(int(full[4]) + (2000 if len(full[4]) == 2 else 0), month, day)
    numbers = re.fullmatch(r"(\d{1,2})(?:/(\d{1,2})|\.(\d{1,2})\.)", text)
    named = re.fullmatch(r"(\d{1,2})\.? ([a-z]{3,9})(?: (\d{4}))?", text)
    if numbers:
        number, month = _ordered(int(numbers[1]), int(numbers[2] or numbers[3]), day_first or bool(numbers[3]))
    elif named and any(m.startswith(named[2]) for m in MONTHS):
        number, month = int(named[1]), next(n for n, m in enumerate(MONTHS, 1) if m.startswith(named[2]))
        if named[3]:
            return _date(int(named[3]), month, number)
    else:
        return None
    this_year = _date(today.year, month, number)
    if ahead:
        return this_year if this_year and this_year >= today else _date(today.year + 1, month, number)
    return this_year if this_year and this_year <= today else _date(today.year - 1, month, number)


def _ordered(one: int, other: int, day_first: bool) -> tuple[int, int]:
    """Two numbers as day and month; with dots the day stands first everywhere."""
    return (one, other) if day_first else (other, one)


def _date(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None
