"""Values of apart accounts, and the rates of foreign currencies. Stories: tests/stories/test_accounts.py."""

from flask import current_app, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import BolsaError, InvalidInput
from bolsa.services import market, valuing
from bolsa.web.books.blueprint import blueprint
from bolsa.web.books.values_course import draw_values
from bolsa.web.forms import parse_day, parse_money, tell

STEPS_SHOWN = 60


@blueprint.get("/books/<int:account_id>/values")
def values(account_id: int) -> str:
    """An account's noted values, what led to each, the holes between them, and a place to paste older ones."""
    return _values_page(account_id, None)


def _values_page(account_id: int, error: BolsaError | None) -> str:
    page = valuing.values_page(g.db, g.by, account_id)
    shown = {"page": page, "drawing": draw_values(page, g.by.today), "most": STEPS_SHOWN}
    return render_template("books/values.html", **shown, error=error, typed=request.form)


@blueprint.post("/books/<int:account_id>/values")
def note_value(account_id: int) -> tuple[str, int] | Response:
    """Notes what the account was worth on a day."""
    currency = valuing.values_page(g.db, g.by, account_id).state.account.currency
    try:
        day = parse_day(request.form, "day", g.by.today)
        step_id = valuing.note_value(g.db, g.by, account_id, day, parse_money(request.form, "value", currency))
    except InvalidInput as error:
        return _values_page(account_id, error), 400
    tell("The value is noted; what it gained or lost is booked", step_id)
    return redirect(url_for("books.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/paste")
def paste_values(account_id: int) -> tuple[str, int] | Response:
    """Notes the values pasted, all or none."""
    try:
        count, step_id = valuing.paste_values(g.db, g.by, account_id, request.form.get("pasted", ""))
    except InvalidInput as error:
        return _values_page(account_id, error), 400
    tell(f"{count} values are noted", step_id)
    return redirect(url_for("books.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/forget")
def forget_value(account_id: int) -> Response:
    """Forgets a noted value."""
    tell("The value is forgotten", valuing.forget_value(g.db, g.by, account_id, parse_day(request.form, "day", g.by.today)))
    return redirect(url_for("books.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/fill")
def fill_holes(account_id: int) -> Response:
    """Fills a hole between values, or every one."""
    day = parse_day(request.form, "day", g.by.today) if request.form.get("day") else None
    count, step_id = valuing.fill_holes(g.db, g.by, account_id, request.form.get("way", ""), day)
    tell(f"{count} month ends are filled", step_id)
    return redirect(url_for("books.values", account_id=account_id), code=303)


@blueprint.post("/books/values/carry")
def carry_values() -> Response:
    """Carries every value that waits to its month ends."""
    count, step_id = valuing.carry_values(g.db, g.by, current_app.config["MARKET_URL"])
    tell(f"{count} values are carried to month ends", step_id)
    return redirect(url_for("books.accounts"), code=303)


@blueprint.get("/books/rates")
def rates() -> str:
    """The rates of the household's foreign currencies."""
    return _rates_page(None)


def _rates_page(error: BolsaError | None) -> str:
    foreign = market.list_foreign(g.db)
    has_feed = bool(current_app.config["MARKET_URL"])
    return render_template("books/rates.html", foreign=foreign, error=error, typed=request.form, has_feed=has_feed)


@blueprint.post("/books/rates")
def note_rate() -> tuple[str, int] | Response:
    """Notes a rate by hand."""
    form = request.form
    try:
        rate = market.parse_rate(form.get("rate", ""))
        day = parse_day(form, "day", g.by.today)
        step_id = market.note_rate(g.db, g.by, form.get("currency", "").strip().upper(), day, rate)
    except InvalidInput as error:
        return _rates_page(error), 400
    tell("The rate is noted", step_id)
    return redirect(url_for("books.rates"), code=303)


@blueprint.post("/books/rates/forget")
def forget_rate() -> Response:
    """Forgets a rate."""
    day = parse_day(request.form, "day", g.by.today)
    tell("The rate is forgotten", market.forget_rate(g.db, g.by, request.form.get("currency", ""), day))
    return redirect(url_for("books.rates"), code=303)


@blueprint.post("/books/rates/fetch")
def fetch_rates() -> Response:
    """Fetches the daily rates from the market service."""
    count, step_id = market.fetch_rates(g.db, g.by, current_app.config["MARKET_URL"])
    tell(f"{count} rates are new" if count else "No rate is newer than what is here", step_id)
    return redirect(url_for("books.rates"), code=303)
