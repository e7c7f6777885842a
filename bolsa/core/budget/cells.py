"""A row of expected amounts as it is pasted or brought in, and figures raised by a percentage: which cells are set for it."""

from collections.abc import Mapping, Sequence
from decimal import ROUND_HALF_UP, Decimal

from bolsa.core.budget.month import ONCE, CategoryPlan, expected_by_month
from bolsa.core.months import Month
from bolsa.errors import InvalidInput


def cells_for(plan: CategoryPlan, first: Month, amounts: Sequence[int | None]) -> dict[Month, int | None]:
    """The cells to set so that the months from the first on are expected to take these amounts (None: as it is), with no cell set
    where the figure before it carries on to the same; None clears a cell that stands there.

    >>> cells_for(CategoryPlan(1, expected={Month(2026, 2): 5}), Month(2026, 1), [430, 430, 0])
    {Month(2026, 1): 430, Month(2026, 2): None, Month(2026, 3): 0}
    """
    expected, every = dict(plan.expected), dict(plan.every)
    changes: dict[Month, int | None] = {}
    for at, amount in enumerate(amounts):
        month = first + at
        if amount is None or expected_by_month(expected, every)(month)[0] == amount:
            continue
        without = {m: a for m, a in expected.items() if m != month}
        if month in expected and expected_by_month(without, every)(month)[0] == amount:
            changes[month], expected = None, without
            every.pop(month, None)
            continue
        changes[month] = expected[month] = amount
        every.pop(month, None)
    return changes


def raised_by(plan: CategoryPlan, since: Month, percent: Decimal) -> dict[Month, tuple[int, int]]:
    """The cells, with their rhythm, that change what is expected from a month on by a percentage, rounded half up: the figure
    that holds in it and every later one. A rhythm goes on from its next month.

    Raises: InvalidInput where nothing is expected from then on.
    """
    factor = 1 + percent / 100

    def raised(amount: int) -> int:
        return int((amount * factor).quantize(Decimal(1), ROUND_HALF_UP))

    cells = {m: (raised(amount), plan.every.get(m, 1)) for m, amount in plan.expected.items() if m >= since}
    carrying = _carrying(plan.expected, plan.every, since)
    if carrying is not None and since not in cells:
        every = plan.every.get(carrying, 1)
        month = since + (carrying - since) % every if every > 1 else since
        if month not in cells and not any(since <= m < month and plan.every.get(m, 1) != ONCE for m in cells):
            cells[month] = raised(plan.expected[carrying]), every
    if not any(plan.expected[carrying if m not in plan.expected and carrying is not None else m] for m in cells):
        raise InvalidInput("Nothing is expected from then on that could be changed by a percentage.", field="expected")
    return cells


def added_up(one: CategoryPlan, other: CategoryPlan) -> dict[Month, int] | None:
    """The cells of a row that expects in every month what two rows expect together; None where either has a rhythm, which no
    cells can hold.

    >>> added_up(CategoryPlan(1, expected={Month(2026, 1): 5}), CategoryPlan(2, expected={Month(2026, 3): 7}))
    {Month(2026, 1): 5, Month(2026, 3): 12}
    """
    if any(every > 1 for plan in (one, other) for every in plan.every.values()):
        return None
    months = {m for plan in (one, other) for m in plan.expected}
    months |= {m + 1 for plan in (one, other) for m in plan.expected if plan.every.get(m, 1) == ONCE}
    of_one, of_other = (expected_by_month(plan.expected, plan.every) for plan in (one, other))
    return {month: of_one(month)[0] + of_other(month)[0] for month in sorted(months)}


def _carrying(expected: Mapping[Month, int], every: Mapping[Month, int], since: Month) -> Month | None:
    """The month whose figure holds when another begins."""
    before = [m for m in expected if m < since and every.get(m, 1) != ONCE]
    return max(before) if before else None
