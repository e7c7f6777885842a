"""Shifting money into an opened row, taking back what was promised, and the log. Story: tests/stories/test_placing.py."""

import re

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import InvalidInput
from bolsa.services.budget import budgeting, shifting
from bolsa.services.sorting import categories
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.filters import money
from bolsa.web.forms import parse_money, tell, tell_problem

_PART = re.compile(r"(\d{1,18}):(\d{1,18})")


@blueprint.post("/budget/<int:category_id>/shift")
def shift(category_id: int) -> Response:
    """Shifts money into this category, from one other or from several together."""
    sources = _sources(category_id)
    reason = request.form.get("reason", "")
    done = shifting.shift_several(g.db, g.by, g.month, sources, category_id, reason)
    amount = money(sum(amount for _, amount in sources), g.household.home_currency)
    tell(f"Shifted {amount}", done)
    return redirect(url_for("budget.month", open=category_id), code=303)


def _sources(category_id: int) -> list[tuple[int, int]]:
    """What the form names: one category, which gives the amount typed, or several, which give what was proposed (7:1000,9:450) as
    far as the amount typed needs it."""
    parts = [(int(id_), int(minor)) for id_, minor in _PART.findall(request.form.get("from", ""))]
    amount = parse_money(request.form, "amount", g.household.home_currency)
    if amount <= 0:
        raise InvalidInput("Say how much to shift, above zero.", field="amount")
    if not parts:
        raise InvalidInput("Say where the money comes from.", field="from")
    if len(parts) == 1:
        return [(parts[0][0], amount)]
    if amount > sum(minor for _, minor in parts):
        raise InvalidInput("Together they cannot spare so much.", field="amount")
    given, missing = [], amount
    for id_, minor in parts:
        given.append((id_, min(minor, missing)))
        missing -= given[-1][1]
    return [(id_, minor) for id_, minor in given if minor]


@blueprint.post("/budget/promised")
def take_back_promised() -> Response:
    """Takes back what was promised and is not there, from where the page proposes it."""
    done = shifting.take_back_promised_money(g.db, g.by, g.month)
    if done.step_id:
        tell(f"Took back {money(done.made, g.household.home_currency)}", done)
    else:
        tell_problem("Nothing that was placed can be taken back: more was spent than there was")
    return redirect(url_for("budget.month"), code=303)


@blueprint.get("/budget/log")
def log() -> str:
    """What was placed, taken back and shifted in the month and stands, act by act."""
    steps = shifting.list_log(g.db, g.month)
    return render_template(
        "budget/log.html",
        steps=steps,
        placed=sum(step.amount_minor for step in steps),
        names=categories.names_of(g.db),
        view=budgeting.budget_view(g.db, g.by, g.month),
    )
