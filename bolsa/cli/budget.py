"""Commands about the budget: budget, expect, baseline, aim, place, fill, shift, close-month."""

import argparse
import json
import sqlite3
from collections.abc import Iterable, Iterator
from typing import Any

from bolsa.cli.common import Commands, a_day, a_month, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.budget.aims import KINDS, Aim
from bolsa.core.budget.baseline import USUAL_MONTHS
from bolsa.core.budget.month import ONCE
from bolsa.core.money import decimal_text
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.budget import aims, budgeting, closing, expecting, placing, shifting, year
from bolsa.services.clock import By
from bolsa.services.sorting import categories

FIGURES = ("expected", "carried", "need", "placed", "spent", "left")


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    budget = commands.add("budget", run_budget, as_json=True)
    budget.add_argument(
        "month", nargs="?", type=a_month, default=None, metavar="MONTH", help="such as 2026-05; this one otherwise"
    )
    budget.add_argument("--year", type=a_month, default=None, metavar="MONTH", help="twelve months from this one instead")
    expect = commands.add("expect", run_expect, as_json=True)
    _category_and_amount(expect)
    expect.add_argument("--from", dest="month", type=a_month, required=True, metavar="MONTH")
    rhythm = expect.add_mutually_exclusive_group()
    rhythm.add_argument("--every", type=int, default=1, metavar="N", help="it comes every so many months")
    rhythm.add_argument("--once", dest="every", action="store_const", const=ONCE, help="in that month alone")
    baseline = commands.add("baseline", run_baseline, as_json=True)
    baseline.add_argument("category", nargs="*", metavar="CATEGORY", help="all otherwise")
    baseline.add_argument("--months", type=int, default=USUAL_MONTHS, metavar="N", help="how many full months")
    ways = baseline.add_mutually_exclusive_group()
    for way in ("mean", "median", "last"):
        ways.add_argument(f"--{way}", dest="way", action="store_const", const=way, default="mean")
    baseline.add_argument("--from", dest="since", type=a_month, default=None, metavar="MONTH", help="this one otherwise")
    baseline.add_argument("--dry-run", action="store_true", help="show it, and change nothing")
    _enter_aim(commands.add("aim", run_aim, as_json=True))
    place = commands.add("place", run_place, as_json=True)
    _category_and_amount(place)
    fill = commands.add("fill", run_fill, as_json=True)
    fill.add_argument("category", nargs="*", metavar="CATEGORY", help="all otherwise")
    fill.add_argument(
        "--way", choices=tuple(placing.WAYS), default="needs", help="; ".join(f"{k}: {w}" for k, w in placing.WAYS.items())
    )
    fill.add_argument(
        "--months", type=int, default=USUAL_MONTHS, metavar="N", help="of how many full months the usual is the mean"
    )
    shift = commands.add("shift", run_shift, as_json=True)
    for name in ("from", "to", "amount"):
        shift.add_argument(f"{name}_" if name == "from" else name, metavar=name.upper())
    shift.add_argument("--reason", default="")
    for one in (place, fill, shift):
        one.add_argument("--month", type=a_month, default=None, metavar="MONTH")
    commands.add("close-month", run_close_month, as_json=True).add_argument("month", type=a_month, metavar="MONTH")


def _category_and_amount(one: argparse.ArgumentParser) -> None:
    one.add_argument("category", metavar="CATEGORY")
    one.add_argument("amount", metavar="AMOUNT")


def _enter_aim(aim: argparse.ArgumentParser) -> None:
    aim.add_argument("category", metavar="CATEGORY")
    aim.add_argument("kind", choices=KINDS)
    aim.add_argument("amount", nargs="?", default=None, metavar="AMOUNT")
    aim.add_argument("--by", type=a_day, default=None, metavar="DAY", help="of a build: when it is to be there")
    aim.add_argument("--each", default=None, metavar="AMOUNT", help="of a build: so much a month until it is there")
    aim.add_argument("--repeat", type=int, default=0, metavar="N", help="again after so many months")
    aim.add_argument("--on", action="append", default=[], metavar="ACCOUNT", help="an account it lies in; may be said again")


def run_budget(options: argparse.Namespace) -> None:
    if options.year:
        _show_year(options)
        return
    with household(options) as (db, by):
        value = _month(db, by, options.month or Month.of(by.today))

    def lines() -> Iterator[str]:
        yield f"{value['month']}: {value['balance']} {value['currency']} in everyday accounts, {value['unplaced']} unplaced"
        yield f"{'':<28}" + "".join(f"{name:>12}" for name in FIGURES[2:])
        for row in value["rows"]:
            yield f"{row['category']:<28}" + "".join(f"{row[name]:>12}" for name in FIGURES[2:])

    show(options, value, lines())


def _month(db: sqlite3.Connection, by: By, month: Month) -> dict[str, Any]:
    """A month as JSON: its sums, what was expected and came in and out, and a row a category."""
    home, view = accounts.home_currency(db), budgeting.budget_view(db, by, month)
    b, flow = view.budget, view.flow
    sums = {
        "balance": b.balance_minor, "lefts": b.lefts_minor, "placed_later": b.placed_later_minor, "unplaced": b.unplaced_minor,
        "still_needed": b.still_needs_minor, "expected_in": flow.expected_in_minor, "expected_out": flow.expected_out_minor,
        "actual_in": flow.actual_in_minor, "actual_out": flow.actual_out_minor, "set_by": flow.set_by_minor,
        "left_over": flow.actual_left_minor if month < Month.of(by.today) else flow.expected_left_minor,
    }  # fmt: skip
    rows = []
    for group in view.groups:
        for category, row in group.rows:
            aim = view.plan(category.id).aim
            rows.append({
                "category": category.name, "group": category.group, "aim": aim.kind,
                "aim_amount": decimal_text(aim.amount_minor, home) if aim.kind in ("build", "keep", "steady") else None,
                "aim_by": str(aim.by) if aim.by else None,
                **{name: decimal_text(getattr(row, f"{name}_minor"), home) for name in FIGURES},
            })  # fmt: skip
    closed = closing.find_closed(db, month)
    return {
        "month": str(b.month), "currency": home, **{name: decimal_text(amount, home) for name, amount in sums.items()},
        "covered_until": str(b.covered_until) if b.covered_until else None, "days_lasting": view.days_lasting,
        "closed_on": closed.closed_on.isoformat() if closed else None, "rows": rows,
        "without_plan": [{"category": o.name, "spent": decimal_text(o.amount_minor, home)} for o in view.outside],
    }  # fmt: skip


def _show_year(options: argparse.Namespace) -> None:
    """Prints twelve months of every category; lists hold a value a month, `actual` null in months ahead."""
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        view = year.year_view(db, by, options.year)
        months = [_month(db, by, month) for month in view.year.months] if options.json else []

    def texts(amounts: Iterable[int]) -> list[str]:
        return [decimal_text(amount, home) for amount in amounts]

    whole = view.year
    rows = [
        {
            "category": category.name, "group": group.name, "type": category.type,
            "expected": texts(cell.expected_minor for cell in row.cells),
            "put_by": texts(cell.aimed_minor for cell in row.cells),
            "actual": [None if cell.actual_minor is None else decimal_text(cell.actual_minor, home) for cell in row.cells],
            "hand_set": [str(cell.month) for cell in row.cells if cell.is_hand_set], "goes": decimal_text(row.goes_minor, home),
            "usual": decimal_text(row.usual_minor, home) if row.usual_minor else None,
        }
        for group in view.groups
        for category, row in group.rows
    ]  # fmt: skip
    names = [str(month) for month in whole.months]
    sums = {"in": whole.came_in, "out": whole.went_out, "left_over": whole.left_over, "added_up": whole.added_up}
    for at, one in enumerate(months):
        one["left_over"] = decimal_text(whole.left_over[at], home)
    value = {
        "currency": home, "months": months, "rows": rows, "without_plan": texts(whole.outside),
        **{name: texts(amounts) for name, amounts in sums.items()}, "dips": [names[i] for i in whole.dips],
        "more_often": [{"payee": one.payee, "times": one.times, "months": [str(m) for m in one.months]} for one in view.extras],
    }  # fmt: skip

    def lines() -> Iterator[str]:
        yield f"{'':<24}" + "".join(f"{month:>10}" for month in names)
        for row in rows:
            yield f"{row['category']:<24}" + "".join(f"{text:>10}" for text in row["expected"] or ())
        for name, amounts in sums.items():
            yield f"{name.replace('_', ' '):<24}" + "".join(f"{text:>10}" for text in texts(amounts))

    show(options, value, lines())


def run_expect(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        category = categories.resolve_category(db, options.category)
        say(options, expecting.set_expected(db, by, category.id, options.month, amount, every=options.every))


def run_baseline(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        ids = [categories.resolve_category(db, name).id for name in options.category]
        since = options.since or Month.of(by.today)
        asked = (db, by, options.way, options.months, since, ids)
        done = None if options.dry_run else expecting.take_baseline(*asked)
        found = done.made if done else expecting.baseline_view(*asked)
    rows = [
        {
            "category": c.name, "group": c.group, "type": c.type, "present": decimal_text(row.present_minor, home),
            "amount": decimal_text(row.amount_minor, home),
        }
        for c, row in found.rows
    ]  # fmt: skip
    value = {
        "step": done.step_id if done else None, "sentence": done.sentence if done else "", "from": str(since),
        "way": options.way, "currency": home, "months": [str(month) for month in found.months], "rows": rows,
    }  # fmt: skip

    def lines() -> Iterator[str]:
        yield f"From {since}, by {options.way} of {len(found.months)} full months" + ("; nothing is changed" if not done else "")
        for row in rows:
            yield f"{row['category']:<28}{row['present']:>12}{row['amount']:>12}"

    show(options, value, lines())


def run_aim(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        home, category = accounts.home_currency(db), categories.resolve_category(db, options.category)
        needs_amount = options.kind in ("build", "keep", "steady")
        if needs_amount == (options.amount is None):
            raise InvalidInput(f"The aim {options.kind} takes {'an' if needs_amount else 'no'} amount.", field="amount")
        amount = parse_amount(options.amount, home) if options.amount else 0
        each = parse_amount(options.each, home) if options.each else None
        aim = Aim(options.kind, amount, each_minor=each, repeat=options.repeat)
        on = [accounts.resolve_account(db, name).id for name in options.on]
        done = aims.set_aim(db, by, category.id, aim, options.by, on)
        row = budgeting.budget_view(db, by, Month.of(by.today)).budget.row_of(category.id)
        say(options, done, need=decimal_text(row.need_minor, home))


def run_place(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        category = categories.resolve_category(db, options.category)
        say(options, placing.place(db, by, category.id, options.month or Month.of(by.today), amount))


def run_fill(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        ids = [categories.resolve_category(db, name).id for name in options.category]
        done = placing.fill(db, by, options.month or Month.of(by.today), ids, options.way, options.months)
    filling = done.made
    sums = {"needed": filling.needed_minor, "placed": filling.placed_minor, "remains": filling.remains_minor}
    say(options, done, **{name: decimal_text(amount, home) for name, amount in sums.items()})


def run_shift(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        source, target = (categories.resolve_category(db, name) for name in (options.from_, options.to))
        month = options.month or Month.of(by.today)
        say(options, shifting.shift(db, by, month, source.id, target.id, amount, options.reason))


def run_close_month(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = closing.close_month(db, by, options.month)
    points = [
        {"point": one.words, "done": one.is_done, "open": one.open_words if not one.is_done else ""} for one in done.made.points
    ]
    if options.json:
        print(json.dumps({"step": done.step_id, "sentence": done.sentence, "checklist": points}, ensure_ascii=False))
        return
    say(options, done)
    for one in points:
        print(f"  {'done' if one['done'] else 'open'}  {one['point']}{': ' + str(one['open']) if one['open'] else ''}")
