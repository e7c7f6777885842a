"""Worth: net worth over time, by class and facet, its holes, and what changed it. Stories: tests/stories/test_worth.py."""

from collections.abc import Sequence
from datetime import date
from urllib.parse import quote

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask import Response as FlaskResponse
from werkzeug.wrappers import Response

from bolsa.core.money import to_decimal
from bolsa.core.months import Month, add_months
from bolsa.core.worth.changes import CAUSES
from bolsa.core.worth.holes import WorthHole
from bolsa.core.worth.net_worth import CLASSES
from bolsa.core.worth.periods import EVERY, period_ends
from bolsa.errors import InvalidInput
from bolsa.services.worth import holes, worth
from bolsa.services.worth.workings import CAUSE_WORDS
from bolsa.services.worth.worth import Only, WorthView
from bolsa.web.csv_reply import csv_reply
from bolsa.web.forms import parse_day, parse_id, tell
from bolsa.web.worth.course import Course, draw_course

blueprint = Blueprint("worth", __name__, template_folder="templates")
SPANS = {"week": 12, "month": 24, "quarter": 60, "year": 1200}  # months looked back over, by the step
SINCE = ((1, "a month"), (3, "three months"), (12, "a year"), (24, "two years"))
USUAL_ORDER = "class"


@blueprint.get("/worth")
def course() -> str:
    """Net worth up to the chosen month by `every` step, of all or of `only` one place; arranged `by` facets; what changed
    `since`."""
    every, only = _every(), _only()
    last = g.by.today if every == "week" and g.month == g.present else g.month.last_day
    view = worth.worth_course(g.db, _days(every, last), only)
    facets = worth.facets_of(g.db)
    order = [facet for facet in request.args.get("by", USUAL_ORDER).split(",") if facet in facets]
    months = request.args.get("since", 12, type=int)
    months = months if months in dict(SINCE) else 12
    then = _then(last, months)
    counted = {row.account_id for row in view.rows}
    found = [hole for hole in holes.list_all_holes(g.db, g.by.today) if hole.account_id in counted]
    return render_template(
        "worth/course.html",
        view=view,
        every=every,
        steps=EVERY,
        only=only,
        only_key="".join(f"@{facet}.{quote(place, safe='')}" for facet, place in only),
        drawing=_draw(view, found, is_by_month=every != "week") if view.rows else None,
        tree=worth.arranged(g.db, [row for row in view.rows if row.balance_minor or row.shown], order),
        order=order,
        facets=facets,
        last=last,
        since=months,
        since_choices=SINCE,
        then=then,
        change=worth.what_changed(g.db, then, last, only),
        causes=[(cause, CAUSE_WORDS[cause]) for cause in CAUSES],
        holes=[(hole, holes.find_payments(g.db, hole) if hole.kind == "payments" else []) for hole in found],
        place_key=_place_key,
        ask=_ask,
    )  # fmt: skip


def _draw(view: WorthView, found: list[WorthHole], *, is_by_month: bool) -> Course:
    def address(day: date) -> str:
        return _ask(month=str(Month.of(day)))

    return draw_course(view.points, found, view.currency, address, by_month=is_by_month)


def _every() -> str:
    every = request.args.get("every", "month")
    if every not in EVERY:
        raise InvalidInput("It goes by week, month, quarter or year.", field="every")
    return every


def _only() -> Only:
    """The places looked at alone: `only=class.Invested`, as often as wanted."""
    found = []
    for text in request.args.getlist("only"):
        facet, _, place = text.partition(".")
        if facet not in worth.facets_of(g.db):
            raise InvalidInput("Accounts are not arranged by that.", field="only")
        found.append((facet, place))
    return tuple(found)


def _days(every: str, last: date) -> list[date]:
    """The ends of the steps, not before the books begin."""
    began = worth.first_month(g.db) or Month.of(last)
    first = max(
        began.first_day, add_months(Month.of(last).first_day, -SPANS[every] + 1) if SPANS[every] < 1200 else began.first_day
    )
    return period_ends(min(first, last), last, every, g.reader.week_start)


def _then(last: date, months: int) -> date:
    """The day so many months before; a month's end goes back to a month's end."""
    if last == Month.of(last).last_day:
        return (Month.of(last) + -months).last_day
    return add_months(last, -months)


def _kept(**changes: object) -> dict[str, object]:
    kept: dict[str, object] = {name: request.args.get(name) for name in ("every", "by", "since") if request.args.get(name)}
    kept["only"] = request.args.getlist("only")
    return {name: value for name, value in (kept | changes).items() if value not in (None, [], "")}


def _ask(**changes: object) -> str:
    """The address of this page with something changed."""
    return url_for("worth.course", **_kept(**changes))  # type: ignore[arg-type]


def _place_key(order: Sequence[str], path: Sequence[str]) -> str:
    """The key of a tree's place: the facets and places that lead there."""
    return "".join(f"@{facet}.{quote(place, safe='')}" for facet, place in zip(order, path, strict=False))


@blueprint.post("/worth/holes")
def fill() -> Response:
    """Fills one hole."""
    account_id, first = parse_id(request.form, "account_id"), parse_day(request.form, "first", g.by.today)
    done = holes.fill_hole(g.db, g.by, account_id, first, request.form.get("way", ""))
    tell(done.sentence, done)
    back = request.form.get("back", "")
    return redirect(back if back.startswith("/worth") else url_for("worth.course"), code=303)


@blueprint.get("/worth.csv")
def as_csv() -> FlaskResponse:
    """Net worth over the whole time as CSV, by class, by the step of the page."""
    every = _every()
    view = worth.worth_course(g.db, _days(every, g.month.last_day), _only())
    rows = [
        (
            p.day.isoformat(),
            *(to_decimal(p.by_class[name], view.currency) for name in CLASSES),
            *(to_decimal(x, view.currency) for x in (p.owned_minor, p.owed_minor, p.net_minor)),
        )
        for p in view.points
    ]
    return csv_reply("net-worth", ["day", *(name.lower() for name in CLASSES), "owned", "owed", "net"], rows)
