"""A yearly ceiling on what goes to an account, the employer's part counted in: what is used, when it would be passed, what
reaches it exactly."""

from dataclasses import dataclass
from datetime import date
from itertools import accumulate


@dataclass(frozen=True)
class Ceiling:
    """What may go to an account in a year, what did (from pay, from the employer, otherwise), and what is to come: so much from
    pay and so much from the employer on each of the paydays left, in order."""

    account_id: int
    name: str
    year: int
    ceiling_minor: int
    own_minor: int
    employer_minor: int
    other_minor: int = 0
    to_come: tuple[tuple[date, int, int], ...] = ()

    @property
    def used_minor(self) -> int:
        return self.own_minor + self.employer_minor + self.other_minor

    @property
    def left_minor(self) -> int:
        """What may still go there, below zero if too much did."""
        return self.ceiling_minor - self.used_minor

    @property
    def end_minor(self) -> int:
        """What the year comes to if pay goes on as it is."""
        return self.used_minor + sum(own + employer for _, own, employer in self.to_come)

    @property
    def passed_on(self) -> date | None:
        """The payday on which the ceiling would be passed."""
        sums = accumulate((own + employer for _, own, employer in self.to_come), initial=self.used_minor)
        next(sums)
        return next((day for (day, _, _), total in zip(self.to_come, sums, strict=True) if total > self.ceiling_minor), None)

    @property
    def exact(self) -> tuple[int, int] | None:
        """What from pay reaches the ceiling exactly: on each payday, and on the last one; None if no payday is left or the
        employer's part alone passes it.

        >>> Ceiling(1, "Health", 2026, 100_00, 10_00, 0, 0, tuple((date(2026, n, 1), 0, 1_00) for n in (10, 11, 12))).exact
        (2900, 2900)
        """
        room = self.left_minor - sum(employer for _, _, employer in self.to_come)
        if not self.to_come or room < 0:
            return None
        each, rest = divmod(room, len(self.to_come))
        return each, each + rest
