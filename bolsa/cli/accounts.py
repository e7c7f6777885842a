"""Commands about accounts: account, balances, worth."""

import argparse
from collections.abc import Iterator

from bolsa.cli.common import Commands, a_day, household, say, show
from bolsa.core.accounts.account import KIND_BY_KEY
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.core.worth.changes import CAUSES
from bolsa.core.worth.periods import EVERY, period_ends
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts, ending, openings, valuing
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.ledger import listing
from bolsa.services.worth import worth


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    _enter_account(commands.group("account"))
    balances = commands.add("balances", run_balances, as_json=True)
    balances.add_argument("--on", type=a_day, default=None, metavar="DAY")
    worth_ = commands.add("worth", run_worth, as_json=True)
    worth_.add_argument("--on", type=a_day, default=None, metavar="DAY")
    worth_.add_argument("--from", dest="first", type=a_day, default=None, metavar="DAY", help="its course from this day on")
    worth_.add_argument("--to", dest="last", type=a_day, default=None, metavar="DAY", help="until this day; today otherwise")
    worth_.add_argument("--every", choices=tuple(EVERY), default="month", metavar="STEP", help="week, month, quarter or year")


def _enter_account(commands: Commands) -> None:
    add = commands.add("add", run_account_add, "Add an account.", as_json=True)
    add.add_argument("name")
    add.add_argument("--kind", required=True, choices=list(KIND_BY_KEY))
    add.add_argument("--currency", default="")
    add.add_argument("--opening", default="0", metavar="AMOUNT", help="what it held on that day; a debt is negative")
    add.add_argument("--on", type=a_day, default=None, metavar="DAY", help="the day of the opening balance")
    add.add_argument("--number", default="", help="the bank's identifier, by which a file finds its account")
    kind = add.add_mutually_exclusive_group()
    kind.add_argument(
        "--everyday", dest="everyday", action="store_true", default=None, help="its money is placed into categories"
    )
    kind.add_argument("--apart", dest="everyday", action="store_false", default=None, help="it is followed for its value only")
    change = commands.add("set", run_account_set, "Turn an account everyday or apart, hide or show it.", as_json=True)
    change.add_argument("name")
    side = change.add_mutually_exclusive_group()
    side.add_argument("--everyday", dest="everyday", action="store_true", default=None)
    side.add_argument("--apart", dest="everyday", action="store_false", default=None)
    shown = change.add_mutually_exclusive_group()
    shown.add_argument("--shown", dest="shown", action="store_true", default=None)
    shown.add_argument("--hidden", dest="shown", action="store_false", default=None)
    value = commands.add("value", run_account_value, "Note what an apart account was worth on a day.", as_json=True)
    value.add_argument("name")
    value.add_argument("amount", metavar="AMOUNT")
    value.add_argument("--on", type=a_day, default=None, metavar="DAY")
    opening = commands.add("opening", run_account_opening, "Say what an account held when a day began.", as_json=True)
    opening.add_argument("name")
    said = opening.add_mutually_exclusive_group(required=True)
    said.add_argument("amount", metavar="AMOUNT", nargs="?", help="its opening balance follows; a debt is negative")
    said.add_argument("--bank", action="store_true", help="so that it meets what its bank last said")
    opening.add_argument("--on", type=a_day, default=None, metavar="DAY")
    close = commands.add("close", run_account_close, "Close an account; its history stays.", as_json=True)
    close.add_argument("name")
    close.add_argument("--rest-to", default="", metavar="NAME", help="where what it still holds goes")
    close.add_argument("--happened", action="store_true", help="count what is still pending as cleared")
    close.add_argument("--on", type=a_day, default=None, metavar="DAY")


def run_account_add(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        currency = options.currency.upper() or accounts.home_currency(db)
        opening = parse_amount(options.opening, currency, field="opening")
        words = {"number": options.number, "everyday": options.everyday}
        done = accounts.add_account(db, by, NewAccount(options.name, options.kind, currency, opening, options.on, **words))
    say(options, done, account=done.made)


def run_account_set(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.name)
        say(options, accounts.set_flags(db, by, account.id, everyday=options.everyday, shown=options.shown))


def run_account_value(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.name)
        amount = parse_amount(options.amount, account.currency)
        say(options, valuing.note_value(db, by, account.id, options.on or by.today, amount))


def run_account_opening(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.name)
        if options.bank:
            say(options, openings.open_as_the_bank_says(db, by, account.id))
        else:
            amount = parse_amount(options.amount, account.currency)
            say(options, openings.set_known(db, by, account.id, options.on or by.today, amount))


def run_account_close(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        account = accounts.resolve_account(db, options.name)
        rest_to = accounts.resolve_account(db, options.rest_to).id if options.rest_to else None
        say(options, ending.close_account(db, by, account.id, options.on or by.today, rest_to=rest_to, happened=options.happened))


def run_balances(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        found = listing.balances_on(db, options.on or by.today)
    show(
        options,
        [vars(b) | {"everyday": b.everyday} for b in found],
        (f"{b.account:<30} {b.balance:>14} {b.currency}" for b in found),
    )


def run_worth(options: argparse.Namespace) -> None:
    if options.first:
        _show_course(options)
        return
    with household(options) as (db, by):
        view = worth.worth_on(db, options.on or by.today)
    now, home = view.now, view.currency
    rows = [
        {
            "account": row.name, "side": row.side, "currency": row.currency,
            "balance": decimal_text(row.balance_minor, row.currency), "home": decimal_text(row.home_minor, home),
        }
        for row in view.rows
    ]  # fmt: skip
    sums = {"owned": now.owned_minor, "owed": now.owed_minor, "net": now.net_minor}
    told = {name: decimal_text(amount, home) for name, amount in sums.items()}
    value = {"currency": home, **told, "accounts": rows, "without_rate": list(view.without_rate)}

    def lines() -> Iterator[str]:
        yield from (f"{row['account']:<30} {row['home']:>14} {home}" for row in rows)
        yield from (f"{name:<30} {amount:>14} {home}" for name, amount in told.items())

    show(options, value, lines())


def _show_course(options: argparse.Namespace) -> None:
    """Prints net worth at the end of each step, by class, and what changed it over the whole."""
    with household(options) as (db, by):
        last = options.last or by.today
        if options.first > last:
            raise InvalidInput("The first day is after the last.", field="from")
        view = worth.worth_course(db, period_ends(options.first, last, options.every))
        change = worth.what_changed(db, options.first, last)
    home = view.currency
    points = [
        {
            "day": p.day.isoformat(), "owned": decimal_text(p.owned_minor, home), "owed": decimal_text(p.owed_minor, home),
            "net": decimal_text(p.net_minor, home), "classes": {name: decimal_text(x, home) for name, x in p.by_class.items()},
        }
        for p in view.points
    ]  # fmt: skip
    changed = {cause: decimal_text(change.of(cause), home) for cause in CAUSES} | {"all": decimal_text(change.home_minor, home)}
    value = {"currency": home, "points": points, "changed": changed, "without_rate": list(view.without_rate)}

    def lines() -> Iterator[str]:
        for point in points:
            yield f"{point['day']:<12}{point['owned']:>16}{point['owed']:>16}{point['net']:>16} {home}"
        yield from (f"{cause:<28}{amount:>16} {home}" for cause, amount in changed.items())

    show(options, value, lines())
