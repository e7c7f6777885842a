"""What fields ask while one types. Story: tests/stories/test_parts.py."""

from flask import Blueprint, Response, abort, g, jsonify, request
from markupsafe import Markup
from werkzeug.datastructures import MultiDict

from bolsa.errors import InvalidInput
from bolsa.services.ledger import finding
from bolsa.services.sorting import categories
from bolsa.web.filters import weekday
from bolsa.web.forms import parse_day

blueprint = Blueprint("parts", __name__)


@blueprint.get("/parts/day")
def day() -> str:
    """What a day field says so far: the day in words, or what would be one."""
    text = next((value for name, value in request.args.items() if name not in ("month", "ahead")), "").strip()
    if not text:
        return ""
    try:
        said = parse_day(MultiDict({"day": text}), "day", g.by.today, ahead=request.args.get("ahead") == "1")
    except InvalidInput:
        return "not a day yet"
    return Markup('<span data-iso="{}">{} {}</span>').format(said.isoformat(), weekday(said), said.year)


@blueprint.get("/parts/names/<kind>")
def names(kind: str) -> Response:
    """The names known of a kind that fit what is typed so far, as JSON: of payees, tags or securities."""
    if kind not in finding.NAMES:
        abort(404)
    return jsonify(finding.suggest_names(g.db, kind, request.args.get("text", "")))


@blueprint.post("/parts/category")
def make_category() -> tuple[Response, int] | Response:
    """Makes a category from a picker, in the group chosen there; gives its id and name as JSON."""
    form = request.form
    try:
        done = categories.add_category(g.db, g.by, form.get("group", ""), form.get("name", ""))
    except InvalidInput as error:
        return jsonify(sentence=error.sentence), 400
    return jsonify(id=done.made, name=categories.get_category(g.db, done.made).name, step=done.step_id)
