"""Placing money for many categories at once, and where a shortfall, or money promised that is not there, could come from."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from bolsa.core.budget.month import CategoryMonth, CategoryPlan
from bolsa.core.money import digits_of
from bolsa.core.months import Month


@dataclass(frozen=True)
class Filling:
    """What filling would do: an amount a category, the sum needed, the money there, and what would remain."""

    amounts: dict[int, int]
    needed_minor: int
    there_minor: int

    @property
    def placed_minor(self) -> int:
        return sum(self.amounts.values())

    @property
    def remains_minor(self) -> int:
        return self.there_minor - self.placed_minor

    @property
    def is_short(self) -> bool:
        return self.placed_minor < self.needed_minor


def fill_up(rows: Sequence[CategoryMonth], wanted: Mapping[int, int], there_minor: int) -> Filling:
    """What each row would get to have so much placed as is wanted of it, in the rows' order of priority, as far as the money
    goes.

    The last one reached may get a part; nothing is placed from money that is not there, and nothing taken back.
    """
    amounts: dict[int, int] = {}
    money, needed = max(0, there_minor), 0
    for row in rows:
        missing = max(0, wanted.get(row.category_id, 0) - row.placed_minor)
        needed += missing
        amount = min(missing, money)
        if amount:
            amounts[row.category_id] = amount
            money -= amount
    return Filling(amounts, needed, there_minor)


def fill_needs(rows: Sequence[CategoryMonth], there_minor: int) -> Filling:
    """What each row would get to meet its need."""
    return fill_up(rows, {row.category_id: row.need_minor for row in rows}, there_minor)


def share_of_paydays(rows: Sequence[CategoryMonth], paydays: Sequence[date], today: date) -> dict[int, int]:
    """What is wanted of each row by now if every payday of the month brings an equal share of its need: half of it on the first
    of two. Before the first nothing is; without a payday the whole need is."""
    if not paydays:
        return {row.category_id: row.need_minor for row in rows}
    come = sum(day <= today for day in paydays)
    return {row.category_id: -(-row.need_minor * come // len(paydays)) for row in rows}


def small_change(rows: Sequence[CategoryMonth], currency: str) -> dict[int, int]:
    """What each row has left beyond whole units: 0.37 of 12.37; of a currency without minor units, beyond whole hundreds."""
    unit = 10 ** (digits_of(currency) or 2)
    return {row.category_id: row.left_minor % unit for row in rows if row.left_minor > 0 and row.left_minor % unit}


def spare_of(row: CategoryMonth, due_minor: int = 0) -> int:
    """What a category can spare: what it has left beyond what this month still expects of it, or what is due in it."""
    return max(0, row.left_minor - max(0, row.expected_minor - row.spent_minor, due_minor))


@dataclass(frozen=True)
class Proposal:
    """Where an amount could come from: the categories that give, each with how much."""

    parts: tuple[tuple[int, int], ...]
    is_enough: bool

    @property
    def amount_minor(self) -> int:
        return sum(amount for _, amount in self.parts)


def propose_sources(
    rows: Sequence[CategoryMonth], short_id: int, short_minor: int, due: Mapping[int, int] | None = None
) -> list[Proposal]:
    """Where a shortfall could come from, `rows` in order of priority: first every category that can give all of it, the last in
    priority first; where there is none, several together, of which each gives all it can spare until it is enough. What is due
    this month (`due`, by category) is never given.
    """
    spare = [(row.category_id, spare_of(row, (due or {}).get(row.category_id, 0))) for row in reversed(rows)]
    spare = [(id_, amount) for id_, amount in spare if id_ != short_id and amount > 0]
    if short_minor <= 0:
        return [Proposal(((id_, amount),), is_enough=True) for id_, amount in spare]
    alone = [Proposal(((id_, short_minor),), is_enough=True) for id_, amount in spare if amount >= short_minor]
    if alone or not spare:
        return alone
    parts, missing = [], short_minor
    for id_, amount in spare:
        parts.append((id_, min(amount, missing)))
        missing -= parts[-1][1]
        if not missing:
            break
    return [Proposal(tuple(parts), is_enough=not missing)]


def take_back_promised(
    plans: Sequence[CategoryPlan], rows: Sequence[CategoryMonth], promised_minor: int, due: Mapping[int, int] | None = None
) -> list[tuple[int, Month, int]]:
    """Where money promised that is not there is taken back: (category, month, amount), until it is enough. What was placed in
    later months comes first, the farthest ahead and the last in priority before the others; then what this month's rows can
    spare of what was placed in it. `plans` and `rows` are in order of priority.
    """
    month = rows[0].month if rows else None
    later = [
        (m, at, plan.category_id, amount)
        for at, plan in enumerate(plans) for m, amount in plan.placed.items()
        if month is not None and m > month and amount > 0
    ]  # fmt: skip
    found, missing = [], promised_minor
    now = [
        (row.category_id, row.month, min(row.placed_minor, spare_of(row, (due or {}).get(row.category_id, 0))))
        for row in reversed(rows)
    ]
    for id_, m, amount in [(id_, m, amount) for m, _, id_, amount in sorted(later, reverse=True)] + now:
        part = min(amount, missing)
        if part > 0:
            found.append((id_, m, part))
            missing -= part
    return found
