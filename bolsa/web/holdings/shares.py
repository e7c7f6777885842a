"""Shares here against shares there: suspects, cures, and what moved them. Story: tests/stories/test_shares.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.holdings.shares import parse_shares
from bolsa.core.holdings.trades import KIND_WORDS
from bolsa.errors import InvalidInput
from bolsa.services.holdings import shares, trading
from bolsa.web.filters import most_places
from bolsa.web.forms import parse_day, parse_id, tell
from bolsa.web.holdings.blueprint import blueprint

MOVES_SHOWN = 60
NEW_ROWS = 2  # rows for securities that are not here yet


@blueprint.get("/books/<int:account_id>/shares", endpoint="shares")
def shares_of_account(account_id: int) -> str:
    """An account's securities: shares here and there, the difference, what may explain it; and every move."""
    return _page(account_id, None)


def _page(account_id: int, error: InvalidInput | None) -> str:
    page = shares.shares_page(g.db, g.by, account_id)
    figures = [e8 for h in page.holdings for e8 in (h.now_e8, h.here_e8, h.missing_e8, h.declared.shares_e8 if h.declared else 0)]
    places = {"places": most_places(figures), "move_places": most_places(m.shares_e8 for m, _ in page.moves[:MOVES_SHOWN])}
    shown = {"kinds": KIND_WORDS, "most": MOVES_SHOWN, "new_rows": NEW_ROWS, "may_hold": trading.may_hold_shares(page.account)}
    return render_template("holdings/shares.html", page=page, error=error, typed=request.form, **shown, **places)


@blueprint.post("/books/<int:account_id>/shares")
def note_positions(account_id: int) -> tuple[str, int] | Response:
    """Notes the institution's list of a day."""
    form = request.form
    try:
        day = parse_day(form, "listed_on", g.by.today)
        done = shares.note_positions(g.db, g.by, account_id, day, _listed(form))
    except InvalidInput as error:
        return _page(account_id, error), 400
    tell("The list is noted", done)
    return _back(account_id)


def _listed(form: MultiDict) -> list[tuple[str, str, int]]:
    """The securities of the form whose shares are filled in. Raises: InvalidInput naming the row."""
    listed = []
    for i, (name, code, text) in enumerate(
        zip(form.getlist("listed"), form.getlist("code"), form.getlist("there"), strict=False)
    ):
        if text.strip() and not name.strip():
            raise InvalidInput("Write which security these are shares of.", field=f"there-{i}")
        if text.strip():
            listed.append((name, code, parse_shares(text, decimal_mark=g.reader.decimal_mark, field=f"there-{i}")))
    return listed


@blueprint.post("/books/<int:account_id>/shares/cure")
def cure_shares(account_id: int) -> Response:
    """Does what a suspect's cure says."""
    security_id = parse_id(request.form, "security_id")
    done = shares.cure(g.db, g.by, account_id, security_id, request.form.get("key", ""))
    tell(done.sentence, done)
    return _back(account_id)


@blueprint.post("/books/<int:account_id>/shares/forget")
def forget_positions(account_id: int) -> Response:
    """Forgets what was declared of a security."""
    done = shares.forget_positions(g.db, g.by, account_id, parse_id(request.form, "security_id"))
    tell("What was listed of it is forgotten", done)
    return _back(account_id)


def _back(account_id: int) -> Response:
    return redirect(url_for("holdings.shares", account_id=account_id), code=303)
