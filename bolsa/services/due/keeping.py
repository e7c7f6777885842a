"""Keeping series: proposals accepted or refused, series made by hand, changed, ended or forgotten; what is said of a due."""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from bolsa.core.due.dues import AMOUNT_KINDS, TOLERANCE_DAYS, Came, Mark, Series
from bolsa.core.due.rhythm import Rhythm, check_rhythm
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.due.finding import Proposal, list_proposals
from bolsa.services.house.calendars import holidays_of
from bolsa.store.accounts import accounts
from bolsa.store.due import series
from bolsa.store.ledger import entries, payees
from bolsa.store.pay.pay import find_pay_of_series
from bolsa.store.sorting import categories

MOST_TOLERANCE = 31
LOOKED_BACK = 800  # days in which something came last


@dataclass(frozen=True)
class TypedSeries:
    """A series as it is typed. The amount is from the account's side."""

    payee: str
    account_id: int
    rhythm: Rhythm
    amount_minor: int
    amount_kind: str = "fixed"
    category_id: int | None = None
    tolerance_days: int = TOLERANCE_DAYS
    tolerance_percent: int = 0


def accept(db: sqlite3.Connection, by: By, keys: Sequence[str]) -> Done:
    """Keeps proposals by their keys, all in one step. Raises: Conflict if one is no proposal any more; nothing is kept then."""
    with change(db, by) as done:
        chosen = _proposals(db, by, keys)
        for one in chosen:
            _become_one(db, one)
        done.made = [series.insert_series(db, _as_kept(one)) for one in chosen]
        done.sentence = f"Kept {len(chosen)} series" if len(chosen) != 1 else f"Kept {chosen[0].found.payee} as a series"
    return done


def _become_one(db: sqlite3.Connection, one: Proposal) -> None:
    """Makes one payee of the spellings a series was found under, named without the number behind it."""
    if not one.found.spellings:
        return
    for other_id in one.other_ids:
        payees.merge_payee(db, one.payee_id, other_id)
    named = payees.find_payee_named(db, one.found.payee)
    if named is not None and named != one.payee_id:
        payees.merge_payee(db, one.payee_id, named)
    payees.rename_payee(db, one.payee_id, one.found.payee)


def refuse(db: sqlite3.Connection, by: By, keys: Sequence[str]) -> Done:
    """Remembers that proposals are not wanted, so that they are not made again. Raises: Conflict."""
    with change(db, by) as done:
        chosen = _proposals(db, by, keys)
        for one in chosen:
            series.put_refused(db, one.payee_id, one.account.id)
        done.sentence = f"Refused {len(chosen)} proposals" if len(chosen) != 1 else f"Refused {chosen[0].found.payee} as a series"
    return done


def _proposals(db: sqlite3.Connection, by: By, keys: Sequence[str]) -> list[Proposal]:
    offered = {one.key: one for one in list_proposals(db, by.today)}
    if not keys:
        raise InvalidInput("Choose some of the proposals first.")
    if not offered.keys() >= set(keys):
        raise Conflict("One of these is no proposal any more. Look at the list as it is now.")
    return [offered[key] for key in dict.fromkeys(keys)]


def _as_kept(one: Proposal) -> Series:
    """A proposal as a series. Of one whose amount moved the last amount is expected, and as far off as it moved is well."""
    found = one.found
    kind = "last" if found.within_percent else "fixed"
    return Series(
        0, one.payee_id, found.payee, one.account.id, one.account.currency, found.rhythm, found.amount_minor, kind,
        one.category_id,
        tolerance_days=max(TOLERANCE_DAYS, 4 if found.spacing.months else 0), tolerance_percent=min(100, found.within_percent),
    )  # fmt: skip


def last_time(db: sqlite3.Connection, by: By, payee: str, account_id: int) -> Came | None:
    """The last time something of a payee came on an account, up to today; None if it never did."""
    payee_id = payees.find_payee_named(db, " ".join(payee.split()))
    if payee_id is None:
        return None
    pair = (payee_id, account_id)
    return next(reversed(series.list_came(db, [pair], by.today - timedelta(days=LOOKED_BACK), by.today).get(pair, [])), None)


def add_series(db: sqlite3.Connection, by: By, typed: TypedSeries) -> Done:
    """Keeps a series made by hand; makes its id. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        kept = _checked(db, typed)
        done.made = series.insert_series(db, kept)
        done.sentence = f"Kept {kept.payee} as a series"
    return done


def change_series(db: sqlite3.Connection, by: By, series_id: int, typed: TypedSeries, *, seen: int | None = None) -> Done:
    """Changes a series. Raises: InvalidInput; Conflict if it changed after the version seen."""
    with change(db, by) as done:
        before = series.get_series(db, series_id)
        require_version(db, "series", series_id, seen, typed.payee)
        kept = _checked(db, typed)
        if find_pay_of_series(db, series_id) is not None and (kept.account_id != before.account_id or kept.amount_minor <= 0):
            raise NotAllowed(f"{before.payee} is taken apart as pay: it stays on its account, and comes in.")
        series.change_series(db, replace(kept, id=series_id, ended_on=before.ended_on))
        done.sentence = f"Changed the series {before.payee}"
    return done


def _checked(db: sqlite3.Connection, typed: TypedSeries) -> Series:
    payee = " ".join(typed.payee.split())[:120]
    if not payee:
        raise InvalidInput("Say who it is paid to, or who pays.", field="payee")
    account = accounts.get_account(db, typed.account_id)
    if typed.amount_minor == 0:
        raise InvalidInput("Write how much comes or goes each time.", field="amount")
    if typed.amount_kind not in AMOUNT_KINDS:
        raise InvalidInput("The amount is fixed, or the last that came.", field="amount_kind")
    if not 0 <= typed.tolerance_days <= MOST_TOLERANCE or not 0 <= typed.tolerance_percent <= 100:
        raise InvalidInput("It may lie off by up to 31 days and 100 per cent.", field="tolerance")
    if typed.category_id is not None:
        categories.get_category(db, typed.category_id)
    payee_id = payees.put_payees(db, [payee])[payee.casefold()]
    return Series(
        0, payee_id, payee, account.id, account.currency, check_rhythm(typed.rhythm), typed.amount_minor, typed.amount_kind,
        typed.category_id, typed.tolerance_days, typed.tolerance_percent,
    )  # fmt: skip


def end_series(db: sqlite3.Connection, by: By, series_id: int, day: date | None) -> Done:
    """Says that a series ends on a day, or with None that it goes on."""
    with change(db, by) as done:
        kept = series.get_series(db, series_id)
        if day is not None and day < kept.rhythm.start:
            raise InvalidInput("It cannot end before it starts.", field="day")
        series.change_series(db, replace(kept, ended_on=day))
        done.sentence = f"{kept.payee} goes on" if day is None else f"{kept.payee} ends on {day}"
    return done


def forget_series(db: sqlite3.Connection, by: By, series_id: int) -> Done:
    """Forgets a series; its entries stay as they are."""
    with change(db, by) as done:
        kept = series.get_series(db, series_id)
        if find_pay_of_series(db, series_id) is not None:
            raise NotAllowed(f"{kept.payee} is taken apart as pay. Forget the pay first, or end the series.")
        series.remove_series(db, series_id)
        done.sentence = f"Forgot the series {kept.payee}"
    return done


def skip_due(db: sqlite3.Connection, by: By, series_id: int, day: date) -> Done:
    """Leaves out one due. Raises: InvalidInput if nothing is due then."""
    with change(db, by) as done:
        kept = _with_due(db, series_id, day)
        series.put_mark(db, series_id, Mark("skipped", day))
        done.sentence = f"Left out {kept.payee} of {day}"
    return done


def miss_due(db: sqlite3.Connection, by: By, series_id: int, day: date) -> Done:
    """Says that a due has not come, though its day has passed: it is late. Raises: InvalidInput if nothing is due then, or its
    day is still ahead."""
    with change(db, by) as done:
        kept = _with_due(db, series_id, day)
        if day >= by.today:
            raise InvalidInput(f"{kept.payee} is due on {day}, so it can still come.", field="day")
        series.put_mark(db, series_id, Mark("missed", day))
        done.sentence = f"Noted that {kept.payee} of {day} hasn’t come"
    return done


def await_due(db: sqlite3.Connection, by: By, series_id: int, day: date) -> Done:
    """Takes back what was said of a due."""
    with change(db, by) as done:
        kept = _with_due(db, series_id, day)
        series.remove_marks(db, series_id, day)
        done.sentence = f"{kept.payee} of {day} is awaited again"
    return done


def due_days(db: sqlite3.Connection, series_id: int, first: date, last: date) -> list[date]:
    """The days on which something of a series is due."""
    return list(series.get_series(db, series_id).rhythm.days(first, last, holidays_of(db)))


def match_due(db: sqlite3.Connection, by: By, series_id: int, day: date, line_id: int) -> Done:
    """Says that an entry is for a due. Raises: InvalidInput if it is not of the series' account and direction."""
    with change(db, by) as done:
        kept = _with_due(db, series_id, day)
        line = next(one for one in entries.get_entry_of_line(db, line_id).lines if one.id == line_id)
        if line.account_id != kept.account_id or (line.amount_minor > 0) != (kept.amount_minor > 0):
            raise InvalidInput("That entry is on another account, or goes the other way.")
        series.put_mark(db, series_id, Mark("matched", day, line_id))
        done.sentence = f"Matched {kept.payee} of {day}"
    return done


def keep_out(db: sqlite3.Connection, by: By, series_id: int, line_id: int) -> Done:
    """Says that an entry of the payee is no due of the series."""
    with change(db, by) as done:
        kept = series.get_series(db, series_id)
        entry = entries.get_entry_of_line(db, line_id)
        series.put_mark(db, series_id, Mark("out", entry.day, line_id))
        done.sentence = f"Kept an entry of {entry.day} out of {kept.payee}"
    return done


def _with_due(db: sqlite3.Connection, series_id: int, day: date) -> Series:
    kept = series.get_series(db, series_id)
    if day not in kept.rhythm.days(day, day, holidays_of(db)):
        raise InvalidInput(f"Nothing of {kept.payee} is due on {day}.", field="day")
    return kept
