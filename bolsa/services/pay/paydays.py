"""A pay as it stands: its paydays, each with its payslip and the bank's deposit; the year so far; the ceilings it nears."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from bolsa.core.due.dues import Came, Series
from bolsa.core.pay.ceilings import Ceiling
from bolsa.core.pay.payday import Pay, Payday, YearSoFar, start_of, year_so_far
from bolsa.core.pay.payslip import EMPLOYER, Explanation, PayLine, Payslip, explain, reckon
from bolsa.services.clock import By
from bolsa.services.due import dues
from bolsa.services.house.calendars import holidays_of
from bolsa.store.accounts import accounts, terms
from bolsa.store.connection import reading
from bolsa.store.due import series as kept_series
from bolsa.store.ledger import entries
from bolsa.store.pay import pay as pays

LOOKED_AHEAD = 1  # paydays awaited that are shown


@dataclass(frozen=True)
class PaydayState:
    """One payday: "confirmed", "came" (the deposit is there), "late", "skipped" or "awaited"; its deposit, if it is here."""

    day: date
    state: str
    deposit: Came | None = None
    payday: Payday | None = None


@dataclass(frozen=True)
class PayView:
    """A pay and one of its paydays, from one consistent reading. `difference_minor` is what the bank brought more than the
    payslip says."""

    pay: Pay
    series: Series
    days: tuple[PaydayState, ...]
    chosen: PaydayState
    slip: Payslip
    usual: Payslip
    explanations: tuple[Explanation, ...]
    year: tuple[YearSoFar, ...]
    ceilings: tuple[Ceiling, ...]

    @property
    def difference_minor(self) -> int:
        return self.chosen.deposit.amount_minor - self.slip.net_minor if self.chosen.deposit else 0

    @property
    def of_year(self) -> Payslip:
        """The year so far, as a payslip of its own."""
        return Payslip(tuple((one.line, one.total_minor) for one in self.year))


def list_pays(db: sqlite3.Connection) -> list[tuple[Pay, Series]]:
    """Every pay with the series it takes apart."""
    with reading(db):
        return [(pay, kept_series.get_series(db, pay.series_id)) for pay in pays.list_pays(db)]


def list_without_pay(db: sqlite3.Connection) -> list[Series]:
    """The kept series that come in and are not taken apart yet."""
    with reading(db):
        taken = {pay.series_id for pay in pays.list_pays(db)}
        return [one for one in kept_series.list_series(db) if one.amount_minor > 0 and one.id not in taken]


def get_pay(db: sqlite3.Connection, pay_id: int) -> Pay:
    """A pay with its lines. Raises: NotFound."""
    return pays.get_pay(db, pay_id)


def currency_of(db: sqlite3.Connection, pay: Pay) -> str:
    """The currency a pay comes in."""
    return kept_series.get_series(db, pay.series_id).currency


def find_payday_of_entry(db: sqlite3.Connection, entry_id: int) -> tuple[int, date] | None:
    """The pay and the day an entry confirms, if it does."""
    return pays.find_payday_of_entry(db, entry_id)


def find_pay_of_series(db: sqlite3.Connection, series_id: int) -> int | None:
    """The pay that takes a series apart, if one does."""
    return pays.find_pay_of_series(db, series_id)


def list_days(db: sqlite3.Connection, by: By, pay: Pay) -> list[PaydayState]:
    """The paydays from the first that is kept to the next awaited, in order."""
    with reading(db):
        kept = dues.get_kept(db, by, pay.series_id, max(0, (by.today - pay.kept_from).days) + 7)
        confirmed = {payday.day: payday for payday in pays.list_paydays(db, pay.id)}
        taken = {payday.entry_id: payday.day for payday in confirmed.values()}
        found = {
            day: PaydayState(day, "confirmed", _deposit_of(db, payday, kept.series), payday) for day, payday in confirmed.items()
        }
    ahead = 0
    for due in kept.dues:
        if due.came and taken.get(due.came.entry_id, due.day) != due.day:
            continue  # its deposit confirms another day: the rhythm was changed since
        if (
            due.day < pay.kept_from
            or due.day in found
            or (due.state == "awaited" and due.day > by.today and ahead >= LOOKED_AHEAD)
        ):
            continue
        found[due.day] = PaydayState(due.day, "came" if due.came else due.state, due.came)
        ahead += due.day > by.today
    return [found[day] for day in sorted(found)]


def _deposit_of(db: sqlite3.Connection, payday: Payday, series: Series) -> Came:
    """The line of a confirmed payday's entry that came on the series' account."""
    entry = entries.get_entry(db, payday.entry_id)
    told = {one.line_id for one in payday.told}
    line = next(one for one in entry.account_lines if one.account_id == series.account_id and one.id not in told)
    return Came(line.stored_id, entry.id, line.day or entry.day, line.amount_minor)


def choose_day(days: list[PaydayState], day: date | None = None) -> PaydayState | None:
    """The payday that is asked for; else the first whose deposit waits to be confirmed, else the next, else the last."""
    if day is not None:
        return next((one for one in days if one.day == day), None)
    waiting = [one for one in days if one.state == "came"] or [one for one in days if one.state in ("late", "awaited")]
    return waiting[0] if waiting else days[-1] if days else None


def pay_view(
    db: sqlite3.Connection, by: By, pay: Pay, chosen: PaydayState, given: Mapping[int, int], extra: tuple[PayLine, ...] = ()
) -> PayView:
    """A pay and one of its paydays: as it was confirmed, or as it is usual, with the amounts that are given instead."""
    with reading(db):
        series = kept_series.get_series(db, pay.series_id)
        days = list_days(db, by, pay)
        paydays = pays.list_paydays(db, pay.id)
        told = chosen.payday.by_line if chosen.payday else {}
        shown = (*(line for line in pay.lines if line.is_usual or told.get(line.id) or given.get(line.id)), *extra)
        stands = {line.id: told.get(line.id, 0) for line in shown} if chosen.payday else {}
        slip = reckon(shown, stands | dict(given))
        usual = reckon(shown)
        deposit = chosen.deposit.amount_minor if chosen.deposit else slip.net_minor
        earlier = [(payday.day, payday.by_line) for payday in paydays if payday.day < chosen.day]
        until = max(by.today, chosen.day)
        found = list_ceilings(db, by, until.year, {line.account_id for line in pay.lines if line.account_id is not None})
    return PayView(
        pay, series, tuple(days), chosen, slip, usual, tuple(explain(slip, deposit - slip.net_minor, earlier)),
        tuple(year_so_far(pay, paydays, until)), tuple(found),
    )  # fmt: skip


def list_ceilings(db: sqlite3.Connection, by: By, year: int, account_ids: set[int]) -> list[Ceiling]:
    """The yearly ceiling of each of these accounts that has one, with what the paydays left of the year will bring."""
    with reading(db):
        limits = {id_: own.ceiling_minor for id_, own in terms.list_terms(db).items() if own.ceiling_minor and id_ in account_ids}
        if not limits:
            return []
        taken_apart = [(pay, _days_left(db, pay, year)) for pay in pays.list_pays(db)]
        return [_ceiling(db, account_id, year, limit, taken_apart) for account_id, limit in limits.items()]


def _days_left(db: sqlite3.Connection, pay: Pay, year: int) -> list[date]:
    """The paydays of a year that are not confirmed and not left out, from the first that is kept on."""
    series = kept_series.get_series(db, pay.series_id)
    told = {payday.day for payday in pays.list_paydays(db, pay.id)}
    told |= {mark.day for mark in kept_series.list_marks(db).get(series.id, []) if mark.kind == "skipped"}
    last = min(date(year, 12, 31), series.ended_on or date.max)
    first = max(pay.kept_from, date(year, 1, 1))
    days = series.rhythm.days(first, last, holidays_of(db))
    # A day that was confirmed before the rhythm moved stands for the one near it.
    moved = [day for day in told if day not in days]
    near = series.tolerance_days
    return [day for day in days if day not in told and not any(abs((day - other).days) <= near for other in moved)]


def _ceiling(
    db: sqlite3.Connection, account_id: int, year: int, limit: int, taken_apart: list[tuple[Pay, list[date]]]
) -> Ceiling:
    sums = {"own": 0, "employer": 0, "other": 0}
    for one in pays.list_contributions(db, account_id, year):
        sums[one.by_whom] += one.amount_minor
    to_come: dict[date, list[int]] = {}
    for pay, days in taken_apart:
        usual = reckon(pay.lines)
        for line, amount in usual.items:
            if line.account_id != account_id:
                continue
            place = 1 if line.kind == EMPLOYER else 0
            sums["employer" if place else "own"] += start_of(pay, line, year)
            for day in days:
                to_come.setdefault(day, [0, 0])[place] += amount
    ahead = tuple((day, *to_come[day]) for day in sorted(to_come))
    name = accounts.get_account(db, account_id).name
    return Ceiling(account_id, name, year, limit, sums["own"], sums["employer"], sums["other"], ahead)  # type: ignore[arg-type]


def ceiling_of(db: sqlite3.Connection, by: By, account_id: int) -> Ceiling | None:
    """An account's ceiling in the present year, None if it has none."""
    return next(iter(list_ceilings(db, by, by.today.year, {account_id})), None)


def list_waiting(db: sqlite3.Connection, by: By) -> list[tuple[Pay, Series, PaydayState]]:
    """The paydays whose deposit came and that wait to be confirmed, in order of day."""
    found = [
        (pay, series, state)
        for pay, series in list_pays(db)
        for state in list_days(db, by, pay)
        if state.state == "came" and state.day > by.today - timedelta(days=370)
    ]
    return sorted(found, key=lambda one: one[2].day)
