"""A case carried out: its aims and reminders shown, chosen, and kept in one step. Story: tests/stories/test_long_view.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import Conflict, InvalidInput
from bolsa.services.ahead import carrying_out, plans
from bolsa.services.ahead.carrying_out import LEAVE, NEW
from bolsa.services.sorting import categories
from bolsa.web.ahead.blueprint import blueprint
from bolsa.web.forms import tell


@blueprint.get("/ahead/<int:case_id>/do")
def to_do(case_id: int) -> str:
    """What a case asks one to do, to be chosen from."""
    return _page(case_id, None)


def _page(case_id: int, error: InvalidInput | Conflict | None) -> str:
    return render_template(
        "ahead/to_do.html",
        case=plans.get_case(g.db, case_id),
        to_do=carrying_out.what_to_do(g.db, g.by, case_id),
        category_groups=categories.list_by_group(g.db),
        error=error,
        typed=request.form,
        new=NEW,
        leave=LEAVE,
    )


@blueprint.post("/ahead/<int:case_id>/do")
def do(case_id: int) -> tuple[str, int] | Response:
    """Puts the chosen aims into the budget and makes the chosen reminders."""
    form = request.form
    aims = {name.removeprefix("aim-"): choice for name, choice in form.items() if name.startswith("aim-")}
    try:
        done = carrying_out.carry_out(g.db, g.by, case_id, aims, set(form.getlist("reminder")))
    except (InvalidInput, Conflict) as error:
        return _page(case_id, error), 400
    tell(done.sentence, done)
    return redirect(url_for("ahead.page", case=case_id), code=303)
