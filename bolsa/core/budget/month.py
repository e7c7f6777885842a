"""The budget's one arithmetic: carried in, need, placed, spent, left, unplaced. All in minor units of home currency.

left(m)  = carried in(m) + placed(m) − spent(m)
unplaced = balance of everyday accounts − Σ left − Σ placed in later months
"""

from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import count

from bolsa.core.months import Month

MOST_AHEAD = 24  # months that "covered until" looks ahead
ONCE = 0  # the rhythm of a figure that counts in its month alone
MOST_EVERY = 120  # months


@dataclass(frozen=True)
class CategoryPlan:
    """What the budget knows of one category: its rules, and its amounts by month (months without one are absent).

    `expected` holds only the amounts set by hand, `every` their rhythm in months where it is not 1: so many months from one to
    the next, or ONCE. `spent` is net of refunds and includes money set by; of an income it is what came in.
    """

    category_id: int
    carries: bool = True
    carries_minus: bool = False
    expected: Mapping[Month, int] = field(default_factory=dict)
    placed: Mapping[Month, int] = field(default_factory=dict)
    spent: Mapping[Month, int] = field(default_factory=dict)
    every: Mapping[Month, int] = field(default_factory=dict)


@dataclass(frozen=True)
class CategoryMonth:
    """One category in one month. `returned_minor` went back to unplaced at the month's start (or came from it, if less
    than 0, to meet a shortfall)."""

    category_id: int
    month: Month
    carried_minor: int
    returned_minor: int
    expected_from: Month | None
    need: "Need"
    placed_minor: int
    spent_minor: int

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


@dataclass(frozen=True)
class Need:
    """What a category should get in a month, as the parts it is made of: what is expected, and what is taken off it (less than 0)
    or added because of what was carried in."""

    expected_minor: int
    carried_part_minor: int

    @property
    def amount_minor(self) -> int:
        return self.expected_minor + self.carried_part_minor


def need_of(plan: CategoryPlan, expected_minor: int, carried_minor: int) -> Need:
    """The need under the aim *month by month*: expected less carried in, not below 0; expected alone if not carrying.

    A minus that is carried adds to the need, whatever the category does with money left.

    >>> need_of(CategoryPlan(1), 30_000, 4_500).amount_minor, need_of(CategoryPlan(1), 30_000, 45_000).amount_minor
    (25500, 0)
    """
    if not plan.carries and carried_minor >= 0:
        return Need(expected_minor, 0)
    return Need(expected_minor, -min(expected_minor, carried_minor))


def walk(plan: CategoryPlan, first: Month) -> Iterator[CategoryMonth]:
    """The category month by month from the first on, without end, in one pass over its amounts.

    Months before the first that have no amount pass on what is carried unchanged, but for the very next one, in which a rest
    returns or a shortfall is met; so only months with an amount are looked at there.
    """
    left, before = 0, None
    for m in sorted({m for amounts in (plan.placed, plan.spent) for m in amounts if m < first}):
        carried = carry(plan, left) if before is not None else 0
        left, before = carried + plan.placed.get(m, 0) - plan.spent.get(m, 0), m
    figure = expected_by_month(plan.expected, plan.every)
    for m in (first + ahead for ahead in count()):
        carried = carry(plan, left) if before is not None else 0
        returned = left - carried if before is not None and m - before == 1 else 0
        expected, expected_from = figure(m)
        need, placed, spent = need_of(plan, expected, carried), plan.placed.get(m, 0), plan.spent.get(m, 0)
        yield CategoryMonth(plan.category_id, m, carried, returned, expected_from, need, placed, spent)
        left, before = carried + placed - spent, m


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
