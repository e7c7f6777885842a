"""A payslip: what was earned, what is taken off before tax, taxes, what is taken off after, and the employer's part.

Gross = Σ earned; taxable = gross − Σ before tax; net = taxable − Σ taxes − Σ after tax. The employer's part is beside all that.
Amounts are as the payslip prints them: above zero is earned, or taken off; a correction may be below.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.known import known
from bolsa.core.ledger.entries import Line
from bolsa.core.units import Percent

KINDS = EARNED, BEFORE, TAX, AFTER, EMPLOYER = ("earned", "before", "tax", "after", "employer")
MOST_EXPLAINED = 3  # ways to explain a difference that are offered


@dataclass(frozen=True)
class PayLine:
    """A line of a pay: a fixed amount, or a percentage of gross. It goes to an account or a category; to neither, it is taken off
    the income itself. `id` is 0 until it is kept. `is_usual` is False for what stood on single payslips, or stands there no more.
    `start_minor` is what the payslip said of the year before the first payday that is kept."""

    id: int
    kind: str
    name: str
    amount_minor: int | None = None
    percent: Percent | None = None
    account_id: int | None = None
    category_id: int | None = None
    start_minor: int = 0
    is_usual: bool = True

    @property
    def sign(self) -> int:
        """What the line does to net: 1 adds, −1 takes off, 0 neither."""
        return {EARNED: 1, EMPLOYER: 0}.get(self.kind, -1)


@dataclass(frozen=True)
class Payslip:
    """The lines of one payday with their amounts, in order."""

    items: tuple[tuple[PayLine, int], ...]

    def of_kind(self, kind: str) -> tuple[tuple[PayLine, int], ...]:
        return tuple((line, amount) for line, amount in self.items if line.kind == kind)

    def sum_of(self, kind: str) -> int:
        return sum(amount for _, amount in self.of_kind(kind))

    @property
    def gross_minor(self) -> int:
        return self.sum_of(EARNED)

    @property
    def taxable_minor(self) -> int:
        return self.gross_minor - self.sum_of(BEFORE)

    @property
    def net_minor(self) -> int:
        return sum(line.sign * amount for line, amount in self.items)

    @property
    def by_line(self) -> dict[int, int]:
        return {line.id: amount for line, amount in self.items}


def reckon(lines: Sequence[PayLine], given: Mapping[int, int] | None = None) -> Payslip:
    """The payslip of these lines: an amount that is given stands, else what is usual; a percentage is of the gross so found.

    >>> from decimal import Decimal
    >>> base, pension = PayLine(1, "earned", "Base", 199804), PayLine(2, "before", "Pension", percent=Percent(Decimal(6)))
    >>> slip = reckon([base, pension])
    >>> slip.gross_minor, slip.taxable_minor, slip.net_minor
    (199804, 187816, 187816)
    """
    given = given or {}
    gross = sum(given.get(line.id, _usual(line, 0)) for line in lines if line.kind == EARNED)
    return Payslip(tuple((line, given.get(line.id, _usual(line, gross))) for line in lines))


def _usual(line: PayLine, gross_minor: int) -> int:
    if not line.is_usual:
        return 0
    return line.percent.of(gross_minor) if line.percent is not None else line.amount_minor or 0


@dataclass(frozen=True)
class Explanation:
    """A line that explains the whole difference if it is so much; `day` is the payday on which it was so, None if it is left
    out."""

    line: PayLine
    amount_minor: int
    day: date | None = None


def explain(slip: Payslip, difference_minor: int, earlier: Sequence[tuple[date, Mapping[int, int]]]) -> list[Explanation]:
    """Which single lines explain that net differs by so much: as an earlier payday had them (the latest first), or left out."""
    if not difference_minor:
        return []
    found = []
    for line, amount in slip.items:
        wanted = amount + line.sign * difference_minor
        on = next((day for day, amounts in sorted(earlier, reverse=True) if amounts.get(line.id) == wanted), None)
        if line.sign and (on is not None or (wanted == 0 and amount)):
            found.append(Explanation(line, wanted, on))
    return found[:MOST_EXPLAINED]


def entry_lines(
    slip: Payslip,
    deposit: Line,
    day: date,
    income_category_id: int,
    apart_ids: frozenset[int],
    kept: Mapping[int, Line],
    member_id: int | None = None,
) -> list[tuple[PayLine | None, Line]]:
    """The lines of a payday's entry, each with the payslip's line it is for: first the deposit, last the employer's parts again,
    as income.

    What goes to an apart account is set by from the income, so that the budget sees what arrived and no more. `kept` are lines
    that are there already (changed payslips, deposits the bank brought): they keep what the bank gave them. Lines of nothing are
    left out. The lines sum to zero if the deposit is the net.
    """
    lines: list[tuple[PayLine | None, Line]] = [(None, deposit)]
    mirrored: list[tuple[PayLine | None, Line]] = []
    for item, amount in slip.items:
        if not amount:
            continue
        signed = -amount if item.kind == EARNED else amount
        category_id = item.category_id or income_category_id
        before = kept.get(item.id)
        if item.account_id is not None:
            set_by = income_category_id if item.account_id in apart_ids else None
            line = Line(signed, deposit.currency, item.account_id, set_by, day, "pending")
            if before is not None and before.account_id == item.account_id:
                line = before._replace(amount_minor=signed, category_id=set_by)
        else:
            line = Line(signed, deposit.currency, None, category_id, day, member_id=member_id)
        lines.append((item, line))
        if item.kind == EMPLOYER:
            mirrored.append((None, Line(-signed, deposit.currency, None, income_category_id, day, member_id=member_id)))
    return lines + mirrored


def income_category(lines: Sequence[PayLine]) -> int:
    """The category of the pay's first earned line. Raises: ValueError if there is none: a bug."""
    return known(next((line.category_id for line in lines if line.kind == EARNED), None))
