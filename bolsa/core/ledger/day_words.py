"""Days in words, as people type them: today, yesterday, monday, 12/5, 12 May, 2026-05-12."""

import re
from datetime import date, timedelta

_WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_MONTHS = (
    "january", "february", "march", "april", "may", "june",
    "july", "august", "september", "october", "november", "december",
)  # fmt: skip


def read_day_words(words: list[str], today: date) -> date | None:
    """The day one or two words name; None if they name none.

    A weekday is the last one before today; a day without a year is the latest one that is not after today.
    """
    text = " ".join(words).lower().rstrip(",")
    if text in ("today", "yesterday"):
        return today - timedelta(days=text == "yesterday")
    if len(words) == 1 and len(text) >= 3:
        for number, name in enumerate(_WEEKDAYS):
            if name == text or (len(text) == 3 and name.startswith(text)):
                return today - timedelta(days=(today.weekday() - number) % 7 or 7)
    iso = re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text)
    if iso:
        return _date(int(iso[1]), int(iso[2]), int(iso[3]))
    numbers = re.fullmatch(r"(\d{1,2})(?:/(\d{1,2})|\.(\d{1,2})\.)", text)
    named = re.fullmatch(r"(\d{1,2})\.? ([a-z]{3,9})", text)
    if numbers:
        month = int(numbers[2] or numbers[3])
    elif named and any(m.startswith(named[2]) for m in _MONTHS):
        month = next(n for n, m in enumerate(_MONTHS, 1) if m.startswith(named[2]))
    else:
        return None
    number = int((numbers or named)[1])
    this_year = _date(today.year, month, number)
    return this_year if this_year and this_year <= today else _date(today.year - 1, month, number)


def _date(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None
