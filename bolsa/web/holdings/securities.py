"""Securities: found in the market or made by hand, their prices, what is followed. Story: tests/stories/test_holdings.py."""

import sqlite3
from datetime import timedelta

from flask import current_app, g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.holdings.prices import SOURCES
from bolsa.core.holdings.security import KINDS, Security
from bolsa.core.holdings.trades import parse_price
from bolsa.core.months import add_months
from bolsa.errors import BolsaError, ServiceUnavailable
from bolsa.services.holdings import book, securities
from bolsa.services.progress import Report
from bolsa.web import jobs
from bolsa.web.forms import Message, message_of, parse_day, tell, tell_problem
from bolsa.web.holdings.blueprint import blueprint
from bolsa.web.holdings.pictures import draw_prices

YEARS_SHOWN = 5


@blueprint.get("/holdings/securities")
def list_securities() -> str:
    """Every security with its latest price; what the market lists for the words searched."""
    return _list_page(
        MultiDict({"currency": g.household.home_currency, "kind": "fund", "name": request.args.get("name", "")}), None
    )


def _list_page(typed: MultiDict, error: BolsaError | None) -> str:
    text, found, problem = request.args.get("q", "").strip(), [], ""
    if text:
        try:
            url = current_app.config["MARKET_URL"]
            found = jobs.fetch("Searching the market", lambda db: securities.search(db, url, text))
        except ServiceUnavailable as failed:
            problem = failed.sentence
    known = securities.list_securities(g.db)
    prices = book.prices_on(g.db, [one.id for one in known], [g.by.today])
    return render_template(
        "holdings/securities.html",
        securities=known,
        prices={one.id: prices[one.id][0] for one in known},
        sources=SOURCES,
        kinds=KINDS,
        text=text,
        found=found,
        problem=problem,
        typed=typed,
        error=error,
        has_market=bool(current_app.config["MARKET_URL"]),
    )


@blueprint.post("/holdings/securities")
def add_security() -> tuple[str, int] | Response:
    """Adds a security: one the market lists, or one made by hand."""
    form = request.form
    try:
        if form.get("symbol"):
            back, work = url_for("holdings.list_securities"), _add_found(form["symbol"], form.get("market", ""))
            return jobs.run("Asking the market", back, work)
        done = securities.add_security(g.db, g.by, _typed(form, 0))
    except BolsaError as error:
        return _list_page(form, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.security", security_id=done.made), code=303)


def _add_found(symbol: str, market: str) -> jobs.Work:
    by, url, made_url = g.by, current_app.config["MARKET_URL"], url_for("holdings.security", security_id=0)

    def work(db: sqlite3.Connection, _: Report) -> jobs.Outcome:
        done = securities.add_found(db, by, url, symbol, market)
        return jobs.Outcome(f"{made_url.removesuffix('0')}{done.made}", (message_of(done),))

    return work


def _typed(form: MultiDict, security_id: int) -> Security:
    matures = parse_day(form, "matures_on", g.by.today) if form.get("matures_on", "").strip() else None
    words = (form.get("name", ""), form.get("code", ""), form.get("symbol", ""), form.get("market", ""))
    return Security(
        security_id, *words, form.get("currency", "").strip().upper(), form.get("kind", "other"), matures,
        is_compared=form.get("is_compared") == "1",
    )  # fmt: skip


@blueprint.get("/holdings/securities/<int:security_id>")
def security(security_id: int) -> str:
    """A security: its words, its prices and those set by hand, what its market tells."""
    return _page(security_id, None, None)


def _page(security_id: int, typed: MultiDict | None, error: BolsaError | None) -> str:
    first = add_months(g.by.today, -12 * YEARS_SHOWN)
    shown = securities.security_page(g.db, security_id, first, g.by.today)
    one = shown.security
    by_day = list({price.day: price for price in shown.prices}.values())
    splits = [event for event in shown.events if event.kind == "split" and first < event.day <= g.by.today]
    kept = MultiDict(
        {
            "name": one.name, "code": one.code, "symbol": one.symbol, "market": one.market, "currency": one.currency,
            "kind": one.kind,
            "matures_on": one.matures_on.isoformat() if one.matures_on else "", "is_compared": "1" if one.is_compared else "",
        }
    )  # fmt: skip
    return render_template(
        "holdings/security.html",
        shown=shown,
        latest=book.prices_on(g.db, [one.id], [g.by.today])[one.id][0],
        sources=SOURCES,
        kinds=KINDS,
        typed=typed or kept,
        error=error,
        drawing=draw_prices(by_day, [], splits, one.currency, g.by.today) if len(by_day) > 1 else None,
        splits=splits,
        events=[event for event in reversed(shown.events) if event.day <= g.by.today + timedelta(days=60)][:12],
    )


@blueprint.post("/holdings/securities/<int:security_id>")
def change_security(security_id: int) -> tuple[str, int] | Response:
    """Keeps a security's words as they are typed."""
    try:
        done = securities.change_security(g.db, g.by, _typed(request.form, security_id))
    except BolsaError as error:
        return _page(security_id, request.form, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.security", security_id=security_id), code=303)


@blueprint.post("/holdings/securities/<int:security_id>/remove")
def remove_security(security_id: int) -> Response:
    """Removes a security nothing is known of."""
    done = securities.remove_security(g.db, g.by, security_id)
    tell(done.sentence, done)
    return redirect(url_for("holdings.list_securities"), code=303)


@blueprint.post("/holdings/securities/<int:security_id>/price")
def set_price(security_id: int) -> tuple[str, int] | Response:
    """Sets a price by hand."""
    form = request.form
    try:
        day = parse_day(form, "price_day", g.by.today)
        done = securities.set_price(
            g.db, g.by, security_id, day, parse_price(form.get("price", ""), decimal_mark=g.reader.decimal_mark)
        )
    except BolsaError as error:
        return _page(security_id, None, error), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.security", security_id=security_id), code=303)


@blueprint.post("/holdings/securities/<int:security_id>/forget")
def forget_price(security_id: int) -> Response:
    """Forgets a price that was set by hand."""
    done = securities.forget_price(g.db, g.by, security_id, parse_day(request.form, "day", g.by.today))
    tell(done.sentence, done)
    return redirect(url_for("holdings.security", security_id=security_id), code=303)


@blueprint.post("/holdings/prices")
def fetch_prices() -> Response:
    """Fetches prices, splits and distributions from the market, as a job."""
    by, url, back = g.by, current_app.config["MARKET_URL"], url_for("holdings.list_securities")

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        done = securities.fetch_prices(db, by, url, report=report)
        said = [Message(f"{done.prices} prices are new" if done.prices else "No price is newer than what is here")]
        if done.unknown:
            said.append(Message(f"The market lists no {', '.join(done.unknown)}.", kind="problem"))
        return jobs.Outcome(back, tuple(said))

    try:
        return jobs.run("Fetching prices", back, work)
    except ServiceUnavailable as error:
        tell_problem(error.sentence)
        return redirect(back, code=303)
