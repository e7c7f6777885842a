"""Payees: the list with those that are likely one, and a page for each. Story: tests/stories/test_payees.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.months import Month
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.sorting import categories, payees, sorting
from bolsa.web.forms import parse_id, parse_ids, parse_optional_id, tell, tell_problem
from bolsa.web.gate import page_before
from bolsa.web.pictures.columns import Columns, draw_months
from bolsa.web.pictures.kit import Area
from bolsa.web.sorting.blueprint import blueprint
from bolsa.web.working.views import slip_address

MONTHS = Area(812, 190, 62, 800, 14, 158)
SHOWN = 200
ENTRIES_SHOWN = 60


@blueprint.get("/payees")
def payee_list() -> str:
    """The payees, most entries first, found by letters; above them those that are likely one."""
    text = request.args.get("text", "")[:60]
    rows = payees.list_rows(g.db, text)
    likely = [] if text else payees.list_likely(g.db)
    return render_template(
        "sorting/payees.html", rows=rows[:SHOWN], many=len(rows), likely=likely[:12], more=len(likely) - 12, text=text
    )


@blueprint.get("/payees/<int:payee_id>")
def payee(payee_id: int) -> str:
    """All that is known of a payee, and its entries."""
    return _payee_page(payee_id, None)


def _payee_page(payee_id: int, error: Exception | None) -> str:
    page = payees.page_of(g.db, payee_id, g.by.today)
    start = max(0, request.args.get("start", 0, type=int))
    rows = payees.list_entries(g.db, payee_id, ENTRIES_SHOWN, start)
    return render_template(
        "sorting/payee.html",
        page=page,
        rows=rows,
        start=start,
        next_start=start + ENTRIES_SHOWN if start + ENTRIES_SHOWN < page.entry_count else None,
        drawing=_draw(page) if any(amount for _, amount in page.months) else None,
        groups=categories.list_by_group(g.db),
        error=error,
    )


def _draw(page: payees.PayeePage) -> Columns:
    """Its months, upwards what was paid, or what came where that is more in all; each leads to its entries."""
    is_paid = page.total_minor <= 0
    amounts = {month: -amount if is_paid else amount for month, amount in page.months}
    kinds = {month: "half" if month == Month.of(g.by.today) else "counted" for month in amounts}
    name = f"{'Paid' if is_paid else 'Received'} by month"
    id_, home = page.payee.id, g.household.home_currency
    return draw_months(name, amounts, kinds, home, (), lambda month: slip_address("payee", f"{id_}.{month}"), MONTHS)


@blueprint.post("/payees/<int:payee_id>")
def change_payee(payee_id: int) -> tuple[str, int] | Response:
    """Gives a payee another name, or says where it usually goes."""
    form = request.form
    try:
        if form.get("way") == "usual":
            done = payees.set_usual(g.db, g.by, payee_id, parse_optional_id(form, "category_id"))
        elif form.get("way") in ("apart", "join"):
            done = sorting.keep_apart(g.db, g.by, payee_id, apart=form["way"] == "apart")
        else:
            done = payees.rename(g.db, g.by, payee_id, form.get("name", ""))
    except (InvalidInput, Conflict) as error:
        return _payee_page(payee_id, error), 409 if isinstance(error, Conflict) else 400
    tell(done.sentence, done)
    return redirect(url_for("sorting.payee", payee_id=payee_id), code=303)


@blueprint.post("/payees/merge")
def merge_payees() -> Response:
    """Makes one payee of several, or says that they are different ones."""
    form = request.form
    kept_id, others = parse_id(form, "kept_id"), parse_ids(form, "other_id")
    try:
        done = (
            payees.refuse(g.db, g.by, kept_id, others)
            if form.get("way") == "refuse"
            else payees.merge(g.db, g.by, kept_id, others)
        )
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    if form.get("back") == "sort":
        return redirect(url_for("sorting.piles"), code=303)
    return redirect(page_before(url_for("sorting.payee_list")), code=303)
