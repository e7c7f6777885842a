"""Values of apart accounts, and the rates of foreign currencies. Stories: tests/stories/test_accounts.py."""

import sqlite3

from flask import current_app, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import BolsaError, Conflict, InvalidInput, ServiceUnavailable
from bolsa.services import changes
from bolsa.services.accounts import market, valuing
from bolsa.services.holdings.trading import may_hold_shares
from bolsa.services.progress import Report
from bolsa.web import jobs
from bolsa.web.accounts.blueprint import blueprint
from bolsa.web.accounts.values_course import draw_values
from bolsa.web.forms import Message, parse_day, parse_money, parse_version, tell, tell_problem

STEPS_SHOWN = 60


@blueprint.get("/books/<int:account_id>/values")
def values(account_id: int) -> str:
    """An account's noted values, what led to each, the holes between them, and a place to paste older ones."""
    return _values_page(account_id, None)


def _values_page(account_id: int, error: BolsaError | None) -> str:
    page = valuing.values_page(g.db, g.by, account_id)
    waiting = valuing.list_waiting_for_index(g.db, g.by, has_index=bool(current_app.config["MARKET_URL"]))
    shown = {"page": page, "drawing": draw_values(page, g.by.today), "most": STEPS_SHOWN, "waiting": waiting.get(account_id)}
    shown["has_shares"] = may_hold_shares(page.state.account)
    shown["seen"] = changes.version_now(g.db)
    return render_template("accounts/values.html", **shown, error=error, typed=request.form)


@blueprint.post("/books/<int:account_id>/values")
def note_value(account_id: int) -> tuple[str, int] | Response:
    """Notes what the account was worth on a day."""
    currency = valuing.values_page(g.db, g.by, account_id).state.account.currency
    try:
        day = parse_day(request.form, "day", g.by.today)
        amount = parse_money(request.form, "value", currency)
        done = valuing.note_value(g.db, g.by, account_id, day, amount, seen=parse_version(request.form))
    except (InvalidInput, Conflict) as error:
        return _values_page(account_id, error), 409 if isinstance(error, Conflict) else 400
    tell("The value is noted; what it gained or lost is booked", done)
    return redirect(url_for("accounts.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/paste")
def paste_values(account_id: int) -> tuple[str, int] | Response:
    """Notes the values pasted, all or none."""
    try:
        done = valuing.paste_values(g.db, g.by, account_id, request.form.get("pasted", ""), g.reader.decimal_mark)
    except InvalidInput as error:
        return _values_page(account_id, error), 400
    tell(f"{done.made} values are noted", done)
    return redirect(url_for("accounts.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/forget")
def forget_value(account_id: int) -> Response:
    """Forgets a noted value."""
    tell("The value is forgotten", valuing.forget_value(g.db, g.by, account_id, parse_day(request.form, "day", g.by.today)))
    return redirect(url_for("accounts.values", account_id=account_id), code=303)


@blueprint.post("/books/<int:account_id>/values/fill")
def fill_holes(account_id: int) -> Response:
    """Fills a hole between values, or every one."""
    day = parse_day(request.form, "day", g.by.today) if request.form.get("day") else None
    done = valuing.fill_holes(g.db, g.by, account_id, request.form.get("way", ""), day)
    tell(f"{done.made} month ends are filled", done)
    return redirect(url_for("accounts.values", account_id=account_id), code=303)


@blueprint.post("/books/values/carry")
def carry_values() -> Response:
    """Carries every value that waits to its month ends."""
    by, url, back = g.by, current_app.config["MARKET_URL"], url_for("accounts.table")

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        done = valuing.carry_values(db, by, url, report)
        carried = done.made
        words = f"{carried.count} {'value is' if carried.count == 1 else 'values are'} carried to month ends"
        said = [Message(words, done.step_id)] if carried.count else []
        said += [Message(f"{name} waits for its index. {why}", kind="problem") for name, why in carried.waiting.items()]
        return jobs.Outcome(back, tuple(said))

    return jobs.run("Carrying values to month ends", back, work)


@blueprint.get("/books/rates")
def rates() -> str:
    """The rates of the household's foreign currencies."""
    return _rates_page(None)


def _rates_page(error: BolsaError | None) -> str:
    foreign = market.list_foreign(g.db)
    has_feed = bool(current_app.config["MARKET_URL"])
    return render_template("accounts/rates.html", foreign=foreign, error=error, typed=request.form, has_feed=has_feed)


@blueprint.post("/books/rates")
def note_rate() -> tuple[str, int] | Response:
    """Notes a rate by hand."""
    form = request.form
    try:
        rate = market.parse_rate(form.get("rate", ""), g.reader.decimal_mark)
        day = parse_day(form, "day", g.by.today)
        done = market.note_rate(g.db, g.by, form.get("currency", "").strip().upper(), day, rate)
    except InvalidInput as error:
        return _rates_page(error), 400
    tell("The rate is noted", done)
    return redirect(url_for("accounts.rates"), code=303)


@blueprint.post("/books/rates/forget")
def forget_rate() -> Response:
    """Forgets a rate."""
    day = parse_day(request.form, "day", g.by.today)
    tell("The rate is forgotten", market.forget_rate(g.db, g.by, request.form.get("currency", ""), day))
    return redirect(url_for("accounts.rates"), code=303)


@blueprint.post("/books/rates/fetch")
def fetch_rates() -> Response:
    """Fetches the daily rates from the market service."""
    by, url, back = g.by, current_app.config["MARKET_URL"], url_for("accounts.rates")

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        report(0, 0, "Asking the market service")
        done = market.fetch_rates(db, by, url)
        said = Message(f"{done.made} rates are new", done.step_id) if done.made else Message("No rate is newer than what is here")
        return jobs.Outcome(back, (said,))

    try:
        return jobs.run("Fetching daily rates", back, work)
    except ServiceUnavailable as error:
        tell_problem(error.sentence)
        return redirect(back, code=303)
