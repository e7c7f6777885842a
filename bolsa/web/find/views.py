"""Find across everything. Story: tests/stories/test_find.py."""

from flask import Blueprint, g, render_template, request

from bolsa.services.ledger import finding
from bolsa.web.frame import areas

blueprint = Blueprint("find", __name__, template_folder="templates")


MOST_TYPING, MOST_ON_PAGE = 8, 60


@blueprint.get("/find")
def find() -> str:
    """What fits the words: under the field while one types, as a page of its own otherwise."""
    text = request.args.get("q", "").strip()
    before = request.args.get("before", type=int)
    is_typing = bool(request.headers.get("HX-Request"))
    found = finding.find_everything(g.db, text, most=MOST_TYPING if is_typing else MOST_ON_PAGE, before_line_id=before)
    places = [(area.page.endpoint, area.page.word) for area in areas().values() if area.page]
    places += [(action.endpoint, action.words) for area in areas().values() for action in area.actions]
    fitting = [place for place in places if text and _fits(text, place[1])] if before is None else []
    template = "find/_found.html" if is_typing else "find/page.html"
    return render_template(template, found=found, text=text, places=fitting)


def _fits(text: str, words: str) -> bool:
    """Whether each typed word begins a word."""
    there = words.casefold().split()
    return all(any(word.startswith(typed) for word in there) for typed in text.casefold().split())
