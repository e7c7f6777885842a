"""Budget, the month: needs and what is placed for them. Stories: tests/stories/test_sitting.py, test_budget.py, test_placing.py.

An opened row's other forms stand in shifting.py (shifting, the log) and aims.py (aims, goals, priorities); the end of a month in
closing.py.
"""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.budget.closed import changed_since
from bolsa.core.budget.expecting import parse_expectation
from bolsa.core.budget.filling import Filling
from bolsa.core.budget.progress import progress_in
from bolsa.core.months import Month
from bolsa.errors import InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.budget import aims, budgeting, closing, expecting, placing, shifting
from bolsa.services.budget.budgeting import BudgetView
from bolsa.services.due.dues import dues_of_category, sum_due
from bolsa.services.ledger import entries
from bolsa.services.sorting import categories
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.course import draw_spending
from bolsa.web.budget.needs import draw_needs
from bolsa.web.budget.sentences import aim_sentence, progress_sentence
from bolsa.web.budget.track import draw_track
from bolsa.web.filters import money
from bolsa.web.forms import parse_id, parse_ids, parse_money, parse_seen_minor, parse_version, tell, tell_problem

MOST_SOURCES = 8


@blueprint.get("/budget")
def month() -> str:
    """The month's groups and rows; `open` names the row that is opened in place, `without` the one without a plan."""
    view = budgeting.budget_view(g.db, g.by, g.month)
    progress = {category.id: progress_in(plan, g.month) for category, plan in view.plans}
    closed = closing.find_closed(g.db, g.month)
    promised = shifting.promised_from(g.db, g.by, view)
    return render_template(
        "budget/month.html",
        view=view,
        due=sum_due(g.db, g.by, g.month),
        progress=progress,
        track=lambda row: draw_track(row, progress[row.category_id]),
        opened=_opened(view, request.args.get("open", type=int)),
        without=_without(view, request.args.get("without", type=int)),
        promised=promised,
        promised_minor=sum(amount for _, _, amount in promised),
        over_minor=sum(row.over_minor for row in view.budget.rows),
        closed=closed,
        since=changed_since(closed, view.budget.rows) if closed else [],
        months_covered=view.budget.covered_until - g.month if view.budget.covered_until else 0,
    )


def _opened(view: BudgetView, category_id: int | None) -> dict[str, object] | None:
    """What an opened row shows: its aim and course, its entries and dues, and where a shortfall could come from."""
    if category_id is None:
        return None
    plan, row = view.plan(category_id), view.budget.row_of(category_id)
    category, progress = view.category(category_id), progress_in(plan, g.month)
    kept = aims.get_aim(g.db, category_id)
    course = budgeting.course_of(view, category_id)
    short = row.over_minor or row.still_needs_minor
    spent = sum(max(0, one.spent_minor) for one in view.budget.rows)
    return {
        "category": category,
        "row": row,
        "drawing": draw_spending(course, g.household.home_currency),
        "placings": draw_needs(course, g.household.home_currency, placed=True) if progress else None,
        "entries": budgeting.entries_of(g.db, category_id, g.month),
        "dues": [due for due in dues_of_category(g.db, g.by, category_id, g.month) if due.state in ("awaited", "late")],
        "sources": shifting.sources_for(g.db, g.by, view, category_id, short)[:MOST_SOURCES],
        "short_minor": short,
        "sentence": aim_sentence(plan, row, kept),
        "progress": progress_sentence(progress, kept) if progress else "",
        "aim": kept,
        "accounts": aims.list_aimable(g.db),
        "share": round(100 * row.spent_minor / spent, 1) if spent and row.spent_minor > 0 else None,
        "log": [step for step in shifting.list_log(g.db, g.month) if _concerns(step, category_id)][:6],
        "swept": sum(placing.small_change_for(g.db, view, category_id).values()),
        "seen": changes.version_now(g.db),
        "usual": view.usual.get(category_id),
    }


def _concerns(step: shifting.LoggedStep, category_id: int) -> bool:
    return any(one.category_id == category_id for one in step.placings)


def _without(view: BudgetView, category_id: int | None) -> dict[str, object] | None:
    """What an opened line of spending without a plan shows: its entries, and the categories they can be moved to."""
    if category_id is None:
        return None
    one = next((one for one in view.outside if one.category_id == category_id), None)
    if one is None:
        raise NotFound("Nothing was spent there without a plan.")
    return {
        "one": one,
        "entries": budgeting.entries_of(g.db, category_id, g.month),
        "category": categories.get_category(g.db, category_id),
        "groups": categories.list_by_group(g.db),
    }


@blueprint.get("/budget/selection")
def selection() -> str:
    """The foot bar for the rows chosen: the sum needed, the money there, what would remain, and what each other way would
    place."""
    ids = parse_ids(request.args, "category_id")
    if not ids:
        return render_template("budget/_foot.html", filling=None)
    view = budgeting.budget_view(g.db, g.by, g.month)
    ways: dict[str, Filling] = {}
    for way in placing.WAYS:
        try:
            ways[way] = placing.filling_of(g.db, g.by, view, ids, way)
        except InvalidInput:  # nothing is usual yet
            continue
    return render_template("budget/_foot.html", filling=ways.pop("needs"), ways=ways, words=placing.WAYS, count=len(ids))


@blueprint.post("/budget/fill")
def fill() -> Response:
    """Fills the rows chosen, or all, as far as the money goes: their needs, or in another way."""
    way = request.form.get("way", "needs")
    done = placing.fill(g.db, g.by, g.month, parse_ids(request.form, "category_id"), way)
    filling = done.made
    if done.step_id is None:
        nothing = "Nothing is left to fill" if way == "needs" else f"They have {placing.WAYS[way]} already"
        tell_problem(nothing if not filling.needed_minor else "There is no money left to place")
    else:
        short = f"; {_money(filling.needed_minor - filling.placed_minor)} is still missing" if filling.is_short else ""
        tell(f"Placed {_money(filling.placed_minor)} into {len(filling.amounts)} categories{short}", done)
    return _back()


@blueprint.post("/budget/take-back")
def take_back() -> Response:
    """Returns what the rows chosen were given and have not spent."""
    done = placing.take_back(g.db, g.by, g.month, parse_ids(request.form, "category_id"))
    if done.step_id is None:
        tell_problem("Nothing placed this month is left to take back there")
    else:
        tell(f"Took back {_money(done.made)}", done)
    return _back()


@blueprint.post("/budget/expect-usual")
def expect_usual() -> Response:
    """Expects the usual amounts from this month on: of every row of which nothing is expected, or of one."""
    chosen = parse_ids(request.form, "category_id")
    usual = budgeting.budget_view(g.db, g.by, g.month).usual
    wanted = {id_: amount for id_, amount in usual.items() if not chosen or id_ in chosen}
    with changes.change(g.db, g.by) as done:
        for category_id, amount in wanted.items():
            expecting.set_expected(g.db, g.by, category_id, g.month, amount, seen=parse_version(request.form))
        done.sentence = f"Took {len(wanted)} usual {'amount' if len(wanted) == 1 else 'amounts'} from {g.month}"
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("Something is expected of every category already")
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
    done = expecting.set_expected(g.db, g.by, category_id, month, amount, every=every, seen=parse_version(request.form))
    tell("The expected amount is set" if typed else "The former amount carries on", done)


@blueprint.post("/budget/<int:category_id>/placed")
def set_placed(category_id: int) -> Response:
    """Makes what is placed this month the amount typed; "+20" and "-20" add and take back."""
    text = request.form.get("placed", "").strip()
    amount = parse_money(request.form, "placed", g.household.home_currency)
    if text.startswith(("+", "-", "−")):
        done = placing.place(g.db, g.by, category_id, g.month, amount)
    else:
        done = placing.set_placed(g.db, g.by, category_id, g.month, amount, seen_minor=parse_seen_minor(request.form))
    if done.step_id:
        tell("Placed" if amount >= 0 else "Taken back", done)
    return _back()


@blueprint.post("/budget/<int:category_id>/sweep")
def sweep(category_id: int) -> Response:
    """Shifts the small change every other category has left into this one."""
    done = placing.sweep(g.db, g.by, g.month, [], category_id)
    tell(f"Swept {_money(done.made)} of small change together", done)
    return _back(category_id)


@blueprint.post("/budget/<int:category_id>/rules")
def set_rules(category_id: int) -> Response:
    """Sets what becomes of what is left at the month's end, whose allowance the category is, and its note."""
    category = categories.get_category(g.db, category_id)
    rules = {
        "carries": request.form.get("carries") == "1",
        "carries_minus": request.form.get("carries_minus") == "1",
        "member_id": parse_id(request.form, "member_id") if request.form.get("member_id") else None,
        "note": request.form.get("note", "").strip(),
    }
    done = categories.change_category(g.db, g.by, category_id, category.group, seen=parse_version(request.form), **rules)
    if done.step_id:
        tell(f"The rules of {category.name} are kept", done)
    return _back(category_id)


@blueprint.post("/budget/<int:category_id>/move")
def move_entry(category_id: int) -> Response:
    """Moves an entry of spending without a plan to a category."""
    done = entries.set_category(g.db, g.by, parse_id(request.form, "entry_id"), parse_id(request.form, "to"))
    if done.step_id:
        tell(done.sentence, done)
    still = any(one.category_id == category_id for one in budgeting.budget_view(g.db, g.by, g.month).outside)
    return redirect(url_for("budget.month", without=category_id if still else None), code=303)


@blueprint.post("/budget/<int:category_id>/plan")
def plan(category_id: int) -> Response:
    """Takes a category that was kept out of the budget into it."""
    category = categories.get_category(g.db, category_id)
    done = categories.change_category(g.db, g.by, category_id, category.group, in_budget=True, retired=False)
    tell(f"{category.name} is in the budget now", done)
    return _back(category_id)


def _money(amount_minor: int) -> str:
    """An amount of the budget, which is kept in home currency."""
    return money(amount_minor, g.household.home_currency)


def _back(opened: int | None = None) -> Response:
    return redirect(url_for("budget.month", open=opened), code=303)
