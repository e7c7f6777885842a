"""The end of a month: its checklist, closing it, and what changed since. Story: tests/stories/test_month_end.py."""

from flask import g, redirect, render_template, url_for
from werkzeug.wrappers import Response

from bolsa.services.budget import budgeting, closing
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.filters import month_name
from bolsa.web.forms import tell

# Where what is open on the checklist is done: (words, endpoint).
DONE_AT = {
    "bring": ("Bring it in", "bringing.bring_in"),
    "sort": ("Sort it", "sorting.piles"),
    "check": ("Check them", "accounts.table"),
    "below": ("Shift money there", "budget.month"),
    "place": ("Place it", "budget.month"),
    "values": ("Note them", "accounts.table"),
}


@blueprint.get("/budget/end")
def month_end() -> str:
    """The checklist of the month, and what changed in it since it was closed."""
    view = budgeting.budget_view(g.db, g.by, g.month)
    return render_template("budget/end.html", view=view, closing=closing.closing_of(g.db, g.by, view), done_at=DONE_AT)


@blueprint.post("/budget/end/close")
def close_month() -> Response:
    """Closes the month as it stands."""
    tell(f"{month_name(g.month)} is closed", closing.close_month(g.db, g.by, g.month))
    return redirect(url_for("budget.month_end"), code=303)


@blueprint.post("/budget/end/open")
def open_month() -> Response:
    """Opens the month again."""
    tell(f"{month_name(g.month)} is open again", closing.open_month(g.db, g.by, g.month))
    return redirect(url_for("budget.month_end"), code=303)


@blueprint.post("/budget/end/anew")
def close_anew() -> Response:
    """Takes the closed month as it stands now."""
    tell(f"{month_name(g.month)} is closed as it stands now", closing.close_anew(g.db, g.by, g.month))
    return redirect(url_for("budget.month_end"), code=303)
