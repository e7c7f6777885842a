"""The command about pay: the year so far by line, the paydays and ceilings; a payday confirmed."""

import argparse
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from bolsa.cli.common import Commands, a_day, household, say, show
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.core.pay.ceilings import Ceiling
from bolsa.core.pay.payslip import reckon
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.pay import keeping, paydays
from bolsa.services.pay.paydays import PayView


def enter(commands: Commands) -> None:
    """Enters the command of this module."""
    pay = commands.add("pay", run_pay, as_json=True)
    actions = Commands(pay.add_subparsers(dest="action", metavar="ACTION"), {})
    confirm = actions.add("confirm", run_confirm, "Confirm a payday against its payslip.", as_json=True)
    confirm.add_argument("payee", metavar="PAYEE")
    confirm.add_argument("day", type=a_day, metavar="DAY")
    confirm.add_argument("--set", action="append", default=[], metavar="LINE=AMOUNT", help="what differs from the usual payslip")


def run_pay(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        views = []
        for pay, _ in paydays.list_pays(db):
            chosen = paydays.choose_day(paydays.list_days(db, by, pay))
            if chosen is not None:
                views.append(paydays.pay_view(db, by, pay, chosen, {}))
    value = [_as_value(view) for view in views]

    def lines() -> Iterator[str]:
        for one in value:
            yield f"{one['payee']}, {one['net']} {one['currency']} net"
            yield from (f"  {line['kind']:<9}{line['name']:<28}{line['usual']:>12}{line['year']:>14}" for line in one["lines"])
            yield from (f"  {day['day']}  {day['state']:<10}{day['brought'] or '':>12}" for day in one["days"])
            for limit in one["ceilings"]:
                passed = f", passed on {limit['passed_on']}" if limit["passed_on"] else ""
                yield f"  {limit['account']}: {limit['used']} of {limit['ceiling']} in {limit['year']}{passed}"

    show(options, value, lines())


def _as_value(view: PayView) -> dict[str, Any]:
    written = partial(decimal_text, currency=view.series.currency)
    usual = view.usual.by_line
    lines = [
        {"kind": one.line.kind, "name": one.line.name, "usual": written(usual.get(one.line.id, 0)),
         "year": written(one.total_minor)}
        for one in view.year
    ]  # fmt: skip
    days = [
        {"day": one.day.isoformat(), "state": one.state, "brought": written(one.deposit.amount_minor) if one.deposit else None}
        for one in view.days
    ]
    return {
        "payee": view.series.payee, "currency": view.series.currency, "net": written(view.usual.net_minor), "lines": lines,
        "days": days, "ceilings": [_of_ceiling(one, written) for one in view.ceilings],
    }  # fmt: skip


def _of_ceiling(one: Ceiling, written: Callable[[int], str]) -> dict[str, Any]:
    return {
        "account": one.name, "year": one.year, "ceiling": written(one.ceiling_minor), "used": written(one.used_minor),
        "end": written(one.end_minor), "passed_on": one.passed_on.isoformat() if one.passed_on else None,
        "exact": [written(amount) for amount in one.exact] if one.exact else None,
    }  # fmt: skip


def run_confirm(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        pays = paydays.list_pays(db)
        found = next(((pay, one) for pay, one in pays if one.payee.casefold() == options.payee.casefold()), None)
        if found is None:
            raise NotFound(f"There is no pay of {options.payee}.")
        pay, series = found
        given = {}
        for text in options.set:
            name, _, amount = text.rpartition("=")
            line = next((one for one in pay.lines if one.name.casefold() == name.strip().casefold()), None)
            if line is None:
                raise InvalidInput(f"The payslip has no line “{name}”.", field="set")
            given[line.id] = parse_amount(amount, series.currency, field="set")
        done = keeping.confirm(db, by, pay.id, options.day, reckon(pay.lines, given).by_line)
    say(options, done, entry=done.made)
