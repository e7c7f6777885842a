"""How an account counts its shares, and in which order its lots are taken. Story: tests/stories/test_holdings.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import BolsaError, InvalidInput
from bolsa.services.holdings import counting
from bolsa.web.forms import parse_optional_money, tell
from bolsa.web.holdings.blueprint import blueprint


@blueprint.get("/holdings/accounts/<int:account_id>")
def account(account_id: int) -> str:
    """How an account counts, with what each way would make of it."""
    return _page(account_id, None)


def _page(account_id: int, error: BolsaError | None) -> str:
    return render_template(
        "holdings/account.html", counted=counting.counting_of(g.db, g.by, account_id), error=error, typed=request.form
    )


@blueprint.post("/holdings/accounts/<int:account_id>/count")
def count_by(account_id: int) -> tuple[str, int] | Response:
    """Counts an account by its shares and its cash, or by noted values."""
    try:
        shown = counting.counting_of(g.db, g.by, account_id)
        by_shares = request.form.get("way") == "shares"
        cash = parse_optional_money(request.form, "cash", shown.account.currency) or 0
        done = counting.count_by(g.db, g.by, account_id, shares=by_shares, cash_minor=cash)
    except InvalidInput as error:
        return _page(account_id, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.account", account_id=account_id), code=303)


@blueprint.post("/holdings/accounts/<int:account_id>/method")
def choose_method(account_id: int) -> Response:
    """Says in which order lots are taken."""
    done = counting.choose_method(g.db, g.by, account_id, request.form.get("method", ""))
    tell(done.sentence, done)
    return redirect(url_for("holdings.account", account_id=account_id), code=303)
