"""The first page of an empty file: making the household. Story: tests/stories/test_first_hour.py."""

from flask import Blueprint, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import InvalidInput
from bolsa.services.clock import by_now
from bolsa.services.house import households
from bolsa.services.house.households import Household
from bolsa.web.forms import tell

blueprint = Blueprint("welcome", __name__, template_folder="templates")


@blueprint.get("/welcome")
def new() -> str | Response:
    """The form; a household that is there already leads to Today."""
    if g.household:
        return redirect(url_for("today.thread"))
    return _page({"currency": "EUR", "time_zone": "Europe/Lisbon"}, None)


@blueprint.post("/welcome")
def make() -> tuple[str, int] | Response:
    """Makes the household from the form."""
    form = request.form
    kept = Household(form.get("name", ""), form.get("currency", ""), form.get("time_zone", ""), None)
    members = form.get("members", "").split(",")
    try:
        if not any(name.strip() for name in members):
            raise InvalidInput("Name at least one person.", field="members")
        households.make_household(g.db, by_now(g.db), kept, members, starter=form.get("starter", ""))
    except InvalidInput as error:
        return _page(form, error), 400
    tell("The household is made. Add your first account")
    return redirect(url_for("accounts.table"), code=303)


def _page(typed, error: InvalidInput | None) -> str:
    return render_template(
        "welcome/new.html", typed=typed, error=error, zones=households.list_zones(), starters=households.STARTERS
    )
