"""The budget's one arithmetic: carried in, need, placed, spent, left, unplaced. All in minor units of home currency.

left(m)  = carried in(m) + placed(m) − spent(m)
unplaced = balance of everyday accounts − Σ left − Σ placed in later months
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from itertools import count

from bolsa.core.budget.aims import MONTH_BY_MONTH, SPREAD_OVER, Aim, Need, need_of
from bolsa.core.months import Month

MOST_AHEAD = 24  # months that "covered until" looks ahead
ONCE = 0  # the rhythm of a figure that counts in its month alone
MOST_EVERY = 120  # months


@dataclass(frozen=True)
class CategoryPlan:
    """What the budget knows of one category: its rules, and its amounts by month (months without one are absent).

    `expected` holds only the amounts set by hand, `every` their rhythm in months where it is not 1: so many months from one to
    the next, or ONCE. `spent` is net of refunds and includes money set by; of an income it is what came in. `held` is what the
    accounts hold that the aim stands on: their balance at the end of each month in which it changed.
    """

    category_id: int
    carries: bool = True
    carries_minus: bool = False
    expected: Mapping[Month, int] = field(default_factory=dict)
    placed: Mapping[Month, int] = field(default_factory=dict)
    spent: Mapping[Month, int] = field(default_factory=dict)
    every: Mapping[Month, int] = field(default_factory=dict)
    aim: Aim = MONTH_BY_MONTH
    held: Mapping[Month, int] = field(default_factory=dict)

    @property
    def is_aimed(self) -> bool:
        """Whether its money is put by for an amount, or steadily, where no figure was set by hand: the year counts its needs
        then."""
        return not self.expected and (self.aim.grows or self.aim.kind == "steady")


@dataclass(frozen=True)
class CategoryMonth:
    """One category in one month. `returned_minor` went back to unplaced at the month's start (or came from it, if less
    than 0, to meet a shortfall)."""

    category_id: int
    month: Month
    carried_minor: int
    returned_minor: int
    expected_from: Month | None
    need: Need
    placed_minor: int
    spent_minor: int
    held_minor: int = 0  # by the accounts the aim stands on, when the month began

    @property
    def expected_minor(self) -> int:
        return self.need.expected_minor

    @property
    def need_minor(self) -> int:
        return self.need.amount_minor

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


def expected_by_month(
    expected: Mapping[Month, int], every: Mapping[Month, int] | None = None
) -> Callable[[Month], tuple[int, Month | None]]:
    """What gives the expected amount of any month, and the month in which the figure was set.

    The latest figure set by hand carries on; one with a rhythm comes every so many months and is nothing between; one that is
    set once counts in its month alone, and the figure before it carries on after it as if it were not there.

    Of 430 in March and September, and nothing between, three cells are set by hand:

    >>> lease = expected_by_month({Month(2026, 3): 430, Month(2026, 4): 0, Month(2026, 9): 430})
    >>> [lease(Month(2026, number))[0] for number in (3, 4, 8, 9)]
    [430, 0, 0, 430]
    >>> expected_by_month({Month(2026, 3): 430}, {Month(2026, 3): 6})(Month(2026, 9))
    (430, Month(2026, 3))
    """
    every = every or {}
    carrying = sorted(m for m in expected if every.get(m, 1) != ONCE)

    def figure(month: Month) -> tuple[int, Month | None]:
        if month in expected:
            return expected[month], month
        at = bisect_right(carrying, month)
        if not at:
            return 0, None
        since = carrying[at - 1]
        return (expected[since] if (month - since) % every.get(since, 1) == 0 else 0), since

    return figure


def carry(plan: CategoryPlan, left_minor: int) -> int:
    """What of a month's left goes on to the next month; the rest returns to unplaced, or is met from it."""
    if left_minor < 0:
        return left_minor if plan.carries_minus else 0
    return left_minor if plan.carries else 0


Figure = Callable[[Month], tuple[int, Month | None]]


def figure_of(plan: CategoryPlan) -> Figure:
    """What gives a category's expected amount of any month."""
    return expected_by_month(plan.expected, plan.every)


def held_before(plan: CategoryPlan) -> Callable[[Month], int]:
    """What gives the balance, when a month begins, of the accounts that the plan's aim stands on."""
    months = sorted(plan.held)
    if not months:
        return lambda month: 0

    def held(month: Month) -> int:
        at = bisect_left(months, month)
        return plan.held[months[at - 1]] if at else 0

    return held


def _need(plan: CategoryPlan, month: Month, expected_minor: int, figure: Figure, carried_minor: int, held_minor: int) -> Need:
    """The category's need in a month. What does not carry begins each month with nothing, unless a minus is carried."""
    there = carried_minor if plan.carries or carried_minor < 0 else 0
    ahead = SPREAD_OVER if plan.aim.kind == "spread" else 0
    expected = [expected_minor, *(figure(month + n)[0] for n in range(1, ahead + 1))]
    return need_of(plan.aim, month, expected, there + held_minor)


def walk(plan: CategoryPlan, first: Month) -> Iterator[CategoryMonth]:
    """The category month by month from the first on, without end, in one pass over its amounts.

    Months before the first that have no amount pass on what is carried unchanged, but for the very next one, in which a rest
    returns or a shortfall is met; so only months with an amount are looked at there.
    """
    left, before = 0, None
    for m in sorted({m for amounts in (plan.placed, plan.spent) for m in amounts if m < first}):
        carried = carry(plan, left) if before is not None else 0
        left, before = carried + plan.placed.get(m, 0) - plan.spent.get(m, 0), m
    figure, held = figure_of(plan), held_before(plan)
    for m in (first + ahead for ahead in count()):
        carried = carry(plan, left) if before is not None else 0
        returned = left - carried if before is not None and m - before == 1 else 0
        expected, expected_from = figure(m)
        need, placed, spent = _need(plan, m, expected, figure, carried, held(m)), plan.placed.get(m, 0), plan.spent.get(m, 0)
        yield CategoryMonth(plan.category_id, m, carried, returned, expected_from, need, placed, spent, held(m))
        left, before = carried + placed - spent, m


def filled_ahead(plan: CategoryPlan, first: Month, months: int) -> list[CategoryMonth]:
    """The coming months of a plan, from one on, if every need were filled and every expected amount went; what is placed and
    spent by then stays. Each row is as it stands before its own need is filled."""
    found = []
    for month in (first + n for n in range(months)):
        row = category_month(plan, month)
        found.append(row)
        placed = {**plan.placed, month: max(row.placed_minor, row.need_minor)}
        plan = replace(plan, placed=placed, spent={**plan.spent, month: max(row.spent_minor, row.expected_minor)})
    return found


def category_month(plan: CategoryPlan, month: Month) -> CategoryMonth:
    """The category in one month."""
    return next(walk(plan, month))


@dataclass(frozen=True)
class BudgetMonth:
    """The whole budget in one month. `balance_minor` is that of everyday accounts at the month's end; `placed_later_minor` is
    what was placed in later months, as known on the day of the view; `covered_until` the last month in which every need is met.
    """

    month: Month
    rows: tuple[CategoryMonth, ...]
    balance_minor: int
    placed_later_minor: int
    covered_until: Month | None

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
    """The budget in a month: a row a plan, in the plans' order, and until when every need is met."""
    courses = [walk(plan, month) for plan in plans]
    rows = tuple(next(course) for course in courses)
    return BudgetMonth(month, rows, balance_minor, placed_later_minor, _covered_until(rows, courses))


def _covered_until(rows: tuple[CategoryMonth, ...], courses: list[Iterator[CategoryMonth]]) -> Month | None:
    """The last month, from that of the rows on, in which every need is met by what is placed; None if theirs are not. It looks as
    far as it must, and no more than MOST_AHEAD months."""
    covered = None
    for _ in range(MOST_AHEAD + 1):
        if any(row.still_needs_minor for row in rows) or not any(row.need_minor or row.there_minor for row in rows):
            break
        covered = rows[0].month
        rows = tuple(next(course) for course in courses)
    return covered
