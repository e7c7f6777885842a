"""The long view: whether the money lasts, what would mend it, cases beside each other. Story: tests/stories/test_long_view.py."""

from dataclasses import replace

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.ahead.fan import draw_fan
from bolsa.core.ahead.mending import covered_until, describe_person
from bolsa.core.ahead.plan import with_event
from bolsa.core.money import decimal_text
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput, NotFound
from bolsa.services import changes
from bolsa.services.ahead import plans
from bolsa.services.ahead.plans import CaseView
from bolsa.web.ahead.blueprint import blueprint
from bolsa.web.ahead.course import draw_long
from bolsa.web.ahead.plan_form import as_typed, parse_plan
from bolsa.web.csv_reply import csv_reply
from bolsa.web.forms import parse_id, parse_version, tell

MOST_LINES = 4


@blueprint.get("/ahead")
def page() -> str:
    """The first case, or the one that is asked for: its years as a picture, the year it falls below zero, the other cases."""
    books = plans.read_books(g.db, g.by)
    views = plans.list_views(g.db, books)
    if not views:
        return _begin(None)
    view = _chosen(views)
    others = [one for one in views if one.case.id != view.case.id]
    fan = draw_fan(view.case.plan, view.start, view.years)
    opened = request.args.get("year", type=int)
    year = next((one for one in view.years if one.year == opened), view.below)
    return render_template(
        "ahead/long_view.html",
        view=view,
        views=views,
        books=books,
        drawing=draw_long(view, others[:MOST_LINES], fan, books.home),
        fan=fan,
        year=year,
        until=covered_until(view.years),
    )


def _begin(error: InvalidInput | None) -> str:
    return render_template("ahead/begin.html", people=plans.list_members(g.db), error=error, typed=request.form)


def _chosen(views: list[CaseView]) -> CaseView:
    wanted = request.args.get("case", type=int)
    found = next((view for view in views if view.case.id == wanted), None)
    if wanted is not None and found is None:
        raise NotFound("There is no such case.")
    return found or views[0]


@blueprint.post("/ahead")
def begin() -> tuple[str, int] | Response:
    """Begins the long view with the years of birth that are typed."""
    born = {}
    try:
        for one in plans.list_members(g.db):
            text = request.form.get(f"born-{one.id}", "").strip()
            if text and not is_number(text):
                raise InvalidInput("A year of birth is like 1984.", field=f"born-{one.id}")
            if text:
                born[one.id] = int(text)
        done = plans.begin(g.db, g.by, born)
    except InvalidInput as error:
        return _begin(error), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.page"), code=303)


@blueprint.get("/ahead/<int:case_id>/mends")
def mends(case_id: int) -> str:
    """The smallest single changes that make a case hold, as a part of its page or a page of its own."""
    books = plans.read_books(g.db, g.by)
    view = plans.get_view(g.db, books, case_id)
    found = plans.list_mends(view)
    in_page = request.headers.get("HX-Request") is not None  # then the headline there says how many there are
    return render_template(
        "ahead/_mends.html" if in_page else "ahead/mends.html",
        view=view,
        mends=found,
        books=books,
        works_until=describe_person,
        counted=in_page,
        enough=sum(mend.is_enough for mend in found),
    )


@blueprint.post("/ahead/<int:case_id>/mend")
def mend(case_id: int) -> Response:
    """Keeps a mending change as a new case."""
    form = request.form
    event_id, member_id = (number_of(form.get(name, "")) or 0 for name in ("event", "member"))
    done = plans.mend_case(g.db, g.by, case_id, form.get("kind", ""), event_id, member_id, form.get("name", ""))
    tell(done.sentence, done)
    return redirect(url_for("ahead.page", case=done.made), code=303)


@blueprint.get("/ahead/<int:case_id>/plan")
def plan(case_id: int) -> str:
    """The plan of a case, to be changed."""
    return _plan_page(case_id, None)


def _plan_page(case_id: int, error: InvalidInput | None) -> str:
    case, books = plans.get_case(g.db, case_id), plans.read_books(g.db, g.by)
    typed = request.form if error else as_typed(case.plan, books.home)
    seen = changes.version_of(g.db, "plan_case", case_id)
    return render_template(
        "ahead/plan.html", case=case, books=books, typed=typed, error=error, seen=seen, members=plans.list_members(g.db)
    )


@blueprint.post("/ahead/<int:case_id>/plan")
def keep_plan(case_id: int) -> tuple[str, int] | Response:
    """Keeps the plan as it is typed, in this case or as a new one."""
    form, case = request.form, plans.get_case(g.db, case_id)
    try:
        typed = parse_plan(form, case.plan, plans.list_members(g.db), g.household.home_currency)
        if form.get("as_new"):
            done = plans.add_case(g.db, g.by, form.get("name", ""), typed)
        else:
            done = plans.change_plan(g.db, g.by, case_id, typed, seen=parse_version(form), name=form.get("name", ""))
    except InvalidInput as error:
        return _plan_page(case_id, error), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.page", case=done.made or case_id), code=303)


@blueprint.post("/ahead/<int:case_id>/events")
def toggle_event(case_id: int) -> Response:
    """Leaves something planned out, or takes it in again."""
    case, event_id = plans.get_case(g.db, case_id), parse_id(request.form, "event")
    event = next((one for one in case.plan.events if one.id == event_id), None)
    if event is None:
        raise NotFound("That is not planned any more.")
    done = plans.change_plan(g.db, g.by, case_id, with_event(case.plan, replace(event, is_out=not event.is_out)))
    tell(f"{event.name} is {'in again' if event.is_out else 'left out'}", done)
    return redirect(url_for("ahead.page", case=case_id), code=303)


@blueprint.post("/ahead/<int:case_id>/first")
def put_first(case_id: int) -> Response:
    """Makes a case the one the others are compared with."""
    done = plans.put_first(g.db, g.by, case_id)
    tell(done.sentence, done)
    return redirect(url_for("ahead.page"), code=303)


@blueprint.post("/ahead/<int:case_id>/drop")
def drop(case_id: int) -> Response:
    """Drops a case."""
    done = plans.remove_case(g.db, g.by, case_id)
    tell(done.sentence, done)
    return redirect(url_for("ahead.page"), code=303)


@blueprint.get("/ahead/<int:case_id>.csv")
def as_csv(case_id: int) -> FlaskResponse:
    """The years of a case as CSV."""
    books = plans.read_books(g.db, g.by)
    view = plans.get_view(g.db, books, case_id)
    pots = [pot.name for pot in view.case.plan.pots]
    rows = []
    for one in view.years:
        amounts = (
            sum(one.income), sum(one.pensions), one.spending_minor, sum(cost for _, cost in one.events), one.debts_minor,
            one.tax_minor, sum(one.earned), sum(one.drawn), one.missing_minor, one.total_minor, *one.held,
        )  # fmt: skip
        rows.append((str(one.year), *(decimal_text(x, books.home) for x in amounts)))
    heads = [
        "year",
        "income",
        "pensions",
        "spending",
        "planned",
        "debts",
        "tax",
        "earned",
        "drawn",
        "missing",
        "at its end",
        *pots,
    ]
    return csv_reply("long-view", heads, rows)
