"""Holdings: what is held, arranged by facets, what it gained and how it did; suspects for basis; distributions that wait.
Story: tests/stories/test_holdings.py."""

from dataclasses import dataclass
from datetime import date, timedelta
from urllib.parse import quote

from flask import Response as FlaskResponse
from flask import current_app, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.holdings.holding import PARTS, HoldingRow, Sums, sums_of
from bolsa.core.holdings.prices import SOURCES
from bolsa.core.holdings.shares import shares_text
from bolsa.core.holdings.trades import KIND_WORDS
from bolsa.core.money import decimal_text
from bolsa.core.months import Month, add_months
from bolsa.core.worth.net_worth import Node
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.holdings import arranging, basis, gains, mix, performance, securities, trading
from bolsa.services.holdings.book import lots_on
from bolsa.services.holdings.performance import Performance
from bolsa.services.holdings.shares import list_differing
from bolsa.services.worth.worth import Only
from bolsa.web.csv_reply import csv_reply
from bolsa.web.filters import most_places
from bolsa.web.forms import parse_optional_money, tell
from bolsa.web.holdings.blueprint import blueprint
from bolsa.web.holdings.mix import draw_strip
from bolsa.web.holdings.pictures import draw_prices, gain_bar, gain_scale

USUAL_ORDER = "owner,account"
SINCE = ((0, "since they are held"), (12, "a year"), (36, "three years"))
SUSPECTS_SHOWN = 4


@dataclass(frozen=True)
class Line:
    """A line of the tree: a place with its sums, or a row; how deep it stands."""

    depth: int
    name: str
    key: str
    sums: Sums
    row: HoldingRow | None = None


@blueprint.get("/holdings")
def page() -> str:
    """What is held at the end of the month (today, in this one), `by` facets, `only` one place; how it did `since`."""
    last = g.by.today if g.month >= g.present else g.month.last_day
    facets = arranging.facets_of(g.db)
    order = [facet for facet in request.args.get("by", USUAL_ORDER).split(",") if facet in facets]
    only = _only(facets)
    found = arranging.arrange(g.db, last, order, only)
    lines = tuple(_lines(found.tree, order, only, last, 0))
    since = _since()
    rows = [*found.rows, *found.sold_out]
    did = _did(rows, last, since)
    is_now = last == g.by.today
    mixed = mix.mix_view(g.db, g.by, found.book) if is_now and not only else None
    return render_template(
        "holdings/page.html",
        found=found,
        lines=lines,
        whole=sums_of(rows),
        order=order,
        only=only,
        facets=facets,
        last=last,
        key=last.isoformat() + "".join(f"@{facet}.{quote(place, safe='')}" for facet, place in only),
        did=did,
        began=Month.of(did.first + timedelta(days=1)) if did else None,
        since=since,
        since_choices=SINCE,
        scale=gain_scale([line.sums for line in lines]),
        bar=gain_bar,
        places=most_places(row.shares_e8 for row in found.rows),
        sources=SOURCES,
        suspects=basis.list_suspects(g.db, g.by.today) if is_now and not only else [],
        shown=SUSPECTS_SHOWN,
        awaited=basis.list_awaited(g.db, g.by.today) if is_now and not only else [],
        differing=list_differing(g.db) if is_now else [],
        has_market=bool(current_app.config["MARKET_URL"]),
        mix=mixed,
        strip=draw_strip(mixed) if mixed else None,
        ask=_ask,
    )


def _lines(node: Node[HoldingRow], order: list[str], only: Only, last: date, depth: int) -> list[Line]:
    found = []
    for child in node.children:
        at = last.isoformat() + "".join(f"@{facet}.{quote(place, safe='')}" for facet, place in only)
        at += "".join(f"@{facet}.{quote(place, safe='')}" for facet, place in zip(order, child.path, strict=False))
        if len(child.all_rows) == 1 and child.all_rows[0].name == child.name:  # a row that stands for its account alone
            found += _rows(child.all_rows, last, depth)
            continue
        found.append(Line(depth, child.name, at, sums_of(child.all_rows)))
        found += _lines(child, order, only, last, depth + 1)
    return found + _rows(node.rows, last, depth)


def _rows(rows: tuple[HoldingRow, ...], last: date, depth: int) -> list[Line]:
    return [Line(depth, row.name, f"{last.isoformat()}#{row.key}", sums_of([row]), row) for row in rows]


def _since() -> int:
    months = request.args.get("since", 0, type=int)
    return months if months in dict(SINCE) else 0


def _did(rows: list[HoldingRow], last: date, since: int) -> Performance | None:
    return performance.performance(g.db, rows, last, add_months(last, -since) if since else None) if rows else None


def _only(facets: dict[str, str]) -> Only:
    """The places looked at alone: `only=owner.Noor`, as often as wanted."""
    found = []
    for text in request.args.getlist("only"):
        facet, _, place = text.partition(".")
        if facet not in facets:
            raise InvalidInput("Holdings are not arranged by that.", field="only")
        found.append((facet, place))
    return tuple(found)


def _ask(**changes: object) -> str:
    """The address of this page with something changed."""
    kept: dict[str, object] = {name: request.args.get(name) for name in ("by", "since") if request.args.get(name)}
    kept["only"] = request.args.getlist("only")
    asked = {name: value for name, value in (kept | changes).items() if value not in (None, [], "")}
    return url_for("holdings.page", **asked)  # type: ignore[arg-type]


@blueprint.get("/holdings.csv")
def as_csv() -> FlaskResponse:
    """What is held, row by row, as CSV; amounts in home currency."""
    last = g.by.today if g.month >= g.present else g.month.last_day
    found = arranging.arrange(g.db, last, (), _only(arranging.facets_of(g.db)))
    home = found.book.home
    rows = [
        (
            row.account.name, row.name, row.security.code if row.security else "", shares_text(row.shares_e8),
            *(decimal_text(x, home) for x in (row.home_minor, row.cost_minor, *(row.part(name) for name in PARTS))),
        )
        for row in (*found.rows, *found.sold_out)
    ]  # fmt: skip
    heads = ["account", "holding", "code", "shares", "value", "cost", "gain by price", "gain by currency", "income"]
    return csv_reply("holdings", heads, rows)


@blueprint.get("/holdings/<int:account_id>/<int:security_id>")
def holding(account_id: int, security_id: int) -> str:
    """Shares of one security in one account: lots, trades, prices, how it did."""
    book = arranging.arrange(g.db, g.by.today, ()).book
    row = book.row(f"{account_id}-{security_id}")
    if row is None or row.security is None:
        raise NotFound("There are no such shares.")
    since = _since()
    found = trading.list_trades(g.db, account_id, security_id)
    lots = lots_on(g.db, [row], g.by.today)[row.key]
    first = min(trade.day for trade in found)
    prices = trading.list_prices(g.db, security_id, first, g.by.today)
    splits = [
        event for event in securities.list_events(g.db, security_id) if event.kind == "split" and first < event.day <= g.by.today
    ]
    return render_template(
        "holdings/holding.html",
        row=row,
        key=f"{g.by.today.isoformat()}#{row.key}",
        trades=list(reversed(found)),
        kinds=KIND_WORDS,
        places=most_places([trade.shares_e8 for trade in found] + [lot.shares_e8 for lot in lots]),
        lots=lots,
        did=_did([row], g.by.today, since),
        since=since,
        since_choices=SINCE,
        sources=SOURCES,
        drawing=draw_prices(prices, found, splits, row.security.currency, g.by.today) if len(prices) > 1 else None,
        splits=splits,
        suspects=basis.list_suspects(g.db, g.by.today, only=(account_id, security_id)),
    )


@blueprint.post("/holdings/suspects")
def mend() -> Response:
    """Does what a suspect's repair says, or keeps the thing as it is."""
    key = request.form.get("key", "")
    done = basis.keep_as_it_is(g.db, g.by, key) if request.form.get("way") == "right" else basis.mend(g.db, g.by, key)
    tell(done.sentence, done)
    return _back()


@blueprint.post("/holdings/income")
def confirm() -> Response:
    """Enters a distribution as it is expected, or as the advice says, or remembers that it did not come."""
    form = request.form
    key = form.get("key", "")
    if form.get("way") == "none":
        done = basis.forget_income(g.db, g.by, key)
    else:
        currency = form.get("currency", g.household.home_currency)
        received = parse_optional_money(form, "received", currency)
        done = basis.confirm_income(g.db, g.by, key, received, parse_optional_money(form, "withheld", currency) or 0)
    tell(done.sentence, done)
    return _back()


def _back() -> Response:
    back = request.form.get("back", "")
    return redirect(back if back.startswith("/holdings") else url_for("holdings.page"), code=303)


@blueprint.get("/holdings/gains")
def gains_of_year() -> str:
    """What sales and distributions brought in a year."""
    year = request.args.get("year", g.by.today.year, type=int)
    if not 1900 <= year <= 2200:
        raise InvalidInput("A year is between 1900 and 2200.", field="year")
    return render_template(
        "holdings/gains.html", gains=gains.gains_of_year(g.db, year), year=year, present=Month.of(g.by.today).year
    )


@blueprint.get("/holdings/gains.csv")
def gains_as_csv() -> FlaskResponse:
    """The sales and distributions of a year as CSV, in home currency."""
    year = request.args.get("year", g.by.today.year, type=int)
    if not 1900 <= year <= 2200:
        raise InvalidInput("A year is between 1900 and 2200.", field="year")
    found = gains.gains_of_year(g.db, year)

    def text(minor: int | None) -> str:
        return decimal_text(minor, found.home) if minor is not None else ""

    rows: list[tuple[str, ...]] = [
        (
            "sold", one.account.name, one.security.name, one.disposal.bought_on.isoformat(), one.disposal.sold_on.isoformat(),
            shares_text(one.disposal.shares_e8), text(one.disposal.proceeds.home_minor), text(one.disposal.cost.home_minor),
            text(one.disposal.gain_home_minor), text(one.disposal.currency_minor),
            "long" if one.disposal.is_long else "short", "",
        )
        for one in found.sales
    ]  # fmt: skip
    rows += [
        ("distributed", one.account.name, one.security.name, "", one.trade.day.isoformat(), "", text(one.home_minor), *[""] * 4,
         text(one.withheld_minor))
        for one in found.income
    ]  # fmt: skip
    heads = [
        "what",
        "account",
        "security",
        "bought",
        "day",
        "shares",
        "received",
        "cost",
        "gain",
        "of it currency",
        "term",
        "withheld",
    ]
    return csv_reply(f"gains-{year}", heads, rows)
