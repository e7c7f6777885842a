"""Closing a month: what is looked through before, the mark itself, and what has changed in it since."""

import sqlite3
from dataclasses import dataclass
from datetime import timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.budget.closed import ClosedMonth, Since, Stood, changed_since
from bolsa.core.months import Month
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.accounts.holes import list_unnoted
from bolsa.services.budget.budgeting import BudgetView, budget_view
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches
from bolsa.store.budget import closing
from bolsa.store.connection import reading
from bolsa.store.due import repeating
from bolsa.store.house import household
from bolsa.store.sorting import categories

LATE_DAYS = 7  # the last days of a month in which nothing need have happened on an account


@dataclass(frozen=True)
class Point:
    """One point of the checklist: what it is about, whether it is so, and what is open in words."""

    key: str
    words: str
    is_done: bool
    open_words: str = ""
    open_minor: int = 0  # money that is open, in home currency; said instead of words


@dataclass(frozen=True)
class Closing:
    """What there is to say of closing a month: its checklist, and how it stood if it is closed, with what changed since."""

    month: Month
    points: tuple[Point, ...]
    closed: ClosedMonth | None
    since: tuple[Since, ...]
    unplaced_minor: int

    @property
    def is_changed(self) -> bool:
        """Whether anything is another now than when the month was closed."""
        return self.closed is not None and (bool(self.since) or self.closed.unplaced_minor != self.unplaced_minor)

    @property
    def open_points(self) -> tuple[Point, ...]:
        return tuple(point for point in self.points if not point.is_done)


def closing_of(db: sqlite3.Connection, by: By, view: BudgetView) -> Closing:
    """The checklist of a month as it stands, and whether it is closed."""
    month = view.budget.month
    with reading(db):
        closed = closing.find_closed(db, month)
        points = _points(db, by, view)
    since = changed_since(closed, view.budget.rows) if closed else []
    return Closing(month, points, closed, tuple(since), view.budget.unplaced_minor)


def find_closed(db: sqlite3.Connection, month: Month) -> ClosedMonth | None:
    """The month as it stood when it was closed, None while it is open."""
    return closing.find_closed(db, month)


def list_closed(db: sqlite3.Connection) -> set[Month]:
    """The months that are closed."""
    return closing.list_closed(db)


def months_touched(db: sqlite3.Connection, step_id: int) -> list[Month]:
    """The closed months in which a step changed something."""
    return closing.list_touched(db, step_id)


def _points(db: sqlite3.Connection, by: By, view: BudgetView) -> tuple[Point, ...]:
    month, home = view.budget.month, household.get_household(db).home_currency
    everyday = [state for state in accounts.list_account_states(db) if state.account.everyday and state.account.shown]
    everyday = [s for s in everyday if s.account.opened_on <= month.last_day and not _is_closed(s.account, month)]
    known = repeating.list_known_until(db)
    enough = min(month.last_day - timedelta(days=LATE_DAYS), by.today)
    behind = [s.account.name for s in everyday if known.get(s.account.id, s.account.opened_on) < enough]
    waiting = batches.list_batches(db, "waiting")
    unsorted = categories.count_category_lines(db, categories.UNSORTED, month.first_day, month.last_day)[0]
    unchecked = [s.account.name for s in everyday if s.checked_until is None or s.checked_until < month.last_day]
    over = [view.category(row.category_id).name for row in view.budget.rows if row.over_minor]
    unnoted = list_unnoted(db, month.last_day)
    unplaced = view.budget.unplaced_minor
    waits = counted(len(waiting), "preview waits", "previews wait") if waiting else ""
    return (
        Point("bring", "All brought in", not behind and not waiting, _join([*behind, waits])),
        Point("sort", "All sorted", not unsorted, f"{counted(unsorted, 'line')} unsorted"),
        Point("check", "All checked", not unchecked, _join(unchecked)),
        Point("below", "No category below zero", not over, _join(over)),
        Point("place", "All placed", unplaced == 0, f"{Money(unplaced, home)} unplaced", unplaced),
        Point("values", "Values noted", not unnoted, _join(unnoted)),
    )


def _is_closed(account: Account, month: Month) -> bool:
    return account.closed_on is not None and account.closed_on <= month.last_day


def _join(names: list[str]) -> str:
    """Names in a row, the first three and how many more."""
    there = [name for name in names if name]
    more = f" and {len(there) - 3} more" if len(there) > 3 else ""
    return ", ".join(there[:3]) + more


def close_month(db: sqlite3.Connection, by: By, month: Month) -> Done:
    """Closes a month as it stands, whatever is open on its checklist, which is kept with it.

    Raises: InvalidInput for a month that is not over, Conflict for one that is closed.
    """
    with change(db, by) as done:
        if month >= Month.of(by.today) and by.today < month.last_day:
            raise InvalidInput(f"{month} is not over: it can be closed on its last day.", field="month")
        view = budget_view(db, by, month)
        found = closing_of(db, by, view)
        if found.closed:
            raise Conflict(f"{month} is closed already, since {found.closed.closed_on}.")
        stood = {row.category_id: Stood(row.placed_minor, row.spent_minor, row.left_minor) for row in view.budget.rows}
        left_open = "; ".join(f"{point.words}: {point.open_words}" for point in found.open_points)
        closing.insert_closed(db, month, by.today, by.member_id, view.budget.unplaced_minor, left_open, stood)
        done.sentence = f"Closed {month}"
        done.made = found
    return done


def open_month(db: sqlite3.Connection, by: By, month: Month) -> Done:
    """Opens a closed month again. Raises: Conflict if it is open."""
    with change(db, by) as done:
        if closing.find_closed(db, month) is None:
            raise Conflict(f"{month} is open already.")
        closing.remove_closed(db, month)
        done.sentence = f"Opened {month} again"
    return done


def close_anew(db: sqlite3.Connection, by: By, month: Month) -> Done:
    """Takes a closed month as it stands now, with what changed in it since. Raises: Conflict if it is open."""
    with change(db, by) as done:
        open_month(db, by, month)
        close_month(db, by, month)
        done.sentence = f"Closed {month} as it stands now"
    return done
