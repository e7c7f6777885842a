"""An opening balance: what an account held before its first line, reckoned backwards from what it is known to have held."""

from dataclasses import dataclass
from datetime import date, timedelta


@dataclass(frozen=True)
class KnownBalance:
    """What an account held at the beginning of a day, in minor units, and the entry that opens it so, if it needs one."""

    account_id: int
    day: date
    amount_minor: int
    entry_id: int | None = None

    def opening(self, first_day: date | None, moved_minor: int) -> tuple[date, int]:
        """The day and amount of the opening balance. `first_day` is that of the first line before the known day, `moved_minor`
        what all lines before it moved.

        >>> KnownBalance(1, date(2026, 5, 14), 100_000).opening(date(2026, 3, 2), -2_500)
        (datetime.date(2026, 3, 1), 102500)
        """
        if first_day is None:
            return self.day, self.amount_minor
        return (first_day - timedelta(days=1) if first_day > date.min else first_day), self.amount_minor - moved_minor


def known_after(closing_day: date) -> date:
    """The day at whose beginning an account holds what it did at the end of another."""
    return closing_day + timedelta(days=1) if closing_day < date.max else closing_day
