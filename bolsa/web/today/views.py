"""Today: the thread of five knots, and beginning, leaving and finishing a sitting. Story: tests/stories/test_sitting.py."""

from flask import Blueprint, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.due.rhythm import in_words
from bolsa.services.sorting import categories
from bolsa.services.today import sittings
from bolsa.web.forms import tell
from bolsa.web.frame import areas
from bolsa.web.today.curve import draw_curve

blueprint = Blueprint("today", __name__, template_folder="templates")

PLACES = {
    "bring": "bringing.bring_in",
    "sort": "sorting.piles",
    "check": "accounts.table",
    "place": "budget.month",
    "look": "today.thread",
}


@blueprint.after_app_request
def note_place(response: Response) -> Response:
    """Notes where an open sitting is, by the area in which something was done."""
    here = areas().get(request.blueprint or "")
    if request.method == "POST" and "db" in g and here and here.step:
        sittings.leave_at(g.db, here.step)
    return response


@blueprint.get("/")
def thread() -> str:
    """The five steps as they truly stand."""
    view = sittings.today_view(g.db, g.by, g.present)
    return render_template(
        "today/thread.html",
        view=view,
        drawing=draw_curve(view.ahead, g.household.home_currency),
        names=categories.names_of(g.db),
        in_words=in_words,
    )


@blueprint.post("/sitting/begin")
def begin() -> Response:
    """Begins a sitting, or goes on with the open one, at the first step with something to do."""
    sittings.begin_sitting(g.db, g.by)
    step = sittings.today_view(g.db, g.by, g.present).next_step or "look"
    sittings.leave_at(g.db, step)
    return redirect(url_for(PLACES[step]), code=303)


@blueprint.post("/sitting/finish")
def finish() -> Response:
    """Finishes the open sitting."""
    sittings.finish_sitting(g.db, g.by)
    tell("The sitting is finished")
    return redirect(url_for("today.thread"), code=303)
