"""A payday and its payslip: what differs, what explains it, confirmed into one entry. Story: tests/stories/test_pay.py."""

import re
from dataclasses import dataclass
from datetime import date

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.amounts import parse_amount
from bolsa.core.due.dues import Series
from bolsa.core.months import Month
from bolsa.core.pay.payday import Pay
from bolsa.core.pay.payslip import AFTER, EARNED, KINDS, PayLine, income_category
from bolsa.errors import BolsaError, Conflict, InvalidInput, NotAllowed, NotFound
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.house import sessions
from bolsa.services.pay import keeping, paydays
from bolsa.services.pay.paydays import PaydayState, PayView
from bolsa.services.sorting import categories
from bolsa.web.forms import parse_version, tell
from bolsa.web.pay.bar import draw_bar, draw_ceiling
from bolsa.web.pay.blueprint import KIND_WORDS, blueprint, parse_to

NOT_TOLD = "Not told by the payslip"


@dataclass(frozen=True)
class Typed:
    """What a payslip's form holds: amounts by line, and the line that is added on this payslip alone, if one is."""

    amounts: dict[int, int]
    extra: PayLine | None = None

    @property
    def extras(self) -> tuple[PayLine, ...]:
        return (self.extra,) if self.extra else ()


@blueprint.get("/pay")
def index() -> Response:
    """To the payday that waits longest, else the first pay; where there is none, to what can be taken apart."""
    waiting = paydays.list_waiting(g.db, g.by)
    if waiting:
        pay, _, state = waiting[0]
        return redirect(url_for("pay.payslip", pay_id=pay.id, day=state.day.isoformat()))
    kept = paydays.list_pays(g.db)
    return redirect(url_for("pay.payslip", pay_id=kept[0][0].id) if kept else url_for("pay.new"))


@blueprint.get("/pay/<int:pay_id>")
def payslip(pay_id: int) -> str:
    """A payday's payslip: the one of `day`, else the last of the month that is chosen, else the first that waits."""
    pay = paydays.get_pay(g.db, pay_id)
    text = request.args.get("day", "")
    try:
        day = date.fromisoformat(text) if text else None
    except ValueError as error:
        raise NotFound("That is no payday.") from error
    return _page(pay, _choose(pay, day), Typed({}), MultiDict(), None)


@blueprint.post("/pay/<int:pay_id>/<day>")
def decide(pay_id: int, day: str) -> str | tuple[str, int] | Response:
    """Reckons the payslip anew with what is typed, confirms it, or takes it back."""
    pay = paydays.get_pay(g.db, pay_id)
    try:
        chosen = _choose(pay, date.fromisoformat(day))
    except ValueError as error:
        raise NotFound("That is no payday.") from error
    if request.form.get("act") == "back":
        done = keeping.take_back(g.db, g.by, pay_id, chosen.day)
        tell(done.sentence, done)
        return redirect(url_for("pay.payslip", pay_id=pay_id, day=day), code=303)
    try:
        typed = _parse(request.form, pay, chosen)
    except InvalidInput as error:
        return _page(pay, chosen, Typed({}), request.form, error), 400
    if request.form.get("act") != "confirm":
        return _page(pay, chosen, typed, request.form, None)
    try:
        done = keeping.confirm(g.db, g.by, pay_id, chosen.day, typed.amounts, typed.extras, seen=parse_version(request.form))
    except (InvalidInput, NotAllowed, Conflict) as error:
        return _page(pay, chosen, typed, request.form, error), 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("pay.payslip", pay_id=pay_id, day=day), code=303)


def _choose(pay: Pay, day: date | None) -> PaydayState:
    days = paydays.list_days(g.db, g.by, pay)
    if day is None and g.month != g.present:
        day = max((one.day for one in days if Month.of(one.day) == g.month), default=None)
    found = paydays.choose_day(days, day)
    if found is None:
        raise NotFound("That is no payday that is kept.")
    return found


def _parse(form: MultiDict, pay: Pay, chosen: PaydayState) -> Typed:
    """The amounts of a payslip's form. A percentage that was left as it was shown is reckoned anew; `use` sets one line."""
    currency = paydays.currency_of(g.db, pay)
    amounts: dict[int, int] = {}
    for line in pay.lines:
        text, was = form.get(f"line-{line.id}", "").strip(), form.get(f"was-{line.id}", "")
        if f"line-{line.id}" in form and not (line.percent is not None and text == was and text):
            amounts[line.id] = parse_amount(text or "0", currency, decimal_mark=g.reader.decimal_mark, field=f"line-{line.id}")
    extra = _parse_extra(form, currency)
    use = form.get("use", "")
    which, _, minor = use.partition(":")
    if which in {str(line.id) for line in pay.lines} and re.fullmatch(r"-?[0-9]{1,15}", minor):
        amounts[int(which)] = int(minor)
    view = paydays.pay_view(g.db, g.by, pay, chosen, amounts, Typed({}, extra).extras)
    if use == "rest" and view.difference_minor:
        more = view.difference_minor > 0
        under = income_category(pay.lines) if more else None
        extra = PayLine(0, EARNED if more else AFTER, NOT_TOLD, abs(view.difference_minor), category_id=under)
    return Typed(amounts if form.get("act") != "confirm" else amounts | _shown(view), extra)


def _shown(view: PayView) -> dict[int, int]:
    return {line.id: amount for line, amount in view.slip.items if line.id}


def _parse_extra(form: MultiDict, currency: str) -> PayLine | None:
    name, text = form.get("new-name", "").strip(), form.get("new-amount", "").strip()
    if not name and not text:
        return None
    if not name or not text:
        raise InvalidInput("A line has a name and an amount.", field="new")
    kind = form.get("new-kind", "")
    account_id, category_id = parse_to(form.get("new-to", ""))
    amount = parse_amount(text, currency, decimal_mark=g.reader.decimal_mark, field="new")
    return PayLine(0, kind if kind in KINDS else AFTER, name, amount, None, account_id, category_id)


def _page(pay: Pay, chosen: PaydayState, typed: Typed, form: MultiDict, error: BolsaError | None) -> str:
    view = paydays.pay_view(g.db, g.by, pay, chosen, typed.amounts, typed.extras)
    members = {member.id: member.name for member in sessions.list_members(g.db)}
    bar = draw_bar(view.slip)
    known = {account.id: account.name for account in accounts.list_accounts(g.db)}
    return render_template(
        "pay/payslip.html",
        view=view,
        pay=pay,
        chosen=chosen,
        of_line={one.line.id: one for one in view.year},
        usual=view.usual.by_line,
        whose=members.get(pay.member_id or 0, ""),
        account_names=known,
        names=categories.names_of(g.db),
        choices=to_choices(view.series),
        kinds=KIND_WORDS,
        bar=bar,
        bar_of={part.line_id: part for part in bar},
        ceilings=[(one, draw_ceiling(one)) for one in view.ceilings],
        others=[(one, series) for one, series in paydays.list_pays(g.db) if one.id != pay.id],
        typed=form,
        extra=typed.extra,
        error=error,
        until=max(g.by.today, chosen.day),
        seen=form.get("seen") or changes.version_now(g.db),
    )  # fmt: skip


def to_choices(series: Series) -> list[tuple[str, list[tuple[str, str]]]]:
    """What a line of a pay may go to, by group: accounts in its currency, but the one it comes on; then categories."""
    found = [
        (f"a{a.id}", a.name)
        for a in accounts.list_accounts(g.db)
        if a.id != series.account_id and a.currency == series.currency and a.closed_on is None
    ]
    groups = [(group, [(f"c{c.id}", c.name) for c in members]) for group, members in categories.list_by_group(g.db)]
    return [("Accounts", found), *groups]
