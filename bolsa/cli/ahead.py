"""Commands about years ahead: debts."""

import argparse
from collections.abc import Iterator

from bolsa.cli.common import Commands, household, show
from bolsa.core.ahead.debts import ORDERS
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.services.accounts import accounts
from bolsa.services.ahead import debts


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    one = commands.add("debts", run_debts, as_json=True)
    one.add_argument("--extra", default=None, metavar="N", help="paid a month beyond the least payments; the plan's otherwise")
    one.add_argument(
        "--order", choices=list(ORDERS), default=None, metavar="ORDER", help=f"{', '.join(ORDERS)}; the plan's otherwise"
    )


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
