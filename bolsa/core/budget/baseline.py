"""A baseline: what the full months there are say that a category usually takes or brings."""

from collections.abc import Sequence
from dataclasses import dataclass

from bolsa.core.budget.month import CategoryPlan, figure_of
from bolsa.core.money import mean_of, median_of
from bolsa.core.months import Month
from bolsa.errors import InvalidInput

WAYS = ("mean", "median", "last")
USUAL_MONTHS = 12  # full months a baseline is taken from, at most, where nobody says how many
MOST_MONTHS = 120


@dataclass(frozen=True)
class BaselineRow:
    """One category: what is expected of it in the month the baseline begins, and what the baseline says."""

    category_id: int
    present_minor: int
    amount_minor: int


def months_of(full: Sequence[Month], count: int, way: str) -> list[Month]:
    """The full months a baseline is taken from: the last one, or the last so many. Raises: InvalidInput where there is none."""
    if way not in WAYS:
        raise InvalidInput(f"A baseline is one of: {', '.join(WAYS)}.", field="way")
    if not 1 <= count <= MOST_MONTHS:
        raise InvalidInput(f"Take 1 to {MOST_MONTHS} full months.", field="months")
    if not full:
        raise InvalidInput("There is no full month yet: a baseline needs one from its first day to its last.", field="months")
    return list(full[-1:] if way == "last" else full[-count:])


def baseline(plans: Sequence[CategoryPlan], months: Sequence[Month], way: str, since: Month) -> list[BaselineRow]:
    """What each plan's months say, not below 0, beside what is expected of it from a month on.

    >>> baseline([CategoryPlan(1, spent={Month(2026, 1): 300, Month(2026, 2): 100})], [Month(2026, 1), Month(2026, 2)], "mean",
    ...          Month(2026, 3))
    [BaselineRow(category_id=1, present_minor=0, amount_minor=200)]
    """
    found = []
    for plan in plans:
        amounts = [plan.spent.get(month, 0) for month in months]
        amount = median_of(amounts) if way == "median" else mean_of(amounts)
        found.append(BaselineRow(plan.category_id, figure_of(plan)(since)[0], max(0, amount)))
    return found
