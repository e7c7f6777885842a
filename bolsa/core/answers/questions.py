"""What follows from the parts of a cut: a normal month, what made a difference, what grew."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.answers.cut import Part
from bolsa.core.money import mean_of
from bolsa.core.months import Month, add_months


@dataclass(frozen=True)
class Difference:
    """What one part came to before and after."""

    key: str
    before_minor: int
    after_minor: int

    @property
    def made_minor(self) -> int:
        """What it made of the difference."""
        return self.after_minor - self.before_minor


def differences(before: Sequence[Part], after: Sequence[Part]) -> list[Difference]:
    """What each part made of the difference between two cuts, the largest first, whichever way; they sum to the difference."""
    then = {part.key: part.amount_minor for part in before}
    now = {part.key: part.amount_minor for part in after}
    found = [Difference(key, then.get(key, 0), now.get(key, 0)) for key in {**then, **now}]
    return sorted(found, key=lambda one: (-abs(one.made_minor), one.key))


def halves(months: Sequence[Month]) -> tuple[Sequence[Month], Sequence[Month]]:
    """The first and second half of some months; of an odd number the one in the middle is in neither."""
    half = len(months) // 2
    return months[:half], months[len(months) - half :]


def growth(parts: Sequence[Part], months: Sequence[Month]) -> list[Difference]:
    """What each part came to a month in the first half of the months, and in the second; the largest growth first."""
    first, second = halves(months)
    found = [Difference(part.key, mean_of(part.amounts(first)), mean_of(part.amounts(second))) for part in parts]
    return sorted(found, key=lambda one: (-one.made_minor, one.key))


def same_days(first: date, last: date, months_before: int) -> tuple[date, date]:
    """The days to compare some days with: the same days so many months before. Whole months give whole months; a month that runs
    gives as many of its days.

    >>> same_days(date(2026, 5, 1), date(2026, 5, 14), 1)
    (datetime.date(2026, 4, 1), datetime.date(2026, 4, 14))
    >>> same_days(date(2026, 3, 1), date(2026, 3, 31), 1)
    (datetime.date(2026, 2, 1), datetime.date(2026, 2, 28))
    """
    then = add_months(first, -months_before)
    if last == Month.of(last).last_day:
        return then, (Month.of(last) + -months_before).last_day
    return then, max(then, min(add_months(last, -months_before), first - timedelta(days=1)))
