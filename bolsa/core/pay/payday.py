"""A pay, the paydays of it that were confirmed, and the year so far of each of its lines."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.pay.payslip import PayLine


@dataclass(frozen=True)
class Pay:
    """A pay: the series it takes apart (employer, account, rhythm), whose it is, from which payday on it is kept, its lines."""

    id: int
    series_id: int
    member_id: int | None
    kept_from: date
    lines: tuple[PayLine, ...]


@dataclass(frozen=True)
class Told:
    """What a confirmed payslip told of a line, as the entry holds it; above zero as the payslip prints it."""

    pay_line_id: int
    line_id: int
    entry_id: int
    day: date
    amount_minor: int


@dataclass(frozen=True)
class Payday:
    """A payday that was confirmed by an entry. `day` is the one of the rhythm; `is_made` says that the entry was made by
    confirming, because the books had no deposit yet."""

    id: int
    pay_id: int
    day: date
    entry_id: int
    told: tuple[Told, ...]
    is_made: bool = False

    @property
    def by_line(self) -> dict[int, int]:
        return {one.pay_line_id: one.amount_minor for one in self.told}


@dataclass(frozen=True)
class Contribution:
    """What was paid in on an account: "own" from pay, by the "employer", or "other"."""

    by_whom: str
    payee: str
    day: date
    amount_minor: int
    entry_id: int


@dataclass(frozen=True)
class YearSoFar:
    """A line's year: what the payslip said before the first payday kept, and what each payday told since."""

    line: PayLine
    start_minor: int
    told: tuple[Told, ...]

    @property
    def total_minor(self) -> int:
        return self.start_minor + sum(one.amount_minor for one in self.told)


def year_so_far(pay: Pay, paydays: Sequence[Payday], until: date) -> list[YearSoFar]:
    """Each line's year up to a day, that day included. The start figures count in the year of the first payday kept."""
    told = [one for payday in paydays for one in payday.told if one.day.year == until.year and one.day <= until]
    return [
        YearSoFar(
            line, start_of(pay, line, until.year), tuple(one for one in told if one.pay_line_id == line.id)
        )
        for line in pay.lines
    ]  # fmt: skip


def start_of(pay: Pay, line: PayLine, year: int) -> int:
    """What a line begins a year with."""
    return line.start_minor if year == pay.kept_from.year else 0
