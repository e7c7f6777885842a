"""Budget, the month: needs, placing, shifting, expecting. Stories: tests/stories/test_sitting.py, test_budget.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.budget.expecting import parse_expectation
from bolsa.core.budget.month import CategoryMonth
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.budget import budgeting
from bolsa.services.budget.budgeting import BudgetView
from bolsa.services.due.dues import dues_of_category
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.course import draw_spending
from bolsa.web.budget.track import draw_track
from bolsa.web.filters import money, month_name
from bolsa.web.forms import (
    parse_id,
    parse_ids,
    parse_money,
    parse_seen_minor,
    parse_version,
    tell,
    tell_problem,
)


@blueprint.get("/budget")
def month() -> str:
    """The month's groups and rows; `open` names the row that is opened in place."""
    view = budgeting.budget_view(g.db, g.by, g.month)
    opened = request.args.get("open", type=int)
    return render_template("budget/month.html", view=view, track=draw_track, opened=_opened(view, opened))


def _opened(view: BudgetView, category_id: int | None) -> dict[str, object] | None:
    """What an opened row shows: its course, its entries, and where a shortfall could come from."""
    if category_id is None:
        return None
    if category_id not in {row.category_id for row in view.budget.rows}:
        raise NotFound("That category is not in the budget.")
    row = view.budget.row_of(category_id)
    return {
        "category": view.category(category_id),
        "row": row,
        "drawing": draw_spending(budgeting.course_of(view, category_id), g.household.home_currency),
        "entries": budgeting.entries_of(g.db, category_id, g.month),
        "dues": [due for due in dues_of_category(g.db, g.by, category_id, g.month) if due.state in ("awaited", "late")],
        "sources": budgeting.sources_for(view, category_id)[:8],
        "sentence": _aim_sentence(row),
        "seen": changes.version_now(g.db),
    }


def _aim_sentence(row: CategoryMonth) -> str:
    """The aim month by month, in words with this month's figures."""
    if row.expected_from is None:
        return "Nothing is expected of it: set an amount, and it carries on from that month."
    since = "set this month" if row.is_hand_set else f"set in {month_name(row.expected_from)} and carried on"
    carried = f", less {_money(row.carried_minor)} carried in" if row.carried_minor else ""
    return f"Month by month: {_money(row.expected_minor)} expected ({since}){carried}, so it needs {_money(row.need_minor)}."


@blueprint.get("/budget/selection")
def selection() -> str:
    """The foot bar for the rows chosen: the sum needed, the money there, what would remain."""
    ids = parse_ids(request.args, "category_id")
    filling = budgeting.filling_of(g.db, g.by, budgeting.budget_view(g.db, g.by, g.month), ids) if ids else None
    return render_template("budget/_foot.html", filling=filling, count=len(ids))


@blueprint.post("/budget/fill")
def fill() -> Response:
    """Fills the needs of the rows chosen, or of all, as far as the money goes."""
    done = budgeting.fill(g.db, g.by, g.month, parse_ids(request.form, "category_id"))
    filling = done.made
    if done.step_id is None:
        tell_problem("Nothing is left to fill" if not filling.needed_minor else "There is no money left to place")
    else:
        short = f"; {_money(filling.needed_minor - filling.placed_minor)} is still missing" if filling.is_short else ""
        tell(f"Placed {_money(filling.placed_minor)} into {len(filling.amounts)} categories{short}", done)
    return _back()


@blueprint.post("/budget/take-back")
def take_back() -> Response:
    """Returns what the rows chosen were given and have not spent."""
    done = budgeting.take_back(g.db, g.by, g.month, parse_ids(request.form, "category_id"))
    if done.step_id is None:
        tell_problem("Nothing placed this month is left to take back there")
    else:
        tell(f"Took back {_money(done.made)}", done)
    return _back()


@blueprint.post("/budget/<int:category_id>/expected")
def expect(category_id: int) -> Response:
    """Sets what a category is expected to take from this month on, every so many months, or once; empty clears the figure."""
    expect_as_typed(category_id, g.month, request.form.get("expected", ""))
    return _back(category_id)


def expect_as_typed(category_id: int, month: Month, text: str) -> None:
    """Sets what is typed into a field of an expected amount, and says so."""
    typed = parse_expectation(text, g.household.home_currency, g.reader.decimal_mark)
    amount, every = (typed.amount_minor, typed.every) if typed else (None, 1)
    done = budgeting.set_expected(g.db, g.by, category_id, month, amount, every=every, seen=parse_version(request.form))
    tell("The expected amount is set" if typed else "The former amount carries on", done)


@blueprint.post("/budget/<int:category_id>/placed")
def set_placed(category_id: int) -> Response:
    """Makes what is placed this month the amount typed; "+20" and "-20" add and take back."""
    text = request.form.get("placed", "").strip()
    amount = parse_money(request.form, "placed", g.household.home_currency)
    if text.startswith(("+", "-", "−")):
        done = budgeting.place(g.db, g.by, category_id, g.month, amount)
    else:
        done = budgeting.set_placed(g.db, g.by, category_id, g.month, amount, seen_minor=parse_seen_minor(request.form))
    if done.step_id:
        tell("Placed" if amount >= 0 else "Taken back", done)
    return _back()


@blueprint.post("/budget/<int:category_id>/shift")
def shift(category_id: int) -> Response:
    """Shifts money into this category from another."""
    from_id = parse_id(request.form, "from")
    amount = parse_money(request.form, "amount", g.household.home_currency)
    if amount < 0:
        raise InvalidInput("Say how much to shift, above zero.", field="amount")
    done = budgeting.shift(g.db, g.by, g.month, from_id, category_id, amount, request.form.get("reason", ""))
    tell(f"Shifted {_money(amount)}", done)
    return _back(category_id)


def _money(amount_minor: int) -> str:
    """An amount of the budget, which is kept in home currency."""
    return money(amount_minor, g.household.home_currency)


def _back(opened: int | None = None) -> Response:
    return redirect(url_for("budget.month", open=opened), code=303)
