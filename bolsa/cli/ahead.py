"""Commands about years ahead: the long view, what mends it, debts."""

import argparse
from collections.abc import Iterator

from bolsa.cli.common import Commands, household, say, show
from bolsa.core.ahead.debts import ORDERS
from bolsa.core.ahead.fan import draw_fan
from bolsa.core.ahead.mending import Mend, covered_until, describe_person
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.accounts import accounts
from bolsa.services.ahead import debts, plans


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    ahead = commands.add("ahead", run_ahead, as_json=True)
    ahead.add_argument("--case", default=None, metavar="NAME", help="the first case otherwise")
    actions = Commands(ahead.add_subparsers(dest="action", metavar="ACTION"), {})
    mend = actions.add("mend", run_mend, "Print the smallest single changes that make it hold; keep one as a case.", as_json=True)
    mend.add_argument("--case", default=None, metavar="NAME", help="the first case otherwise")
    mend.add_argument("--keep", default="", metavar="KIND", help="save, less, longer, cheaper, later or out")
    begin = actions.add("begin", run_begin, "Begin the long view out of the books.", as_json=True)
    begin.add_argument("--born", action="append", default=[], metavar="NAME=YEAR", help="a member's year of birth")
    one = commands.add("debts", run_debts, as_json=True)
    one.add_argument("--extra", default=None, metavar="N", help="paid a month beyond the least payments; the plan's otherwise")
    one.add_argument(
        "--order", choices=list(ORDERS), default=None, metavar="ORDER", help=f"{', '.join(ORDERS)}; the plan's otherwise"
    )


def run_ahead(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        books = plans.read_books(db, by)
        view = _case(plans.list_views(db, books), options.case)
    fan = draw_fan(view.case.plan, view.start, view.years)
    home = books.home

    def text(minor: int) -> str:
        return decimal_text(minor, home)

    years = [
        {"year": one.year, "income": text(sum(one.income)), "pensions": text(sum(one.pensions)),
         "spending": text(one.spending_minor), "planned": text(sum(cost for _, cost in one.events)),
         "debts": text(one.debts_minor), "tax": text(one.tax_minor), "earned": text(sum(one.earned)),
         "drawn": text(sum(one.drawn)), "missing": text(one.missing_minor), "total": text(one.total_minor),
         "accounts": {pot.name: text(held) for pot, held in zip(view.case.plan.pots, one.held, strict=True)}}
        for one in view.years
    ]  # fmt: skip
    value = {
        "case": view.case.name, "currency": home, "from": str(books.month), "lasts_until": covered_until(view.years),
        "first_below": view.below.year if view.below else None, "left": text(view.left_minor), "paths": fan.paths,
        "hold": fan.held,
        "starting": {
            "spending": text(books.spending_minor), "income": text(sum(view.start.incomes)), "held": text(sum(view.start.pots)),
        },
        "years": years,
    }  # fmt: skip

    def lines() -> Iterator[str]:
        for one in years:
            yield f"{one['year']}  spent {one['spending']:>12}  at its end {one['total']:>14}  missing {one['missing']}"
        yield f"lasts until {value['lasts_until']}, {value['left']} {home} at the end"
        yield f"{fan.held} of {fan.paths} drawn courses hold"

    show(options, value, lines())


def _case(views: list[plans.CaseView], name: str | None) -> plans.CaseView:
    """The case of that name, the first without one. Raises: NotFound."""
    if not views:
        raise NotFound("There is no long view yet. Begin it on its page, or by `bolsa ahead begin`.")
    found = next((one for one in views if name is None or one.case.name.casefold() == name.casefold()), None)
    if found is None:
        raise NotFound(f"There is no case “{name}”. Cases: {', '.join(one.case.name for one in views)}.")
    return found


def run_mend(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        books = plans.read_books(db, by)
        view = _case(plans.list_views(db, books), options.case)
        mends = plans.list_mends(view)
        if options.keep:
            chosen = next((mend for mend in mends if mend.is_enough and mend.kind == options.keep), None)
            if chosen is None:
                raise NotFound(f"No change of the kind “{options.keep}” mends it.")
            event_id, member_id = chosen.event.id if chosen.event else 0, chosen.person.member_id if chosen.person else 0
            done = plans.mend_case(db, by, view.case.id, chosen.kind, event_id, member_id)
            return say(options, done, case=done.made)
    found = [
        {"kind": mend.kind, "of": mend.name, "amount": _amount(mend, books.home), "enough": mend.is_enough,
         "left": decimal_text(mend.left_minor, books.home), "below": mend.below.year if mend.below else None,
         "missing": decimal_text(mend.below.missing_minor, books.home) if mend.below else None}
        for mend in mends
    ]  # fmt: skip

    def lines() -> Iterator[str]:
        for one in found:
            yield f"{one['kind']:<9}{one['of']:<26}{one['amount']:>14}  " + (
                f"leaves {one['left']}" if one["enough"] else "is too little"
            )

    show(options, found, lines())
    return None


def _amount(mend: Mend, home: str) -> str:
    """What the change is: an amount a month, a price, a year, or until when someone works."""
    until = describe_person(mend)
    if until is not None:
        return str(until)
    return str(mend.amount) if mend.kind in ("later", "out") else decimal_text(mend.amount, home)


def run_begin(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        known = {one.name.casefold(): one.id for one in plans.list_members(db)}
        born = {}
        for text in options.born:
            name, _, year = text.partition("=")
            if name.casefold() not in known or not year.isdecimal():
                raise InvalidInput(f"“{text}” says no year of birth. Write it like Noor=1984.", field="born")
            born[known[name.casefold()]] = int(year)
        done = plans.begin(db, by, born)
    say(options, done, case=done.made)


def run_debts(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        more = parse_amount(options.extra, accounts.home_currency(db), field="extra") if options.extra is not None else None
        view = debts.debt_view(db, by, more, options.order)

    def text(minor: int | None) -> str | None:
        return decimal_text(minor, view.home) if minor is not None else None

    least = {course.debt.id: course for course in view.least.courses}
    found = [
        {"debt": course.debt.name, "owed": text(course.debt.owed_minor), "rate": str(course.debt.rate),
         "least": text(course.debt.least_minor), "done": str(course.done) if course.done else None,
         "months": len(course.payments), "interest": text(course.interest_minor),
         "least_done": str(least[course.debt.id].done) if least[course.debt.id].done else None,
         "least_interest": text(least[course.debt.id].interest_minor) if least[course.debt.id].done else None}
        for course in view.planned.courses
    ]  # fmt: skip
    value = {
        "currency": view.home, "extra": text(view.plan.more_minor), "order": view.plan.order, "owed": text(view.owed_minor),
        "done": str(view.planned.done) if view.planned.done else None, "interest": text(view.planned.interest_minor),
        "least_interest": text(view.least.interest_minor), "saved": text(view.saved_minor), "debts": found,
        "too_little": [debt.name for debt in view.too_little], "lacking": [account.name for account in view.lacking],
    }  # fmt: skip

    def lines() -> Iterator[str]:
        for one in found:
            yield f"{one['debt']:<24}{one['owed']:>14}  done {one['done'] or 'never'}, interest {one['interest']}"
        yield f"all done {value['done'] or 'never'}, interest {value['interest'] or '?'}, saved {value['saved'] or '?'}"

    show(options, value, lines())
