"""Commands about the budget: budget, expect, place, fill."""

import argparse
from collections.abc import Iterable, Iterator

from bolsa.cli.common import Commands, a_month, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.budget.month import ONCE
from bolsa.core.money import decimal_text
from bolsa.core.months import Month
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting, year
from bolsa.services.sorting import categories


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    budget = commands.add("budget", run_budget, as_json=True)
    budget.add_argument(
        "month", nargs="?", type=a_month, default=None, metavar="MONTH", help="such as 2026-05; this one otherwise"
    )
    budget.add_argument("--year", type=a_month, default=None, metavar="MONTH", help="twelve months from this one instead")
    expect = commands.add("expect", run_expect, as_json=True)
    expect.add_argument("category", metavar="CATEGORY")
    expect.add_argument("amount", metavar="AMOUNT")
    expect.add_argument("--from", dest="month", type=a_month, required=True, metavar="MONTH")
    rhythm = expect.add_mutually_exclusive_group()
    rhythm.add_argument("--every", type=int, default=1, metavar="N", help="it comes every so many months")
    rhythm.add_argument("--once", dest="every", action="store_const", const=ONCE, help="in that month alone")
    place = commands.add("place", run_place, as_json=True)
    place.add_argument("category", metavar="CATEGORY")
    place.add_argument("amount", metavar="AMOUNT")
    place.add_argument("--month", type=a_month, default=None, metavar="MONTH")
    fill = commands.add("fill", run_fill, as_json=True)
    fill.add_argument("--month", type=a_month, default=None, metavar="MONTH")


def run_budget(options: argparse.Namespace) -> None:
    if options.year:
        _show_year(options)
        return
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        view = budgeting.budget_view(db, by, options.month or Month.of(by.today))

    def text(amount_minor: int) -> str:
        return decimal_text(amount_minor, home)

    figures = ("expected", "carried", "need", "placed", "spent", "left")
    rows = [
        {"category": category.name, "group": category.group, **{f: text(getattr(row, f"{f}_minor")) for f in figures}}
        for group in view.groups
        for category, row in group.rows
    ]
    b = view.budget
    sums = {
        "balance": b.balance_minor, "lefts": b.lefts_minor, "placed_later": b.placed_later_minor, "unplaced": b.unplaced_minor,
        "still_needed": b.still_needs_minor,
    }  # fmt: skip
    outside = [{"category": o.name, "spent": text(o.amount_minor)} for o in view.outside]
    value = {
        "month": str(b.month),
        "currency": home,
        **{n: text(a) for n, a in sums.items()},
        "rows": rows,
        "without_plan": outside,
    }

    def lines() -> Iterator[str]:
        yield f"{b.month}: {text(b.balance_minor)} {home} in everyday accounts, {text(b.unplaced_minor)} unplaced"
        yield f"{'':<28}" + "".join(f"{name:>12}" for name in ("need", "placed", "spent", "left"))
        for row in rows:
            yield f"{row['category']:<28}" + "".join(f"{row[name]:>12}" for name in ("need", "placed", "spent", "left"))

    show(options, value, lines())


def _show_year(options: argparse.Namespace) -> None:
    """Prints twelve months of every category; lists hold a value a month, `actual` null in months ahead."""
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        view = year.year_view(db, by, options.year)

    def texts(amounts: Iterable[int]) -> list[str]:
        return [decimal_text(amount, home) for amount in amounts]

    whole = view.year
    rows = [
        {
            "category": category.name, "group": group.name, "type": category.type,
            "expected": texts(cell.expected_minor for cell in row.cells),
            "actual": [None if cell.actual_minor is None else decimal_text(cell.actual_minor, home) for cell in row.cells],
            "hand_set": [str(cell.month) for cell in row.cells if cell.is_hand_set], "goes": decimal_text(row.goes_minor, home),
            "usual": decimal_text(row.usual_minor, home) if row.usual_minor else None,
        }
        for group in view.groups
        for category, row in group.rows
    ]  # fmt: skip
    months = [str(month) for month in whole.months]
    sums = {"in": whole.came_in, "out": whole.went_out, "left_over": whole.left_over, "added_up": whole.added_up}
    value = {
        "currency": home, "months": months, "rows": rows, "without_plan": texts(whole.outside),
        **{name: texts(amounts) for name, amounts in sums.items()}, "dips": [months[i] for i in whole.dips],
        "more_often": [{"payee": one.payee, "times": one.times, "months": [str(m) for m in one.months]} for one in view.extras],
    }  # fmt: skip

    def lines() -> Iterator[str]:
        yield f"{'':<24}" + "".join(f"{month:>10}" for month in months)
        for row in rows:
            yield f"{row['category']:<24}" + "".join(f"{text:>10}" for text in row["expected"] or ())
        for name, amounts in sums.items():
            yield f"{name.replace('_', ' '):<24}" + "".join(f"{text:>10}" for text in texts(amounts))

    show(options, value, lines())


def run_expect(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        category = categories.resolve_category(db, options.category)
        say(options, budgeting.set_expected(db, by, category.id, options.month, amount, every=options.every))


def run_place(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        category = categories.resolve_category(db, options.category)
        say(options, budgeting.place(db, by, category.id, options.month or Month.of(by.today), amount))


def run_fill(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        home = accounts.home_currency(db)
        done = budgeting.fill(db, by, options.month or Month.of(by.today), [])
    filling = done.made
    sums = {"needed": filling.needed_minor, "placed": filling.placed_minor, "remains": filling.remains_minor}
    say(options, done, **{name: decimal_text(amount, home) for name, amount in sums.items()})
