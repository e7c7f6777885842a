"""Commands about the budget: budget, expect, place, fill."""

import argparse
from collections.abc import Iterator

from bolsa.cli.common import Commands, a_month, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.core.months import Month
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting
from bolsa.services.sorting import categories


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    budget = commands.add("budget", run_budget, as_json=True)
    budget.add_argument(
        "month", nargs="?", type=a_month, default=None, metavar="MONTH", help="such as 2026-05; this one otherwise"
    )
    expect = commands.add("expect", run_expect, as_json=True)
    expect.add_argument("category", metavar="CATEGORY")
    expect.add_argument("amount", metavar="AMOUNT")
    expect.add_argument("--from", dest="month", type=a_month, required=True, metavar="MONTH")
    place = commands.add("place", run_place, as_json=True)
    place.add_argument("category", metavar="CATEGORY")
    place.add_argument("amount", metavar="AMOUNT")
    place.add_argument("--month", type=a_month, default=None, metavar="MONTH")
    fill = commands.add("fill", run_fill, as_json=True)
    fill.add_argument("--month", type=a_month, default=None, metavar="MONTH")


def run_budget(options: argparse.Namespace) -> None:
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


def run_expect(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        amount = parse_amount(options.amount, accounts.home_currency(db))
        category = categories.resolve_category(db, options.category)
        say(options, budgeting.set_expected(db, by, category.id, options.month, amount))


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
