"""A calendar month as a value, and day arithmetic that names its month-end rule."""

import calendar
import re
from datetime import date
from functools import lru_cache

from bolsa.errors import InvalidInput

FIRST_YEAR, LAST_YEAR = 1900, 2200  # what a person may mean; further out the calendar of the machine ends
_TEXT = re.compile(r"(\d{4})-(\d{2})")


class Month(int):
    """A month of the calendar, such as Month(2026, 5); orders and prints as 2026-05; a difference is a number of months.

    It is the count of months since year 0, because the budget looks up and sorts months by the ten thousand.
    """

    __slots__ = ()

    def __new__(cls, year: int, number: int) -> "Month":
        return super().__new__(cls, year * 12 + number - 1)

    def __getnewargs__(self) -> tuple[int, int]:  # type: ignore[override]
        return self.year, self.number

    @property
    def year(self) -> int:
        return int(self) // 12

    @property
    def number(self) -> int:
        return int(self) % 12 + 1

    @classmethod
    def of(cls, day: date) -> "Month":
        return cls(day.year, day.month)

    @classmethod
    def parse(cls, text: str) -> "Month":
        """The month written as 2026-05. Raises: InvalidInput."""
        return _parsed(text or "")

    def __str__(self) -> str:
        return f"{self.year:04d}-{self.number:02d}"

    def __format__(self, spec: str) -> str:
        return format(str(self), spec)

    def __repr__(self) -> str:
        return f"Month({self.year}, {self.number})"

    def __add__(self, months: int) -> "Month":
        return int.__new__(Month, int(self) + months)

    @property
    def first_day(self) -> date:
        return date(self.year, self.number, 1)

    @property
    def last_day(self) -> date:
        return date(self.year, self.number, calendar.monthrange(self.year, self.number)[1])

    def day(self, number: int) -> date:
        """The day of that number in this month, clamped to the last day (31 in February is 28 or 29)."""
        return date(self.year, self.number, number if number <= 28 else min(number, self.last_day.day))


@lru_cache(4_000)  # a page reads the same few months from thousands of rows
def _parsed(text: str) -> Month:
    match = _TEXT.fullmatch(text)
    if not match or not 1 <= int(match[2]) <= 12 or not FIRST_YEAR <= int(match[1]) <= LAST_YEAR:
        raise InvalidInput(f"“{text[:20]}” is not a month. Write it like “2026-05”.", field="month")
    return Month(int(match[1]), int(match[2]))


def months_between(first: Month, last: Month) -> list[Month]:
    """Every month from first to last, both included, in order; empty if last is before first."""
    return [first + i for i in range(last - first + 1)]


def add_months(anchor: date, months: int) -> date:
    """The same day that many months on, clamped to the month's end; always count from the anchor.

    >>> add_months(date(2024, 1, 31), 1), add_months(date(2024, 1, 31), 2)
    (datetime.date(2024, 2, 29), datetime.date(2024, 3, 31))
    """
    return (Month.of(anchor) + months).day(anchor.day)


def full_months(began: date | None, present: Month) -> list[Month]:
    """The months that are known from their first day to their last, in order: from the day the books begin (None: never) to the
    month before the present one. A half month would spoil a mean.

    >>> full_months(date(2026, 1, 2), Month(2026, 4)), full_months(date(2026, 3, 1), Month(2026, 4))
    ([Month(2026, 2), Month(2026, 3)], [Month(2026, 3)])
    """
    if began is None:
        return []
    return months_between(Month.of(began) + (0 if began.day == 1 else 1), present + -1)
