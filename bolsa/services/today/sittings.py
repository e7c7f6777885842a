"""The sitting: the true state of its five steps, and where it was left."""

import sqlite3
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.accounts.account import Account, AccountState
from bolsa.core.bringing.batch import Batch, Connection
from bolsa.core.due.ahead import CurvePoint, money_curve
from bolsa.core.due.dues import Due
from bolsa.core.due.reminders import Reminder
from bolsa.core.house.kept import Sitting
from bolsa.core.months import Month
from bolsa.services.accounts.valuing import carry_values
from bolsa.services.budget.budgeting import BudgetView, budget_view
from bolsa.services.changes import note
from bolsa.services.checking.checking import checked_until
from bolsa.services.clock import By
from bolsa.services.due.dues import list_kept
from bolsa.services.due.reminding import list_near
from bolsa.services.holdings.shares import count_differing
from bolsa.services.pay.paydays import list_waiting
from bolsa.services.sorting import asking
from bolsa.services.sorting.asking import Asked
from bolsa.services.sorting.sorting import ToSort, what_to_sort
from bolsa.services.worth.worth import worth_view
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, connections
from bolsa.store.connection import reading
from bolsa.store.due import repeating
from bolsa.store.house import household

STEPS = ("bring", "sort", "check", "place", "look")
CHECK_AFTER_DAYS = 35


@dataclass(frozen=True)
class Ahead:
    """What is due in the next days, and how the everyday money goes: day by day, with its lowest point. `is_followed` says
    whether any series is kept: until then nobody knows what is due. `paydays` wait for their payslip: (pay, payee, day). `dated`
    is what is entered for later days: (day, amount)."""

    is_followed: bool
    dues: tuple[Due, ...]
    late: tuple[Due, ...]
    paydays: tuple[tuple[int, str, date], ...]
    curve: tuple[CurvePoint, ...]
    now_minor: int
    dated: tuple[tuple[date, int], ...]
    reminders: tuple[Reminder, ...] = ()  # whose day is past, or near

    @property
    def lowest(self) -> CurvePoint:
        return min(self.curve, key=lambda point: (point.balance_minor, point.day))


@dataclass(frozen=True)
class TodayView:
    """What Today shows: each step's state as the books are now."""

    waiting: tuple[Batch, ...]
    last_brought: Batch | None
    stale_connections: tuple[Connection, ...]
    has_accounts: bool
    to_sort: ToSort
    to_check: tuple[AccountState, ...]
    shares_differ: tuple[Account, ...]
    checkable: int
    checked_until: date | None
    budget: BudgetView
    ahead: Ahead
    sitting: Sitting | None
    last_sitting: Sitting | None
    worth_minor: int
    questions: tuple[Asked, ...] = ()  # put to who sits here

    @property
    def done(self) -> dict[str, bool]:
        """Which of the five steps has nothing left to do."""
        return {
            "bring": self.has_accounts and not self.waiting and not self.stale_connections,
            "sort": self.has_accounts and not self.to_sort.entry_count,
            "check": self.has_accounts and not self.to_check,
            "place": self.has_accounts
            and self.budget.budget.unplaced_minor == 0
            and not any(row.over_minor for row in self.budget.budget.rows),
            "look": self.has_accounts and not self.ahead.late and self.ahead.lowest.balance_minor >= 0,
        }

    @property
    def next_step(self) -> str | None:
        """The first step with something to do, in the order of work."""
        return next((step for step in STEPS if not self.done[step]), None)


def today_view(db: sqlite3.Connection, by: By, month: Month) -> TodayView:
    """The five steps as they truly stand, in one consistent reading."""
    with reading(db):
        states = accounts.list_account_states(db)
        differing = count_differing(db)
        brought_before = batches.list_batches(db, "brought", 1)
        return TodayView(
            waiting=tuple(batches.list_batches(db, "waiting")),
            last_brought=brought_before[0] if brought_before else None,
            stale_connections=tuple(c for c in connections.list_connections(db) if is_stale(c, by.today)),
            has_accounts=bool(states),
            to_sort=what_to_sort(db, suggest_for=3),
            to_check=tuple(s for s in states if needs_check(s, by.today)),
            shares_differ=tuple(s.account for s in states if s.account.id in differing and s.account.closed_on is None),
            checkable=sum(s.account.everyday for s in states),
            checked_until=checked_until(db),
            budget=budget_view(db, by, month),
            ahead=look_ahead(db, by),
            sitting=household.find_open_sitting(db),
            last_sitting=household.find_last_sitting(db),
            worth_minor=worth_view(db, Month.of(by.today), 1).now.net_minor,
            questions=tuple(asking.list_open(db, by.member_id)) if by.member_id else (),
        )


def is_stale(connection: Connection, today: date) -> bool:
    """Whether a connection waits to be asked: broken, or not asked on this day yet."""
    return connection.state == "broken" or (connection.last_success or "")[:10] < today.isoformat()


def needs_check(state: AccountState, today: date) -> bool:
    """Whether an everyday account waits to be checked: it differs from the bank, or was not checked for five weeks."""
    if not state.account.everyday or not state.account.shown:
        return False
    if state.difference_minor:
        return True
    last = state.checked_until or state.account.opened_on
    return (today - last).days > CHECK_AFTER_DAYS


def look_ahead(db: sqlite3.Connection, by: By, days: int = 30) -> Ahead:
    """The dues of the coming days on everyday accounts, from the series that are kept, and the course of the everyday money."""
    until = by.today + timedelta(days=days)
    kept = [one for one in list_kept(db, by, until) if one.account.everyday]
    open_ones = [due for one in kept for due in one.dues if due.state in ("awaited", "late")]
    open_ones.sort(key=lambda due: (due.day, due.series.payee))
    # What is late did not come: it may come any day, so the curve counts it today.
    changes = [(max(due.day, by.today), due.expected_minor) for due in open_ones]
    dated = tuple((day, amount) for _, day, amount in repeating.list_dated_ahead(db, by.today, until))
    balance = repeating.sum_everyday_until(db, by.today)
    return Ahead(
        is_followed=bool(kept),
        dues=tuple(due for due in open_ones if due.state == "awaited"),
        late=tuple(due for due in open_ones if due.state == "late"),
        paydays=tuple((pay.id, series.payee, state.day) for pay, series, state in list_waiting(db, by)),
        curve=tuple(money_curve(balance, by.today, days, [*changes, *dated])),
        now_minor=balance,
        dated=dated,
        reminders=tuple(list_near(db, by.today)),
    )


def begin_sitting(db: sqlite3.Connection, by: By) -> int:
    """Begins a sitting, or goes on with the open one; gives its id. Values that waited are carried to their month ends; those
    that follow an index wait for its service."""
    with note(db):
        sitting = household.find_open_sitting(db)
        if sitting:
            return sitting.id
        carry_values(db, by)
        worth_minor = worth_view(db, Month.of(by.today), 1).now.net_minor
        return household.insert_sitting(db, by.at, by.today, by.member_id, worth_minor)


def leave_at(db: sqlite3.Connection, step: str) -> None:
    """Notes at which step the open sitting is, so that it can be resumed there."""
    sitting = household.find_open_sitting(db)
    if sitting and sitting.step != step:
        with note(db):
            household.change_sitting_step(db, sitting.id, step)


def finish_sitting(db: sqlite3.Connection, by: By) -> None:
    """Ends the open sitting, whatever is left to do."""
    sitting = household.find_open_sitting(db)
    if sitting:
        with note(db):
            household.finish_sitting(db, sitting.id, by.at)
