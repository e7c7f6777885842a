"""How a pay is taken apart: whose it is, from when it is kept, its lines; made from a series that comes in."""

from datetime import date

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.due.dues import Series
from bolsa.core.due.rhythm import in_words
from bolsa.core.pay.payday import Pay
from bolsa.core.pay.payslip import PayLine
from bolsa.core.whole_numbers import number_of
from bolsa.errors import BolsaError, Conflict, InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.due import dues, finding
from bolsa.services.house import sessions
from bolsa.services.pay import keeping, paydays
from bolsa.web.filters import in_field, so_many_percent
from bolsa.web.forms import parse_day, parse_optional_id, parse_version, tell
from bolsa.web.pay.blueprint import KIND_WORDS, blueprint, parse_amount_or_percent, parse_to
from bolsa.web.pay.views import to_choices

BLANK_ROWS = 2
# What most payslips hold: rows to fill in or leave open.
USUAL_LINES = (
    ("earned", "Base pay"),
    ("before", "Pension"),
    ("tax", "Income tax"),
    ("tax", "Social dues"),
    ("employer", "Pension"),
)
COLUMNS = ("id", "kind", "name", "amount", "to", "start")
Row = dict[str, str]


@blueprint.get("/pay/new")
def new() -> str:
    """The kept series that come in and can be taken apart."""
    return render_template(
        "pay/choose.html",
        incomes=paydays.list_without_pay(g.db),
        pays=paydays.list_pays(g.db),
        proposals=[one for one in finding.list_proposals(g.db, g.by.today) if one.found.amount_minor > 0],
        account_names={account.id: account.name for account in accounts.list_accounts(g.db)},
        in_words=in_words,
    )


@blueprint.get("/pay/new/<int:series_id>")
def take_apart(series_id: int) -> str:
    """The lines of a pay that is not kept yet, with those most payslips hold."""
    series = dues.get_kept(g.db, g.by, series_id, 70).series
    under = f"c{series.category_id}" if series.category_id else ""
    each = in_field(series.amount_minor, series.currency)
    rows = [
        {"kind": kind, "name": name, "amount": each if kind == "earned" else "", "to": under if kind == "earned" else ""}
        for kind, name in USUAL_LINES
    ]
    last = max((due.day for due in dues.get_kept(g.db, g.by, series_id, 70).dues if due.came), default=g.by.today)
    return _page(series, None, rows, MultiDict({"kept_from": last.isoformat()}), None)


@blueprint.post("/pay/new/<int:series_id>")
def keep(series_id: int) -> str | tuple[str, int] | Response:
    """Keeps a pay as its form says; or gives the form more rows."""
    series = dues.get_kept(g.db, g.by, series_id, 70).series
    rows = _rows(request.form)
    if request.form.get("act") == "rows":
        return _page(series, None, rows, request.form, None)
    try:
        member_id, day, lines = _parse(request.form, rows, series)
        done = keeping.keep_pay(g.db, g.by, series_id, member_id, day, lines)
    except (InvalidInput, Conflict) as error:
        return _page(series, None, rows, request.form, error), 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("pay.payslip", pay_id=done.made), code=303)


@blueprint.get("/pay/<int:pay_id>/lines")
def lines(pay_id: int) -> str:
    """The lines of a kept pay."""
    pay, series = _get(pay_id)
    rows = [
        {
            "id": str(line.id), "kind": line.kind, "name": line.name,
            "amount": so_many_percent(line.percent) if line.percent is not None else _amount(line.amount_minor, series.currency),
            "to": f"a{line.account_id}" if line.account_id else f"c{line.category_id}" if line.category_id else "",
            "start": _amount(line.start_minor or None, series.currency),
        }
        for line in pay.lines if line.is_usual
    ]  # fmt: skip
    form = MultiDict({"kept_from": pay.kept_from.isoformat(), "member_id": str(pay.member_id or "")})
    return _page(series, pay, rows, form, None)


@blueprint.post("/pay/<int:pay_id>/lines")
def change(pay_id: int) -> str | tuple[str, int] | Response:
    """Changes a pay as its form says, forgets it, or gives the form more rows."""
    pay, series = _get(pay_id)
    rows = _rows(request.form)
    if request.form.get("act") == "rows":
        return _page(series, pay, rows, request.form, None)
    if request.form.get("act") == "forget":
        done = keeping.forget_pay(g.db, g.by, pay_id)
        tell(done.sentence, done)
        return redirect(url_for("due.page"), code=303)
    try:
        member_id, day, typed = _parse(request.form, rows, series)
        done = keeping.change_pay(g.db, g.by, pay_id, member_id, day, typed, seen=parse_version(request.form))
    except (InvalidInput, Conflict) as error:
        return _page(series, pay, rows, request.form, error), 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("pay.payslip", pay_id=pay_id), code=303)


def _get(pay_id: int) -> tuple[Pay, Series]:
    found = next(((pay, series) for pay, series in paydays.list_pays(g.db) if pay.id == pay_id), None)
    if found is None:
        raise NotFound("There is no such pay.")
    return found


def _amount(amount_minor: int | None, currency: str) -> str:
    return "" if amount_minor is None else in_field(amount_minor, currency)


def _rows(form: MultiDict) -> list[Row]:
    """The rows of a form as they were typed, those left blank taken out."""
    columns = [form.getlist(name) for name in COLUMNS]
    rows = [dict(zip(COLUMNS, row, strict=True)) for row in zip(*columns, strict=False)]
    return [row for row in rows if row["name"].strip() or row["amount"].strip() or row["id"]]


def _parse(form: MultiDict, rows: list[Row], series: Series) -> tuple[int | None, date, list[PayLine]]:
    """Whose pay, from when, and its lines; a row without a name is taken out, one that only has its name and was not there
    before was left open. Raises: InvalidInput."""
    typed = []
    for row in rows:
        if not row["name"].strip() and not row["amount"].strip():
            continue
        if not row["amount"].strip() and not row["start"].strip() and not row["id"] and not row["to"]:
            continue
        fixed, percent = parse_amount_or_percent(row["amount"], series.currency)
        start, _ = parse_amount_or_percent(row["start"], series.currency)
        account_id, category_id = parse_to(row["to"])
        id_ = number_of(row["id"]) or 0
        typed.append(PayLine(id_, row["kind"], row["name"], fixed, percent, account_id, category_id, start or 0))
    return parse_optional_id(form, "member_id"), parse_day(form, "kept_from", g.by.today), typed


def _page(series: Series, pay: Pay | None, rows: list[Row], form: MultiDict, error: BolsaError | None) -> str:
    return render_template(
        "pay/pay_form.html",
        series=series,
        pay=pay,
        rows=[*rows, *({} for _ in range(BLANK_ROWS))],
        members=sessions.list_members(g.db),
        kinds=KIND_WORDS,
        choices=to_choices(series),
        typed=form,
        error=error,
        in_words=in_words,
        seen=form.get("seen") or (changes.version_of(g.db, "pay", pay.id) if pay else 0),
    )
