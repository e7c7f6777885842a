"""Placing money for many categories at once, and finding where a shortfall could come from."""

from dataclasses import dataclass

from bolsa.core.budget.month import CategoryMonth


@dataclass(frozen=True)
class Filling:
    """What filling needs would do: an amount a category, the sum needed, the money there, and what would remain."""

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


def fill_needs(rows: list[CategoryMonth], there_minor: int) -> Filling:
    """What each row would get, in the rows' order of priority, as far as the money goes.

    The last one reached may get a part; nothing is placed from money that is not there.
    """
    amounts: dict[int, int] = {}
    money = max(0, there_minor)
    for row in rows:
        amount = min(row.still_needs_minor, money)
        if amount:
            amounts[row.category_id] = amount
            money -= amount
    return Filling(amounts, sum(row.still_needs_minor for row in rows), there_minor)


def shift_sources(rows: list[CategoryMonth], short_id: int) -> list[tuple[int, int]]:
    """Where a shortfall could come from: (category, amount it can spare), last priority first.

    A category can spare what it has left beyond what this month still expects of it.
    """
    found = []
    for row in reversed(rows):
        awaited = max(0, row.expected_minor - row.spent_minor)
        spare = row.left_minor - awaited
        if row.category_id != short_id and spare > 0:
            found.append((row.category_id, spare))
    return found
