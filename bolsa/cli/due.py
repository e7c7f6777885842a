"""Commands about what comes again: series, dates, due, forecast, calendar."""

import argparse
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

from bolsa.cli.common import Commands, a_day, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.due.dues import Due, Series
from bolsa.core.due.rhythm import SHORT_MONTHS, WEEKENDS, Rhythm, check_rhythm, in_words
from bolsa.core.money import decimal_text
from bolsa.services.accounts import accounts
from bolsa.services.due import calendars, dues, finding, keeping
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house.calendars import check_country, holidays_in, holidays_of
from bolsa.services.sorting import categories


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    series = commands.add("series", run_series, as_json=True)
    actions = Commands(series.add_subparsers(dest="action", metavar="ACTION"), {})
    find = actions.add("find", run_find, "Print what seems to come again.", as_json=True)
    find.add_argument("--keep", action="store_true", help="keep all of it as series")
    add = actions.add("add", run_add, "Keep something as coming again.", as_json=True)
    add.add_argument("payee", metavar="PAYEE")
    add.add_argument("amount", metavar="AMOUNT", help="from the account's side: less than 0 goes out")
    add.add_argument("--account", required=True, metavar="ACCOUNT")
    add.add_argument("--category", default=None, metavar="CATEGORY")
    _rhythm_options(add)
    dates = commands.add("dates", run_dates, as_json=True)
    _rhythm_options(dates)
    dates.add_argument("--from", dest="first", type=a_day, required=True, metavar="DAY")
    dates.add_argument("--to", dest="last", type=a_day, required=True, metavar="DAY")
    dates.add_argument(
        "--country", default="", metavar="C", help="whose holidays: two letters, or none; the household's otherwise"
    )
    for name, run, days in (("due", run_due, 42), ("forecast", run_forecast, 42)):
        one = commands.add(name, run, as_json=True)
        one.add_argument("--days", type=int, default=days, metavar="N", help=f"how far ahead; {days} otherwise")
    calendar = commands.add("calendar", run_calendar)
    calendar.add_argument("file", type=Path, metavar="FILE")


def _rhythm_options(one: argparse.ArgumentParser) -> None:
    one.add_argument("--rrule", required=True, metavar="RRULE", help="RFC 5545, such as FREQ=MONTHLY;BYMONTHDAY=31")
    one.add_argument("--start", type=a_day, required=True, metavar="DAY")
    one.add_argument("--short", choices=SHORT_MONTHS, default="last", help="in a month without that day: its last, or none")
    one.add_argument("--weekend", choices=WEEKENDS, default="stay", help="off weekends and holidays: where to")


def _rhythm(options: argparse.Namespace) -> Rhythm:
    return check_rhythm(Rhythm(options.rrule, options.start, options.short, options.weekend))


def run_series(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        kept = dues.list_kept(db, by, by.today + timedelta(days=366))
    rows = [
        _series_row(one.series) | {"account": one.account.name, "next": str(one.next.day) if one.next else None} for one in kept
    ]
    show(options, rows, (f"{r['payee']:<28}{r['amount']:>12} {r['currency']}  {r['rhythm']}" for r in rows))


def _series_row(one: Series) -> dict[str, object]:
    rhythm = one.rhythm
    return {
        "id": one.id, "payee": one.payee, "amount": decimal_text(one.amount_minor, one.currency), "currency": one.currency,
        "rrule": rhythm.rrule, "start": str(rhythm.start), "short": rhythm.short_month, "weekend": rhythm.weekend,
        "rhythm": in_words(rhythm), "ended_on": str(one.ended_on) if one.ended_on else None,
    }  # fmt: skip


def run_find(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        found = finding.list_proposals(db, by.today)
        if options.keep and found:
            keeping.accept(db, by, [one.key for one in found])
    rows = [
        {
            "payee": one.found.payee, "account": one.account.name,
            "amount": decimal_text(one.found.amount_minor, one.account.currency), "currency": one.account.currency,
            "rrule": one.found.rhythm.rrule, "start": str(one.found.rhythm.start),
            "rhythm": in_words(one.found.rhythm), "times": one.found.times, "last": str(one.found.last_day),
        }
        for one in found
    ]  # fmt: skip
    show(options, rows, (f"{r['payee']:<28}{r['amount']:>12} {r['currency']}  {r['rhythm']}" for r in rows))


def run_add(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.account)
        category = categories.resolve_category(db, options.category) if options.category else None
        amount = parse_amount(options.amount, account.currency)
        typed = TypedSeries(options.payee, account.id, _rhythm(options), amount, category_id=category.id if category else None)
        done = keeping.add_series(db, by, typed)
    say(options, done, series=done.made)


def run_dates(options: argparse.Namespace) -> None:
    if options.country:
        is_holiday = holidays_in(check_country(options.country))
    else:
        with household(options) as (db, _):
            is_holiday = holidays_of(db)
    days = [str(day) for day in _rhythm(options).days(options.first, options.last, is_holiday)]
    show(options, days, iter(days))


def run_due(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        view = dues.dues_view(db, by, options.days)
    names = {one.series.id: one.account.name for one in view.kept}
    listed = sorted((due for one in view.kept for due in one.dues), key=lambda due: (due.day, due.series.payee))
    rows = [_due_row(due, names) for due in listed]
    show(options, rows, (f"{r['day']}  {r['payee']:<28}{r['expected']:>12} {r['currency']}  {r['state']}" for r in rows))


def _due_row(due: Due, names: dict[int, str]) -> dict[str, object]:
    currency = due.series.currency
    return {
        "series": due.series.id, "payee": due.series.payee, "account": names[due.series.id], "day": str(due.day),
        "expected": decimal_text(due.expected_minor, currency), "currency": currency, "state": due.state,
        "came": decimal_text(due.came.amount_minor, currency) if due.came else None,
        "came_on": str(due.came.day) if due.came else None, "late_days": due.late_days,
        "percent": due.differs_percent if due.state == "different" else 0,
    }  # fmt: skip


def run_forecast(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        view = dues.dues_view(db, by, options.days)
    rows = [
        {
            "account": lane.account.name, "currency": lane.account.currency,
            "lowest": decimal_text(lane.lowest.balance_minor, lane.account.currency), "lowest_on": str(lane.lowest.day),
            "floor": decimal_text(lane.floor_minor, lane.account.currency) if lane.floor_minor is not None else None,
            "below_floor_on": str(lane.crossing.day) if lane.crossing else None,
            "balances": {str(p.day): decimal_text(p.balance_minor, lane.account.currency) for p in lane.curve},
        }
        for lane in view.lanes
    ]  # fmt: skip

    def lines() -> Iterator[str]:
        for row in rows:
            below = f", below its floor on {row['below_floor_on']}" if row["below_floor_on"] else ""
            yield f"{row['account']:<28}lowest {row['lowest']} {row['currency']} on {row['lowest_on']}{below}"

    show(options, rows, lines())


def run_calendar(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        calendars.save_calendar(db, by, options.file)
    print(f"Wrote the dues of a year to {options.file}")
