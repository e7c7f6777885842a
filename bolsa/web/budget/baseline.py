"""A baseline for the year with its preview, and the year as a file: out and in. Story: tests/stories/test_year.py."""

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.budget.baseline import USUAL_MONTHS
from bolsa.core.money import to_decimal
from bolsa.core.months import Month
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import expecting, year
from bolsa.services.sorting import categories
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.year import back
from bolsa.web.csv_reply import csv_reply
from bolsa.web.filters import count
from bolsa.web.forms import parse_ids, parse_version, tell, tell_problem

MOST_BYTES = 2 * 1024 * 1024
ONE = "category "  # before the id of a category that is chosen alone


@blueprint.get("/budget/baseline")
def baseline_page() -> str:
    """What full months say of the categories chosen, beside what is expected of them."""
    error, found = None, None
    try:
        way, count, since, chosen = _asked()
        found = expecting.baseline_view(g.db, g.by, way, count, since, chosen)
    except InvalidInput as caught:
        error = caught
    return render_template(
        "budget/baseline.html",
        found=found,
        error=error,
        groups=categories.list_by_group(g.db),
        chosen=parse_ids(request.values, "category_id"),
        way=request.values.get("way", "mean"),
        months=request.values.get("months", str(USUAL_MONTHS)),
        since=request.values.get("since") or str(g.present),
        seen=changes.version_now(g.db),
    )


def _asked() -> tuple[str, int, Month, list[int]]:
    """The way, over how many months, from which month, for which categories (a group's at once). Raises: InvalidInput."""
    text = request.values.get("months", "") or str(USUAL_MONTHS)
    count = number_of(text)
    if count is None:
        raise InvalidInput(f"“{text[:12]}” is no number of months.", field="months")
    chosen = parse_ids(request.values, "category_id")
    group = request.values.get("group", "")
    if group.startswith(ONE):
        chosen += [int(group.removeprefix(ONE))] if is_number(group.removeprefix(ONE)) else []
    elif group:
        chosen += [category.id for name, members in categories.list_by_group(g.db) if name == group for category in members]
    return request.values.get("way", "mean"), count, Month.parse(request.values.get("since") or str(g.present)), chosen


@blueprint.post("/budget/baseline")
def take_baseline() -> Response:
    """Sets what the baseline says, as one step."""
    way, count, since, chosen = _asked()
    done = expecting.take_baseline(g.db, g.by, way, count, since, chosen, seen=parse_version(request.form))
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("That is what is expected already")
    return redirect(url_for("budget.year_page"), code=303)


@blueprint.get("/budget/year.csv")
def year_csv() -> FlaskResponse:
    """The year as CSV: two rows a category, expected and actual."""
    first = Month.parse(request.args["first"]) if request.args.get("first") else Month(g.month.year, 1)
    view, home = year.year_view(g.db, g.by, first), g.household.home_currency
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


@blueprint.post("/budget/year/bring-in")
def bring_year_in() -> Response:
    """Sets what is expected from a CSV as this page saves it, all or none."""
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise InvalidInput("Choose a CSV file first.", field="file")
    content = upload.read(MOST_BYTES + 1)
    if len(content) > MOST_BYTES:
        raise InvalidInput("A year is a file of up to 2 MB.", field="file")
    done = expecting.bring_year_in(g.db, g.by, content)
    if done.step_id:
        touched, cells = done.made
        verb = "is" if cells == 1 else "are"
        tell(f"{count(cells, 'cell')} of {count(touched, 'category', 'categories')} {verb} as in the file", done)
    else:
        tell_problem("Everything is as in the file already")
    return back()
