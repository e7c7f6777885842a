"""Aims set from an opened row, the goals that are built up, and the order in which money is given. Story:
tests/stories/test_aims.py."""

from datetime import date

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.budget.aims import Aim
from bolsa.core.whole_numbers import number_of
from bolsa.errors import InvalidInput
from bolsa.services.budget import aims, budgeting
from bolsa.services.ledger.attaching import MOST_BYTES
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.needs import draw_needs
from bolsa.web.budget.track import draw_track
from bolsa.web.forms import parse_day, parse_ids, parse_money, parse_version, tell


def read_aim(form: MultiDict) -> tuple[Aim, date | None, list[int]]:
    """The aim a form says, the day it is to be there by, and the accounts it stands on. Raises: InvalidInput naming the field."""
    kind, home = form.get("aim", "month"), g.household.home_currency
    if kind == "build":
        is_monthly = form.get("way") == "each"
        repeat = form.get("repeat", "").strip()
        every = number_of(repeat) if repeat and not is_monthly else 0
        if every is None:
            raise InvalidInput(f"“{repeat[:12]}” is no number of months.", field="repeat")
        each = parse_money(form, "each", home) if is_monthly else None
        day = None if is_monthly else parse_day(form, "by", g.by.today, ahead=True)
        return Aim(kind, parse_money(form, "amount", home), each_minor=each, repeat=every), day, parse_ids(form, "account_id")
    if kind == "keep":
        return Aim(kind, parse_money(form, "keep", home)), None, parse_ids(form, "account_id")
    if kind == "steady":
        return Aim(kind, parse_money(form, "steady", home)), None, []
    return Aim(kind), None, []


@blueprint.get("/budget/<int:category_id>/aim")
def try_aim(category_id: int) -> str:
    """What an aim would need in the coming twelve months, before it is kept: a part of an opened row."""
    view = budgeting.budget_view(g.db, g.by, g.month)
    try:
        aim, day, account_ids = read_aim(request.args)
        course = aims.try_aim(g.db, g.by, view, category_id, aim, day, account_ids)
    except InvalidInput as error:
        return render_template("budget/_needs.html", error=error, drawing=None)
    return render_template("budget/_needs.html", error=None, drawing=draw_needs(course, g.household.home_currency))


@blueprint.post("/budget/<int:category_id>/aim")
def set_aim(category_id: int) -> Response:
    """Gives the category the aim the form says."""
    aim, day, account_ids = read_aim(request.form)
    done = aims.set_aim(g.db, g.by, category_id, aim, day, account_ids, seen=parse_version(request.form))
    if done.step_id:
        tell(done.sentence, done)
    return redirect(url_for("budget.month", open=category_id), code=303)


@blueprint.get("/budget/goals")
def goals() -> str:
    """What is built up, in order of priority, each with its way, its months, and when it is reached."""
    found = aims.list_goals(g.db, g.by, g.month)
    home = g.household.home_currency
    return render_template(
        "budget/goals.html",
        goals=[(goal, draw_track(goal.row, goal.progress), draw_needs(list(goal.course), home, placed=True)) for goal in found],
        monthly=sum(goal.row.need_minor for goal in found),
    )


@blueprint.post("/budget/<int:category_id>/sign")
def set_sign(category_id: int) -> Response:
    """Gives a goal a sign of a few letters, or a picture."""
    upload = request.files.get("picture")
    content = upload.read(MOST_BYTES + 1) if upload and upload.filename else None
    done = aims.set_sign(g.db, g.by, category_id, request.form.get("mark", ""), content)
    if done.step_id:
        tell(done.sentence, done)
    return redirect(url_for("budget.goals"), code=303)


@blueprint.get("/budget/<int:category_id>/sign")
def sign(category_id: int) -> FlaskResponse:
    """A goal's picture, small."""
    reply = FlaskResponse(aims.get_sign_picture(g.db, category_id), mimetype="image/png")
    reply.headers["Cache-Control"] = "private, no-cache"
    return reply


@blueprint.get("/budget/order")
def order() -> str:
    """The categories in the order in which money is placed; the last is the first to give up."""
    return render_template("budget/order.html", view=budgeting.budget_view(g.db, g.by, g.month))


@blueprint.post("/budget/order")
def set_order() -> Response:
    """Keeps the order of the list; `move` with `way` moves one of it up, down, to the top or the end."""
    ids = parse_ids(request.form, "category_id")
    moved, way = number_of(request.form.get("move", "")), request.values.get("way", "")
    if moved in ids:
        at = ids.index(moved)
        place = {"up": at - 1, "down": at + 1, "top": 0, "end": len(ids)}.get(way, at)
        ids.insert(max(0, place), ids.pop(at))
    done = aims.set_priorities(g.db, g.by, ids)
    if done.step_id:
        tell(done.sentence, done)
    return redirect(url_for("budget.order", at=moved), code=303)
