"""A trial: what changes in the plan without being kept, laid over the plan as it is."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from bolsa.core.budget.aims import Aim
from bolsa.core.budget.month import CategoryPlan
from bolsa.core.months import Month


@dataclass(frozen=True)
class TrialCell:
    """A figure set in a trial; no amount clears the one the plan has."""

    amount_minor: int | None
    every: int = 1


@dataclass(frozen=True)
class Trial:
    """Figures by category and month, the categories of which nothing is expected from a month on, and other aims."""

    id: int
    name: str = ""
    cells: Mapping[tuple[int, Month], TrialCell] = field(default_factory=dict)
    dropped: Mapping[int, Month] = field(default_factory=dict)
    aims: Mapping[int, Aim] = field(default_factory=dict)

    @property
    def is_empty(self) -> bool:
        return not (self.cells or self.dropped or self.aims)

    @property
    def category_ids(self) -> set[int]:
        """The categories it changes."""
        return {id_ for id_, _ in self.cells} | set(self.dropped) | set(self.aims)


def tried(plan: CategoryPlan, trial: Trial) -> CategoryPlan:
    """The plan as the trial would have it.

    >>> plan = CategoryPlan(1, expected={Month(2026, 1): 100, Month(2026, 9): 120})
    >>> dict(tried(plan, Trial(7, dropped={1: Month(2026, 6)})).expected)
    {Month(2026, 1): 100, Month(2026, 6): 0}
    """
    if plan.category_id not in trial.category_ids:
        return plan
    expected, every = dict(plan.expected), dict(plan.every)
    for (id_, month), cell in trial.cells.items():
        if id_ != plan.category_id:
            continue
        expected.pop(month, None)
        every.pop(month, None)
        if cell.amount_minor is not None:
            expected[month] = cell.amount_minor
            if cell.every != 1:
                every[month] = cell.every
    ends = trial.dropped.get(plan.category_id)
    if ends is not None:
        expected = {month: amount for month, amount in expected.items() if month < ends} | {ends: 0}
        every = {month: rhythm for month, rhythm in every.items() if month < ends}
    return replace(plan, expected=expected, every=every, aim=trial.aims.get(plan.category_id, plan.aim))
