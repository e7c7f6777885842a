"""A cut through income and spending: one measure over some days, under conditions, taken apart by one dimension.

Only lines of income and spending categories count, so a transfer never does, nor what is set by, nor an opening balance;
refunds are taken off. A split counts line by line. What is not sorted yet is a part of its own: what left counts as spent,
what came as received.
"""

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import NamedTuple

from bolsa.core.months import FIRST_YEAR, LAST_YEAR, Month, months_between
from bolsa.core.units import Money
from bolsa.core.worth.rates import Rates, rate_on
from bolsa.errors import InvalidInput

MEASURES = ("spent", "received")
DIMENSIONS = ("group", "category", "payee", "tags", "member", "account")
CONDITIONS = (*DIMENSIONS, "tag")  # "tags" is a line's exact set of tags, "tag" one of those it carries
MOST_MONTHS = 1200
NOBODY = "0"  # the part of lines that have no such thing
_CONDITION = re.compile(r"(-?)([a-z]+)\.(\d{1,18}(?:\+\d{1,18})*)")


@dataclass(frozen=True)
class Condition:
    """Lines of one part of a dimension alone, or all but those. A part is an id as text; of "tags" ids joined by "+"."""

    dimension: str
    part: str
    is_left_out: bool = False

    def __str__(self) -> str:
        return f"{'-' if self.is_left_out else ''}{self.dimension}.{self.part}"

    @classmethod
    def parse(cls, text: str) -> "Condition":
        """The condition written as "category.7" or "-payee.12". Raises: InvalidInput."""
        found = _CONDITION.fullmatch(text)
        if not found or found[2] not in CONDITIONS or ("+" in found[3] and found[2] != "tags"):
            raise InvalidInput(f"“{text[:30]}” is no condition of a question.")
        return cls(found[2], found[3], bool(found[1]))


@dataclass(frozen=True)
class Cut:
    """What is asked: the measure, the first and last day, and conditions that all hold."""

    measure: str
    first: date
    last: date
    conditions: tuple[Condition, ...] = ()

    def __str__(self) -> str:
        return "~".join((self.measure, self.first.isoformat(), self.last.isoformat(), *map(str, self.conditions)))

    @classmethod
    def parse(cls, text: str) -> "Cut":
        """The cut written as "spent~2026-01-01~2026-01-31~category.7". Raises: InvalidInput."""
        try:
            measure, first, last, *conditions = text.split("~")
            days = date.fromisoformat(first), date.fromisoformat(last)
        except ValueError as error:
            raise InvalidInput("A question is about days from one to another.") from error
        return cls(measure, *days, tuple(Condition.parse(one) for one in conditions)).checked()

    def checked(self) -> "Cut":
        """The cut, if it can be asked. Raises: InvalidInput naming the field."""
        if self.measure not in MEASURES:
            raise InvalidInput("There is no such question.")
        if self.first > self.last:
            raise InvalidInput("The first day is after the last.", field="from")
        if self.first.year < FIRST_YEAR or self.last.year > LAST_YEAR or len(self.months) > MOST_MONTHS:
            raise InvalidInput(
                f"A question is about {MOST_MONTHS // 12} years at most, between {FIRST_YEAR} and {LAST_YEAR}.", field="from"
            )
        return self

    def within(self, dimension: str, part: str) -> "Cut":
        """The same cut of one part alone."""
        return self if self.holds(dimension, part) else replace(self, conditions=(*self.conditions, Condition(dimension, part)))

    def holds(self, dimension: str, part: str) -> bool:
        return Condition(dimension, part) in self.conditions

    def over(self, first: date, last: date) -> "Cut":
        return replace(self, first=first, last=last)

    @property
    def months(self) -> tuple[Month, ...]:
        """The months it touches, in order."""
        return tuple(months_between(Month.of(self.first), Month.of(self.last)))

    @property
    def is_whole(self) -> bool:
        """Whether it is of whole months."""
        return self.first == Month.of(self.first).first_day and self.last == Month.of(self.last).last_day


class Summed(NamedTuple):
    """What a part came to: in home currency by month; a line in another currency stands alone, with its day."""

    part: str
    month: Month
    currency: str
    day: str
    amount_minor: int


class CutLine(NamedTuple):
    """One line of a cut, in its own currency; above zero as the measure says."""

    line_id: int
    entry_id: int
    day: str
    payee: str
    memo: str
    category_id: int
    account_id: int
    currency: str
    amount_minor: int


@dataclass(frozen=True)
class Piece:
    """What one part came to in one month, in minor units of home currency: above zero as the measure says."""

    part: str
    month: Month
    amount_minor: int


def pieces_of(summed: Iterable[Summed], home: str, rates: Rates) -> tuple[list[Piece], tuple[str, ...]]:
    """The sums in home currency, each line in another one at its day's rate; and the currencies without any."""
    pieces, missing = [], set()
    for one in summed:
        amount = one.amount_minor
        if one.currency != home:
            rate = rate_on(one.currency, date.fromisoformat(one.day), home, rates)
            if rate is None:
                missing.add(one.currency)
                continue
            amount = rate.convert(Money(amount, one.currency)).minor
        pieces.append(Piece(one.part, one.month, amount))
    return pieces, tuple(sorted(missing))


@dataclass(frozen=True)
class Part:
    """One part of a cut: its key and its amounts by month."""

    key: str
    by_month: Mapping[Month, int] = field(default_factory=dict)

    @property
    def amount_minor(self) -> int:
        return sum(self.by_month.values())

    def amounts(self, months: Iterable[Month]) -> list[int]:
        return [self.by_month.get(month, 0) for month in months]


def parts_of(pieces: Iterable[Piece]) -> list[Part]:
    """The parts pieces make, the largest first; the pieces' sum is the parts' sum."""
    found: dict[str, dict[Month, int]] = defaultdict(lambda: defaultdict(int))
    for piece in pieces:
        found[piece.part][piece.month] += piece.amount_minor
    parts = [Part(key, dict(by_month)) for key, by_month in found.items()]
    return sorted(parts, key=lambda part: (-part.amount_minor, part.key))


def whole_of(parts: Sequence[Part]) -> Part:
    """All parts together, as one."""
    return next(iter(parts_of(Piece("all", m, amount) for part in parts for m, amount in part.by_month.items())), Part("all"))
