"""What is due: every kept series followed against what came, and the course of each everyday account's balance."""

import sqlite3
from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.ahead import Lane, money_curve
from bolsa.core.due.dues import Came, Due, Followed, Series, follow_all
from bolsa.core.due.rhythm import times_a_year
from bolsa.core.months import Month
from bolsa.services.clock import By
from bolsa.services.house.calendars import holidays_of
from bolsa.store.accounts import accounts, terms
from bolsa.store.connection import reading
from bolsa.store.due import repeating, series

WEEKS = 6
LOOKED_BACK = 70  # days: two months of dues that came, differed or are late
READ_BEYOND = timedelta(days=31)  # an entry may be dated after its due
READ_BEFORE = timedelta(days=100)  # lines are read from so far before the first due, to know the last amount
NEARLY_FIXED = 5  # per cent an amount may be off and still have a price
Lines = Mapping[tuple[int, int], list[Came]]
PRICES_SINCE = 366  # days of what is looked at for changed prices


@dataclass(frozen=True)
class Kept:
    """A kept series with its dues of late and to come, what a year of it comes to, and its entries that no due claims."""

    series: Series
    account: Account
    dues: tuple[Due, ...]
    unclaimed: tuple[Came, ...]
    yearly_minor: int

    @property
    def next(self) -> Due | None:
        """The due that is awaited next."""
        return next((due for due in self.dues if due.state == "awaited"), None)

    @property
    def last(self) -> Due | None:
        """The due that came last."""
        return next((due for due in reversed(self.dues) if due.came), None)


@dataclass(frozen=True)
class DuesView:
    """Everything the page of dues shows, from one consistent reading."""

    kept: tuple[Kept, ...]
    lanes: tuple[Lane, ...]
    today: date
    until: date

    @property
    def late(self) -> tuple[Due, ...]:
        return tuple(due for one in self.kept for due in one.dues if due.state == "late")

    @property
    def different(self) -> tuple[Due, ...]:
        """What came with another amount than expected in the last two months."""
        return tuple(due for one in self.kept for due in one.dues if due.state == "different")

    @property
    def coming(self) -> tuple[Due, ...]:
        """What is awaited from today on, in order."""
        awaited = (due for one in self.kept for due in one.dues if due.state == "awaited" and due.day >= self.today)
        return tuple(sorted(awaited, key=lambda due: (due.day, due.series.payee)))

    @property
    def unknown(self) -> tuple[Due, ...]:
        """What was due before today on accounts whose books do not reach so far: nobody knows yet whether it came."""
        return tuple(due for one in self.kept for due in one.dues if due.state == "awaited" and due.day < self.today)


def list_lines(db: sqlite3.Connection, by: By, kept: Sequence[Series], looked_back: int, until: date) -> Lines:
    """The lines that may be dues of some series from so many days back until a day, in order of day, by (payee, account)."""
    pairs = {(one.payee_id, one.account_id) for one in kept}
    first = by.today - timedelta(days=looked_back) - READ_BEFORE
    return series.list_came(db, pairs, first, until + READ_BEYOND)


def _any(_series: Series) -> bool:
    return True


def list_kept(
    db: sqlite3.Connection, by: By, until: date, looked_back: int = LOOKED_BACK, is_asked: Callable[[Series], bool] = _any, *,
    came: Lines | None = None,
) -> list[Kept]:  # fmt: skip
    """Every kept series that is asked for, with its dues from so many days back until a day, in one reading; `came` are the lines
    of the series, where they were read before (list_lines)."""
    with reading(db):
        everything, marks = series.list_series(db), series.list_marks(db)
        asked = {one.id for one in everything if is_asked(one)}
        shared = {(one.payee_id, one.account_id) for one in everything if one.id in asked}
        kept = [one for one in everything if (one.payee_id, one.account_id) in shared]  # an entry pays one due over all of these
        first = by.today - timedelta(days=looked_back)
        came = came if came is not None else list_lines(db, by, kept, looked_back, until)
        matched = series.list_matched(db, {one.id for one in kept})
        known = repeating.list_known_until(db)
        by_id = {account.id: account for account in accounts.list_accounts(db)}
        is_holiday = holidays_of(db)
    followed = [Followed(one, _lines_of(one, came, first, matched.get(one.id, [])), marks.get(one.id, ())) for one in kept]
    known_until = lambda account_id: known.get(account_id, by.today)  # noqa: E731
    found = []
    for one, dues in zip(followed, follow_all(followed, until, by.today, known_until, is_holiday, first=first), strict=True):
        own = one.series
        if own.id not in asked:
            continue
        claimed = {due.came.line_id for due in dues if due.came}
        begin = max(first, own.rhythm.start)
        unclaimed = tuple(line for line in one.came if line.line_id not in claimed and begin <= line.day <= by.today)
        yearly = round(own.amount_minor * times_a_year(own.rhythm))
        found.append(Kept(own, by_id[own.account_id], tuple(dues), unclaimed, yearly))
    return found


def _lines_of(one: Series, came: Lines, first: date, matched: Sequence[Came]) -> list[Came]:
    """What may have come for a series: its payee's lines, and those a person said are for it, whoever they were paid to."""
    lines = came.get((one.payee_id, one.account_id), [])
    lines = lines[bisect_left(lines, first - READ_BEFORE, key=lambda line: line.day) :]
    there = {line.line_id for line in lines}
    beside = [line for line in matched if line.line_id not in there]
    return sorted([*lines, *beside], key=lambda line: (line.day, line.line_id)) if beside else lines


def dues_view(db: sqlite3.Connection, by: By, days: int = 7 * WEEKS, came: Lines | None = None) -> DuesView:
    """What is due in the coming days, lane by lane."""
    until = by.today + timedelta(days=days)
    with reading(db):
        kept = list_kept(db, by, until, came=came)
        floors = {id_: own.floor_minor for id_, own in terms.list_terms(db).items()}
        everyday = [a for a in accounts.list_accounts(db) if a.everyday and a.closed_on is None]
        ahead = repeating.list_dated_ahead(db, by.today, until)
        balances = {account.id: accounts.sum_balance(db, account.id, by.today) for account in everyday}
    lanes = []
    for account in everyday:
        own = tuple(
            due for one in kept if one.account.id == account.id for due in one.dues
            if due.day >= by.today or due.state in ("late", "awaited")
        )  # fmt: skip
        dated = tuple((day, amount) for account_id, day, amount in ahead if account_id == account.id)
        changes = [(max(due.day, by.today), due.expected_minor) for due in own if due.state in ("awaited", "late")]
        curve = money_curve(balances[account.id], by.today, days, (*changes, *dated))
        lanes.append(Lane(account, balances[account.id], tuple(curve), own, dated, floors.get(account.id)))
    return DuesView(tuple(kept), tuple(lanes), by.today, until)


def dues_of_category(db: sqlite3.Connection, by: By, category_id: int, month: Month) -> list[Due]:
    """What is due in a month of series under a category, in order."""
    back = max(0, (by.today - month.first_day).days)
    kept = list_kept(db, by, month.last_day, back, lambda one: one.category_id == category_id)
    found = [due for one in kept for due in one.dues if month.first_day <= due.day <= month.last_day]
    return sorted(found, key=lambda due: (due.day, due.series.payee))


def sum_due(db: sqlite3.Connection, by: By, month: Month) -> dict[int, int]:
    """By category: what is still due of it in a month, awaited or late, in minor units above zero."""
    back = max(0, (by.today - month.first_day).days)
    found: dict[int, int] = {}
    for one in list_kept(db, by, month.last_day, back, lambda one: one.category_id is not None and one.amount_minor < 0):
        for due in one.dues:
            if month.first_day <= due.day <= month.last_day and due.state in ("awaited", "late") and one.series.category_id:
                found[one.series.category_id] = found.get(one.series.category_id, 0) - due.expected_minor
    return found


def get_kept(db: sqlite3.Connection, by: By, series_id: int, looked_back: int) -> Kept:
    """One series with its dues from so many days back to a year ahead. Raises: NotFound."""
    series.get_series(db, series_id)
    until = by.today + timedelta(days=PRICES_SINCE)
    (kept,) = list_kept(db, by, until, looked_back, lambda one: one.id == series_id)
    return kept


@dataclass(frozen=True)
class PriceChange:
    """A series whose amount changed within the year: what it was, what it is, since when, and what that comes to in a year."""

    series: Series
    before_minor: int
    now_minor: int
    since: date
    yearly_minor: int


def list_price_changes(db: sqlite3.Connection, by: By, came: Lines | None = None) -> list[PriceChange]:
    """Which fixed or nearly fixed series came with another amount than a year ago, the dearest first."""
    found = []
    for one in list_kept(db, by, by.today, PRICES_SINCE, lambda one: one.tolerance_percent <= NEARLY_FIXED, came=came):
        times = [due.came for due in one.dues if due.came]
        if len(times) < 2:
            continue
        before, now = times[0].amount_minor, times[-1].amount_minor
        if before != now:
            since = next(line.day for line in times if line.amount_minor == now)
            more = round((now - before) * times_a_year(one.series.rhythm))
            found.append(PriceChange(one.series, before, now, since, more))
    return sorted(found, key=lambda change: change.yearly_minor)


def dues_and_prices(db: sqlite3.Connection, by: By, days: int) -> tuple[DuesView, list[PriceChange]]:
    """What is due in the coming days and what changed its price within the year, from one reading of the lines."""
    with reading(db):
        came = list_lines(db, by, series.list_series(db), PRICES_SINCE, by.today + timedelta(days=days))
        return dues_view(db, by, days, came), list_price_changes(db, by, came)
