"""A trial of the year: begun, changed by the whole category or aim, kept, dropped, put by. Story: tests/stories/test_year.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.months import Month
from bolsa.services.budget import trials, year
from bolsa.services.sorting import categories
from bolsa.web.budget.aims import read_aim
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.year import back
from bolsa.web.filters import count
from bolsa.web.forms import parse_id, tell


@blueprint.post("/budget/trial")
def begin_trial() -> Response:
    """Begins a trial, or goes on with the one that has no name."""
    made = trials.begin(g.db, g.by).made
    return redirect(url_for("budget.year_page", first=request.form.get("first"), trial=made), code=303)


@blueprint.get("/budget/trial/<int:trial_id>")
def trial_page(trial_id: int) -> str:
    """What a trial changes, and other changes than those of single cells: a category given up, another aim."""
    trial = trials.get_trial(g.db, trial_id)
    view = year.year_view(g.db, g.by, Month(g.month.year, 1), trial)
    return render_template(
        "budget/trial.html",
        trial=trial,
        view=view,
        names=categories.names_of(g.db),
        rows=[(category, row) for group in view.groups for category, row in group.rows],
    )


@blueprint.post("/budget/trial/<int:trial_id>/without")
def try_without(trial_id: int) -> Response:
    """Does without a category from a month on."""
    month = Month.parse(request.form.get("from", "") or str(g.present))
    done = trials.try_without(g.db, g.by, trial_id, parse_id(request.form, "category_id"), month)
    tell(done.sentence, done)
    return _to(trial_id)


@blueprint.post("/budget/trial/<int:trial_id>/aim")
def try_other_aim(trial_id: int) -> Response:
    """Gives a category another aim."""
    aim, day, _ = read_aim(request.form)
    done = trials.try_aim(g.db, g.by, trial_id, parse_id(request.form, "category_id"), aim, day)
    tell(done.sentence, done)
    return _to(trial_id)


@blueprint.post("/budget/trial/<int:trial_id>/let-be")
def let_be(trial_id: int) -> Response:
    """Lets a category be as it is kept."""
    done = trials.let_be(g.db, g.by, trial_id, parse_id(request.form, "category_id"))
    tell(done.sentence, done)
    return _to(trial_id)


@blueprint.post("/budget/trial/<int:trial_id>/keep")
def keep_trial(trial_id: int) -> Response:
    """Makes the plan as the trial has it."""
    done = trials.keep(g.db, g.by, trial_id)
    tell(f"Kept what was tried of {count(done.made, 'category', 'categories')}", done)
    return redirect(url_for("budget.year_page", first=request.form.get("first")), code=303)


@blueprint.post("/budget/trial/<int:trial_id>/drop")
def drop_trial(trial_id: int) -> Response:
    """Forgets the trial."""
    tell("The trial is dropped", trials.drop(g.db, g.by, trial_id))
    return redirect(url_for("budget.year_page", first=request.form.get("first")), code=303)


@blueprint.post("/budget/trial/<int:trial_id>/put-by")
def put_trial_by(trial_id: int) -> Response:
    """Puts the trial by under a name."""
    done = trials.put_by(g.db, g.by, trial_id, request.form.get("name", ""))
    tell(done.sentence, done)
    return back()


def _to(trial_id: int) -> Response:
    return redirect(url_for("budget.trial_page", trial_id=trial_id), code=303)
