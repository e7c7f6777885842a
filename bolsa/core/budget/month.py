"""The budget's one arithmetic: carried in, need, placed, spent, left, unplaced. All in minor units of home currency.

left(m)  = carried in(m) + placed(m) − spent(m)
unplaced = balance of everyday accounts − Σ left − Σ placed in later months
"""

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, field

from bolsa.core.months import Month, months_between


@dataclass(frozen=True)
class CategoryPlan:
    """What the budget knows of one category: its rules, and its amounts by month (months without one are absent).

    `expected` holds only the amounts set by hand. `spent` is net of refunds and includes money set by.
    """

    category_id: int
    carries: bool = True
    carries_minus: bool = False
    expected: Mapping[Month, int] = field(default_factory=dict)
    placed: Mapping[Month, int] = field(default_factory=dict)
    spent: Mapping[Month, int] = field(default_factory=dict)


@dataclass(frozen=True)
class CategoryMonth:
    """One category in one month. `returned_minor` went back to unplaced at the month's start (or came from it, if less
    than 0, to meet a shortfall)."""

    category_id: int
    month: Month
    carried_minor: int
    returned_minor: int
    expected_minor: int
    expected_from: Month | None
    need_minor: int
    placed_minor: int
    spent_minor: int

    @property
    def left_minor(self) -> int:
        return self.carried_minor + self.placed_minor - self.spent_minor

    @property
    def there_minor(self) -> int:
        """What was there to spend: carried in and placed."""
        return self.carried_minor + self.placed_minor

    @property
    def still_needs_minor(self) -> int:
        return max(0, self.need_minor - self.placed_minor)

    @property
    def over_minor(self) -> int:
        return max(0, -self.left_minor)

    @property
    def is_hand_set(self) -> bool:
        return self.expected_from == self.month


def expected_in(expected: Mapping[Month, int], month: Month) -> tuple[int, Month | None]:
    """The expected amount in a month and the month in which it was set: the latest figure set by hand carries on.

    >>> expected_in({Month(2026, 6): 600, Month(2026, 7): 0}, Month(2026, 12))
    (0, Month(year=2026, number=7))
    """
    set_months = sorted(expected)
    at = bisect_right(set_months, month)
    if not at:
        return 0, None
    return expected[set_months[at - 1]], set_months[at - 1]


def carry(plan: CategoryPlan, left_minor: int) -> int:
    """What of a month's left goes on to the next month; the rest returns to unplaced, or is met from it."""
    if left_minor < 0:
        return left_minor if plan.carries_minus else 0
    return left_minor if plan.carries else 0


def month_by_month_need(plan: CategoryPlan, expected_minor: int, carried_minor: int) -> int:
    """The need under the aim *month by month*: expected less carried in, not below 0; expected alone if not carrying.

    A minus that is carried adds to the need, whatever the category does with money left.
    """
    if not plan.carries and carried_minor >= 0:
        return expected_minor
    return max(0, expected_minor - carried_minor)


def category_month(plan: CategoryPlan, month: Month) -> CategoryMonth:
    """The category in the month, counted from the first month that has an amount."""
    before, left = 0, 0
    # Only months with an amount can change what is carried: the months between pass it on unchanged, except the very
    # next one, in which a rest returns or a shortfall is met.
    touched = sorted({m for m in (*plan.placed, *plan.spent) if m < month})
    previous: Month | None = None
    for m in touched:
        carried = left if previous is None else carry(plan, left)
        left = carried + plan.placed.get(m, 0) - plan.spent.get(m, 0)
        previous = m
    before = left
    carried = carry(plan, before)
    returned = before - carried if previous is not None and month - previous == 1 else 0
    expected_minor, expected_from = expected_in(plan.expected, month)
    return CategoryMonth(
        category_id=plan.category_id,
        month=month,
        carried_minor=carried,
        returned_minor=returned,
        expected_minor=expected_minor,
        expected_from=expected_from,
        need_minor=month_by_month_need(plan, expected_minor, carried),
        placed_minor=plan.placed.get(month, 0),
        spent_minor=plan.spent.get(month, 0),
    )


@dataclass(frozen=True)
class BudgetMonth:
    """The whole budget in one month. `balance_minor` is that of everyday accounts at the month's end;
    `placed_later_minor` what was placed in later months, as known on the day of the view."""

    month: Month
    rows: tuple[CategoryMonth, ...]
    balance_minor: int
    placed_later_minor: int

    @property
    def lefts_minor(self) -> int:
        return sum(row.left_minor for row in self.rows)

    @property
    def unplaced_minor(self) -> int:
        return self.balance_minor - self.lefts_minor - self.placed_later_minor

    @property
    def still_needs_minor(self) -> int:
        return sum(row.still_needs_minor for row in self.rows)

    def row_of(self, category_id: int) -> CategoryMonth:
        return next(row for row in self.rows if row.category_id == category_id)


def budget_month(plans: list[CategoryPlan], month: Month, balance_minor: int, placed_later_minor: int) -> BudgetMonth:
    """The budget in a month: a row a plan, in the plans' order."""
    rows = tuple(category_month(plan, month) for plan in plans)
    return BudgetMonth(month, rows, balance_minor, placed_later_minor)


def covered_until(plans: list[CategoryPlan], month: Month, ahead: int = 24) -> Month | None:
    """The last month, from this one on, in which every need is met by what is placed; None if this one's is not."""
    covered = None
    for m in months_between(month, month + ahead):
        rows = [category_month(plan, m) for plan in plans]
        if any(row.still_needs_minor for row in rows) or not any(row.need_minor or row.there_minor for row in rows):
            break
        covered = m
    return covered
