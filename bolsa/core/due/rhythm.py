"""When something comes again: a recurrence rule of RFC 5545, and what it leaves open for money.

The rule says which days; `short_month` what becomes of a day a month does not have (RFC 5545 leaves it out), `weekend`
where a day goes that is no working day. Days are always counted from the start, never from the one before: a phase is never lost.
"""

import re
from calendar import monthrange
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import MAXYEAR, date, datetime, timedelta
from functools import lru_cache
from statistics import median_low

from dateutil.rrule import rrulebase, rrulestr

from bolsa.core.ledger.day_words import MONTHS
from bolsa.core.months import FIRST_YEAR, LAST_YEAR, Month
from bolsa.core.whole_numbers import number_of
from bolsa.errors import InvalidInput

MOST_MOVED = 14  # days that a run of weekends and holidays can push a due
SHORT_MONTHS = ("last", "skip")
WEEKENDS = ("stay", "before", "after")
_PART = re.compile(r"(FREQ|INTERVAL|COUNT|UNTIL|BYDAY|BYMONTHDAY|BYMONTH|BYSETPOS|WKST)=([A-Z0-9,+-]+)")
_LIMITS = {"INTERVAL": (1, 999), "COUNT": (1, 9999), "BYMONTHDAY": (-31, 31), "BYMONTH": (1, 12), "BYSETPOS": (-366, 366)}
_FREQUENCIES = {"DAILY": "day", "WEEKLY": "week", "MONTHLY": "month", "YEARLY": "year"}
_WEEKDAYS = {
    "MO": "Monday", "TU": "Tuesday", "WE": "Wednesday", "TH": "Thursday", "FR": "Friday", "SA": "Saturday", "SU": "Sunday",
}  # fmt: skip
_PLACES = {1: "first", 2: "second", 3: "third", 4: "fourth", 5: "fifth", -1: "last"}


def never_free(_day: date) -> bool:
    """A calendar without holidays."""
    return False


@dataclass(frozen=True)
class Rhythm:
    """A recurrence: its rule without DTSTART, the day it starts, the short month ("last" day, or "skip") and weekends ("stay",
    "before", "after")."""

    rrule: str
    start: date
    short_month: str = "last"
    weekend: str = "stay"

    def days(self, first: date, last: date, is_holiday: Callable[[date], bool] = never_free) -> list[date]:
        """The days from first to last on which it comes, in order, moved off what is no working day.

        Raises: InvalidInput for a rule that cannot be read.
        """
        reach = timedelta(days=MOST_MOVED)
        moved = (
            moved_off(day, self.weekend, is_holiday) for day in _nominal(self, _plus(last, reach)) if day >= _minus(first, reach)
        )
        return sorted({day for day in moved if first <= day <= last})

    def next_days(self, after: date, times: int, is_holiday: Callable[[date], bool] = never_free) -> list[date]:
        """The next days after a day, so many at most; fewer where it ends."""
        found: list[date] = []
        years = 2
        while len(found) < times and years <= 64:
            found = [day for day in self.days(after, _plus(after, timedelta(days=366 * years)), is_holiday) if day > after]
            years *= 2
        return found[:times]


def moved_off(day: date, weekend: str, is_holiday: Callable[[date], bool] = never_free) -> date:
    """The working day before or after, if the day is none; the day itself where such days stay."""
    step = {"before": -1, "after": 1}.get(weekend)
    while step and (day.weekday() >= 5 or is_holiday(day)):
        day += timedelta(days=step)
    return day


def parse_rrule(text: str) -> dict[str, str]:
    """The parts of a rule. Raises: InvalidInput for what RFC 5545 does not know, or what comes more than once a day."""
    parts: dict[str, str] = {}
    for piece in text.strip().upper().removeprefix("RRULE:").split(";"):
        match = _PART.fullmatch(piece.strip())
        if not match or match[1] in parts:
            raise InvalidInput(f"“{piece[:30]}” is no part of a rhythm. Write it like FREQ=MONTHLY;BYMONTHDAY=15.", field="rrule")
        parts[match[1]] = match[2]
    if parts.get("FREQ") not in _FREQUENCIES:
        raise InvalidInput("A rhythm begins with FREQ=DAILY, WEEKLY, MONTHLY or YEARLY.", field="rrule")
    for name, (least, most) in _LIMITS.items():
        numbers = parts[name].split(",") if name in parts else []
        if not all(least <= (number_of(number, signed=True) or least - 1) <= most for number in numbers):
            raise InvalidInput(f"{name} is a number from {least} to {most}.", field="rrule")
    if "COUNT" in parts and "UNTIL" in parts:
        raise InvalidInput("A rhythm ends by COUNT or by UNTIL, not by both.", field="rrule")
    return parts


def check_rhythm(rhythm: Rhythm) -> Rhythm:
    """The rhythm, if it can be followed. Raises: InvalidInput naming the field."""
    if rhythm.short_month not in SHORT_MONTHS:
        raise InvalidInput("In a short month it comes on the last day, or is skipped.", field="short")
    if rhythm.weekend not in WEEKENDS:
        raise InvalidInput("On a weekend it stays, or moves before or after.", field="weekend")
    if not FIRST_YEAR <= rhythm.start.year <= LAST_YEAR:
        raise InvalidInput(f"It starts between {FIRST_YEAR} and {LAST_YEAR}.", field="start")
    _nominal(rhythm, rhythm.start)
    return rhythm


@lru_cache(2_000)  # a page asks for the same series and stretch several times, and the next page again
def _nominal(rhythm: Rhythm, last: date) -> tuple[date, ...]:
    """The days the rule names until a day, each once, in order; COUNT counts them."""
    parts = _filled(rhythm)
    until = min(last, _until(parts["UNTIL"])) if "UNTIL" in parts else last
    if "BYMONTHDAY" not in parts or "BYDAY" in parts:
        found = [moment.date() for moment in _by_library(rhythm, parts, until)]
    elif parts["FREQ"] in ("MONTHLY", "YEARLY"):
        found = list(_by_month_days(rhythm, parts, until))
    else:
        plain = {name: value for name, value in parts.items() if name not in ("BYMONTHDAY", "BYSETPOS")}
        days = (moment.date() for moment in _by_library(rhythm, plain, until))
        found = [day for day in days if day in _month_days(rhythm, parts, day.year, day.month)]
    return tuple(found[: int(parts["COUNT"])] if "COUNT" in parts else found)


def _filled(rhythm: Rhythm) -> dict[str, str]:
    """The parts of the rule, with the day and the month of its start where it names none."""
    parts = parse_rrule(rhythm.rrule)
    if parts["FREQ"] in ("MONTHLY", "YEARLY") and not {"BYDAY", "BYMONTHDAY"} & parts.keys():
        parts["BYMONTHDAY"] = str(rhythm.start.day)
        if parts["FREQ"] == "YEARLY" and "BYMONTH" not in parts:
            parts["BYMONTH"] = str(rhythm.start.month)
    return parts


def _month_days(rhythm: Rhythm, parts: dict[str, str], year: int, month: int) -> list[date]:
    """The days BYMONTHDAY names in a month, in order; one that the month does not have is its last, or skipped."""
    length = monthrange(year, month)[1]
    numbers = {int(number) for number in parts["BYMONTHDAY"].split(",")}
    if rhythm.short_month == "last":
        numbers = {min(number, length) for number in numbers}
    days = {number if number > 0 else length + 1 + number for number in numbers}
    return [date(year, month, day) for day in sorted(days) if 1 <= day <= length]


def _by_month_days(rhythm: Rhythm, parts: dict[str, str], until: date) -> Iterator[date]:
    """The days of a monthly or yearly rule by days of the month: BYSETPOS chooses among those of a month, or of a year."""
    every, start = int(parts.get("INTERVAL", "1")), rhythm.start
    months = sorted({int(number) for number in parts.get("BYMONTH", "").split(",") if number} or range(1, 13))
    places = [int(place) for place in parts.get("BYSETPOS", "").split(",") if place]
    is_yearly = parts["FREQ"] == "YEARLY"
    period = 0
    while True:
        if is_yearly:
            year = start.year + period * every
            of_period = [(year, month) for month in months]
        else:
            year, month = divmod(start.year * 12 + start.month - 1 + period * every, 12)
            of_period = [(year, month + 1)] if month + 1 in months else []
        if year > until.year or year > MAXYEAR:
            return
        days = [day for year, month in of_period for day in _month_days(rhythm, parts, year, month)]
        if places:
            days = sorted({days[p - 1 if p > 0 else p] for p in places if -len(days) <= (p if p < 0 else p - 1) < len(days)})
        yield from (day for day in days if start <= day <= until)
        period += 1


def _by_library(rhythm: Rhythm, parts: dict[str, str], until: date) -> rrulebase:
    """The rule as dateutil follows it."""
    text = ";".join(f"{name}={value}" for name, value in parts.items() if name not in ("COUNT", "UNTIL"))
    start = datetime.combine(rhythm.start, datetime.min.time())
    try:
        return rrulestr(f"{text};UNTIL={until:%Y%m%d}T000000", dtstart=start)
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise InvalidInput(f"“{rhythm.rrule[:60]}” is no rhythm that can be followed.", field="rrule") from error


def _until(text: str) -> date:
    try:
        return date.fromisoformat(text[:8])
    except ValueError as error:
        raise InvalidInput("UNTIL is a day, written like 20271231.", field="rrule") from error


def _plus(day: date, by: timedelta) -> date:
    return day + by if date.max - day > by else date.max


def _minus(day: date, by: timedelta) -> date:
    return day - by if day - date.min > by else date.min


def in_words(rhythm: Rhythm) -> str:
    """The rhythm as people say it; the rule itself where there is no shorter way.

    >>> in_words(Rhythm("FREQ=MONTHLY;INTERVAL=6", date(2026, 1, 10)))
    'every six months on the 10th'
    >>> in_words(Rhythm("FREQ=WEEKLY;INTERVAL=2", date(2026, 5, 8)))
    'every two weeks on Friday'
    """
    parts = parse_rrule(rhythm.rrule)
    every = int(parts.get("INTERVAL", "1"))
    unit = _FREQUENCIES[parts["FREQ"]]
    often = {"day": "daily", "week": "weekly", "month": "monthly", "year": "yearly"}[unit] if every == 1 else ""
    often = often or f"every {_small(every)} {unit}s"
    places = parts.get("BYSETPOS")
    days = parts.get("BYDAY", "")
    if unit == "week":
        names = (
            [_WEEKDAYS.get(code, code) for code in days.split(",")]
            if days
            else [list(_WEEKDAYS.values())[rhythm.start.weekday()]]
        )
        return f"{often} on {' and '.join(names)}"
    if places == "-1" and days == "MO,TU,WE,TH,FR":
        return f"{often} on the last working day"
    nth = re.fullmatch(r"([+-]?\d)(MO|TU|WE|TH|FR|SA|SU)", days)
    if nth and int(nth[1]) in _PLACES:
        return f"{often} on the {_PLACES[int(nth[1])]} {_WEEKDAYS[nth[2]]}"
    if days or places:
        return f"by the rule {rhythm.rrule}"
    if unit == "day":
        return often
    numbers = parts.get("BYMONTHDAY", str(rhythm.start.day)).split(",")
    on = " and ".join("the last day" if n == "-1" else f"the {_ordinal(int(n))}" for n in numbers)
    if unit == "year":
        month = int(parts.get("BYMONTH", str(rhythm.start.month)).split(",")[0])
        return f"{often} on {on} of {MONTHS[month - 1].capitalize()}"
    return f"{often} on {on}"


def extra_months(rhythm: Rhythm, months: Sequence[Month]) -> dict[Month, int]:
    """The months in which it comes more often than in most of them, with how often: the third payday of a two-weekly pay, the
    thirteenth of a four-weekly bill. Weekends are not looked at: a day moved over a month's end is no extra one.

    >>> from bolsa.core.months import months_between
    >>> extra_months(Rhythm("FREQ=WEEKLY;INTERVAL=2", date(2026, 5, 1)), months_between(Month(2026, 5), Month(2026, 12)))
    {Month(2026, 5): 3, Month(2026, 10): 3}
    """
    days = replace(rhythm, weekend="stay").days(months[0].first_day, months[-1].last_day)
    counts = Counter(Month.of(day) for day in days)
    usual = median_low([counts[month] for month in months])
    return {month: counts[month] for month in months if usual and counts[month] > usual}


@lru_cache(2_000)
def times_a_year(rhythm: Rhythm) -> float:
    """How often it comes in a year, on average over four of them from its start."""
    years = 4
    last = _plus(rhythm.start, timedelta(days=round(365.25 * years) - 1))
    parts = ";".join(part for part in rhythm.rrule.split(";") if not part.upper().startswith(("COUNT", "UNTIL")))
    return len(Rhythm(parts, rhythm.start, rhythm.short_month).days(rhythm.start, last)) / years


def _ordinal(number: int) -> str:
    ending = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def _small(number: int) -> str:
    words = ("", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    return words[number] if number < len(words) else str(number)
