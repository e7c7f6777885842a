"""Budget, the year: twelve months of every category, changed in place. Story: tests/stories/test_year.py."""

import re
from dataclasses import dataclass

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.budget.expecting import parse_expectation
from bolsa.core.budget.month import ONCE
from bolsa.core.budget.year import MONTHS, YearCell
from bolsa.core.money import to_decimal
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting, year
from bolsa.services.budget.year import YearView
from bolsa.web.budget.added_up import draw_added_up
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.views import expect_as_typed
from bolsa.web.csv_reply import csv_reply
from bolsa.web.filters import brief
from bolsa.web.forms import parse_id, parse_version, tell, tell_problem

BAR = 60  # the length of a month's expected amount, in the drawing's own units
BAR_ROOM = 72
_CELL = re.compile(r"c\.(\d{1,18})\.(\d{4}-\d{2})")


@dataclass(frozen=True)
class Shown:
    """A cell as the page shows it: the name of its field, what stands in it, what is typed to get that, what the field says while
    it is empty, and the bar of what was spent: its length and that of what is over."""

    cell: YearCell
    name: str
    text: str
    typed: str
    carried: str
    bar: float
    over: float


@blueprint.get("/budget/year")
def year_page() -> str:
    """Twelve months from the month `first`, else from the January of the chosen month."""
    view = year.year_view(g.db, g.by, _first())
    home = g.household.home_currency
    rhythms = budgeting.rhythms_of(g.db)
    shown = {
        row.category_id: [show_cell(row.category_id, cell, rhythms.get((row.category_id, cell.month), 1)) for cell in row.cells]
        for row in (*view.year.incomes, *view.year.spendings)
    }
    return render_template(
        "budget/year.html",
        view=view,
        year=view.year,
        first=_first(),
        shown=shown,
        drawing=draw_added_up(view.year, home),
        seen=changes.version_now(g.db),
        lowest=min(range(MONTHS), key=lambda i: (view.year.added_up[i], i)),
    )


def show_cell(category_id: int, cell: YearCell, every: int) -> Shown:
    """What stands in a cell's field. A figure that is carried on, or comes by its rhythm, stands there in grey."""
    amount = brief(cell.expected_minor, g.household.home_currency)
    rhythm = {ONCE: " once", 1: ""}.get(every, f" every {every}")
    actual = max(0, cell.actual_minor or 0)
    scale = max(1, cell.expected_minor)
    bar = round(BAR * min(actual, cell.expected_minor) / scale, 1)
    is_over = actual > cell.expected_minor > 0  # beside nothing expected there is no bar to be over
    over = min(BAR_ROOM - BAR, round(BAR * (actual - cell.expected_minor) / scale, 1)) if is_over else 0
    own = amount if cell.is_hand_set else ""
    carried = amount if cell.expected_minor else "–"
    return Shown(
        cell, f"c.{category_id}.{cell.month}", own, f"{own}{rhythm}" if own else "", carried, bar, max(3, over) if over else 0
    )


def _first() -> Month:
    text = request.values.get("first", "")
    return Month.parse(text) if text else Month(g.month.year, 1)


@blueprint.post("/budget/year/cell")
def set_cell() -> Response:
    """Sets one cell: an amount that carries on, "every 6", "once", or nothing."""
    expect_as_typed(
        parse_id(request.form, "category_id"), Month.parse(request.form.get("cell", "")), request.form.get("expected", "")
    )
    return _back()


@blueprint.post("/budget/year")
def set_cells() -> Response:
    """Sets every cell whose text is not what the page had shown (for who works without script), all or none."""
    view = year.year_view(g.db, g.by, _first())
    rhythms = budgeting.rhythms_of(g.db)
    home, seen = g.household.home_currency, parse_version(request.form)
    with changes.change(g.db, g.by) as done:
        count = 0
        for name, text in request.form.items():
            found = _CELL.fullmatch(name)
            if not found:
                continue
            category_id, month = int(found[1]), Month.parse(found[2])
            cell = next((c for c in _cells_of(view, category_id) if c.month == month), None)
            if cell is None or show_cell(category_id, cell, rhythms.get((category_id, month), 1)).text == text.strip():
                continue
            typed = parse_expectation(text, home, g.reader.decimal_mark)
            amount, every = (typed.amount_minor, typed.every) if typed else (None, 1)
            budgeting.set_expected(g.db, g.by, category_id, month, amount, every=every, seen=seen)
            count += 1
        done.sentence = f"Set {count} expected {'amount' if count == 1 else 'amounts'}"
    if done.step_id:
        tell(done.sentence, done)
    return _back()


def _cells_of(view: YearView, category_id: int) -> tuple[YearCell, ...]:
    rows = (*view.year.incomes, *view.year.spendings)
    return next((row.cells for row in rows if row.category_id == category_id), ())


@blueprint.post("/budget/year/usual")
def take_usual() -> Response:
    """Takes the usual amounts of every empty row, or of one."""
    first = _first()
    if request.form.get("category_id"):
        category_id = parse_id(request.form, "category_id")
        row = next((row for category, row in year.year_view(g.db, g.by, first).offered if category.id == category_id), None)
        if row is None:
            raise InvalidInput("Something is expected of it by now.")
        since = max(first, g.present)
        done = budgeting.set_expected(g.db, g.by, category_id, since, row.usual_minor, seen=parse_version(request.form))
    else:
        done = year.take_usual(g.db, g.by, first)
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("Something is expected of every category already")
    return _back()


@blueprint.get("/budget/year.csv")
def year_csv() -> FlaskResponse:
    """The year as CSV: two rows a category, expected and actual."""
    view, home = year.year_view(g.db, g.by, _first()), g.household.home_currency
    rows: list[list[object]] = []
    for group in view.groups:
        for category, row in group.rows:
            words = [group.name, category.name, category.type]
            rows.append([*words, "expected", *(to_decimal(cell.expected_minor, home) for cell in row.cells)])
            actual = ["" if cell.actual_minor is None else to_decimal(cell.actual_minor, home) for cell in row.cells]
            rows.append([*words, "actual", *actual])
    rows.append(["", "Without a plan", "spending", "actual", *(to_decimal(amount, home) for amount in view.year.outside)])
    rows.append(["", "Left over", "", "as it goes", *(to_decimal(amount, home) for amount in view.year.left_over)])
    heads = ["group", "category", "type", "figure", *(str(month) for month in view.year.months)]
    return csv_reply(f"budget-{view.year.months[0]}-to-{view.year.months[-1]}", heads, rows)


def _back() -> Response:
    return redirect(url_for("budget.year_page", first=_first()), code=303)
