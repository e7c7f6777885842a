"""Debts: how they are paid off together, in which order, and what that saves. Story: tests/stories/test_debts.py."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.ahead.debts import ORDERS, Payoff
from bolsa.core.money import decimal_text
from bolsa.core.months import Month
from bolsa.core.percents import RATE_PLACES, parse_percent
from bolsa.errors import BolsaError, InvalidInput
from bolsa.services.ahead import debts as service
from bolsa.services.ahead.debts import DebtView
from bolsa.web.ahead.blueprint import blueprint
from bolsa.web.csv_reply import csv_reply
from bolsa.web.filters import money, month_name
from bolsa.web.forms import parse_id, parse_money, parse_optional_money, tell
from bolsa.web.pictures.kit import Area, Picture, Tick, band_path, marks_at, money_scale

AREA = Area(1180, 270, 76, 1040, 16, 234)
HUES = (3, 6, 2, 5, 7, 8, 1, 4)
MOST_SHOWN = 480
SCHEDULE_SHOWN = 24


@dataclass(frozen=True)
class Layer:
    """One debt over time: its outline, its hue, where its name stands."""

    name: str
    path: str
    hue: int


@dataclass(frozen=True)
class DebtCourses:
    """What is owed over time, a layer a debt, and what would be owed by least payments alone as a line."""

    picture: Picture
    layers: tuple[Layer, ...]
    least_path: str


def draw_courses(view: DebtView) -> DebtCourses:
    """The debts from today to the end of the slower of the two plans, or for forty years."""
    months = max(1, min(MOST_SHOWN, max(view.planned.months, view.least.months)))
    step = max(1, months // 240)
    at = [*range(-1, months, step)]
    step_px = (AREA.right - AREA.left) / max(1, len(at) - 1)
    places = [round(AREA.left + step_px * i, 1) for i in range(len(at))]
    stack = [[0] * len(at)]
    for course in view.planned.courses:
        stack.append([low + course.owed_at(i) for low, i in zip(stack[-1], at, strict=True)])
    least = [sum(course.owed_at(i) for course in view.least.courses) for i in at]
    y, rules = money_scale(AREA, [0, *stack[-1], *least], view.home)
    layers = [
        Layer(course.debt.name, band_path(places, low, top, y), HUES[i % len(HUES)])
        for i, (course, (low, top)) in enumerate(zip(view.planned.courses, pairwise(stack), strict=True))
    ]
    words, rows = [], []
    for i, owed, bare in zip(at, stack[-1], least, strict=True):
        month = view.first + i
        words.append(
            f"End of {month_name(month)}: {money(owed, view.home)} owed, {money(bare, view.home)} by least payments alone"
        )
        rows.append((month_name(month), money(owed, view.home), money(bare, view.home)))
    picture = Picture(
        "What is owed, month by month", AREA, rules, _year_ticks(view.first, at, places), marks_at(AREA, places, words),
        ("End of", "Owed", "By least payments alone"), tuple(rows), first=0,
    )  # fmt: skip
    line = "M" + "L".join(f"{x} {y(value)}" for x, value in zip(places, least, strict=True))
    return DebtCourses(picture, tuple(layers), line)


def _year_ticks(first: Month, at: Sequence[int], places: Sequence[float]) -> tuple[Tick, ...]:
    """The years, as close as their words allow."""
    januaries = [(place, first + i) for i, place in zip(at, places, strict=True) if (first + i).number == 1]
    if not januaries:
        januaries = [(place, first + i) for i, place in zip(at, places, strict=True) if (first + i).number in (1, 2, 3)]
    every = next(n for n in (1, 2, 5, 10, 20) if len(januaries) / n <= 14)
    return tuple(Tick(place, str(month.year)) for place, month in januaries if month.year % every == 0)


@blueprint.get("/debts")
def debts() -> str:
    """All debts, how they are paid off by the plan or by a sum and an order that are tried, against the least payments."""
    return _page(None)


def _page(error: BolsaError | None) -> str:
    more, order = _tried()
    view = service.debt_view(g.db, g.by, more, order)
    kept = service.debt_view(g.db, g.by)
    least = {course.debt.id: course for course in view.least.courses}
    return render_template(
        "ahead/debts.html",
        view=view,
        is_tried=(view.plan.more_minor, view.plan.order) != (kept.plan.more_minor, kept.plan.order),
        kept=kept,
        orders=ORDERS,
        least=least,
        others=_others(view),
        key=f"{view.plan.more_minor}.{view.plan.order}",
        drawing=draw_courses(view) if view.planned.courses else None,
        shown=SCHEDULE_SHOWN,
        error=error,
        typed=request.form,
    )


def _tried() -> tuple[int | None, str | None]:
    more = request.args.get("more", "")
    order = request.args.get("order", "")
    try:
        return parse_optional_money(
            request.args, "more", g.household.home_currency
        ) if more else None, order if order in ORDERS else None
    except InvalidInput:
        return None, order if order in ORDERS else None


def _others(view: DebtView) -> list[tuple[str, Payoff]]:
    """The other orders with the same sum."""
    return [
        (order, service.debt_view(g.db, g.by, view.plan.more_minor, order).planned)
        for order in ("rate", "balance")
        if order != view.plan.order and len(view.planned.courses) > 1
    ]


@blueprint.post("/debts")
def change_plan() -> tuple[str, int] | Response:
    """Keeps what is paid beyond the least payments, and the order."""
    form = request.form
    try:
        more = parse_optional_money(form, "more", g.household.home_currency) or 0
        done = service.change_plan(g.db, g.by, more, form.get("order", ""))
    except InvalidInput as error:
        return _page(error), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.debts"), code=303)


@blueprint.post("/debts/move")
def move_debt() -> Response:
    """Moves a debt in the order by hand."""
    done = service.move_debt(g.db, g.by, parse_id(request.form, "account_id"), -1 if request.form.get("way") == "up" else 1)
    tell(done.sentence, done)
    return redirect(url_for("ahead.debts"), code=303)


@blueprint.post("/debts/once")
def pay_once() -> tuple[str, int] | Response:
    """Plans a single payment, or takes one out."""
    form = request.form
    try:
        amount = 0 if form.get("out") else parse_money(form, "amount", g.household.home_currency)
        done = service.pay_once(g.db, g.by, Month.parse(form.get("month", "")), amount)
    except InvalidInput as error:
        return _page(InvalidInput(error.sentence, field=error.field or "month")), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.debts"), code=303)


@blueprint.post("/debts/<int:account_id>/terms")
def say_terms(account_id: int) -> tuple[str, int] | Response:
    """Says a debt's rate and its least payment."""
    form = request.form
    try:
        rate = parse_percent(form.get("rate", ""), f"rate-{account_id}", places=RATE_PLACES) / 100
        currency = next(
            (one.currency for one in service.debt_view(g.db, g.by).accounts if one.id == account_id), g.household.home_currency
        )
        least = parse_money(form, "least", currency)
        done = service.say_terms(g.db, g.by, account_id, rate, least)
    except InvalidInput as error:
        return _page(error), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.debts"), code=303)


@blueprint.get("/debts/<int:account_id>.csv")
def schedule(account_id: int) -> FlaskResponse:
    """A debt's schedule by the plan, as CSV."""
    view = service.debt_view(g.db, g.by)
    course = next((one for one in view.planned.courses if one.debt.id == account_id), None)
    payments = course.payments if course else ()
    rows = [
        (str(one.month), *(decimal_text(x, view.home) for x in (one.paid_minor, one.interest_minor, one.owed_minor)))
        for one in payments
    ]
    return csv_reply(f"debt-{account_id}", ["month", "paid", "of it interest", "owed after it"], rows)
