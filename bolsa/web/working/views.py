"""The slip behind a figure: a partial under it, or a page of its own. Story: tests/stories/test_sitting.py."""

from urllib.parse import quote

from flask import Blueprint, g, render_template, request, url_for
from markupsafe import Markup, escape

from bolsa.core.months import Month
from bolsa.core.working import Working
from bolsa.errors import NotFound
from bolsa.web.frame import areas

blueprint = Blueprint("working", __name__, template_folder="templates")


_IN_PATH = "!$&'()*+,/:;=@"  # what a path may hold as it is


@blueprint.app_template_global("figure")
def figure(text: str, kind: str, key: object = "all", month: Month | None = None) -> Markup:
    """A figure that opens to its working: {{ figure(row.left_minor|amount(home), "left", row.category_id) }}. Without script the
    link leads to the working as a page. A page may have a thousand of them, so it is no macro."""
    return Markup(f'<a class="fig" href="{escape(slip_address(kind, key, month))}" data-slip>{escape(text)}</a>')  # noqa: S704


def slip_address(kind: str, key: object, month: Month | None = None) -> str:
    """The address of a figure's working: what url_for gives, asked once a page instead of for each of a thousand figures."""
    name = "slip_in_month" if month is not None else "slip_address"
    if name not in g:
        values = {"kind": "-kind-", "key": "-key-"} | ({"month": "-month-"} if month is not None else {})
        setattr(g, name, url_for("working.slip", **values))  # type: ignore[arg-type]
    address: str = getattr(g, name)
    address = address.replace("-kind-", kind).replace("-key-", quote(str(key), safe=_IN_PATH))
    return address.replace("-month-", str(month)) if month is not None else address


@blueprint.get("/working/<kind>/<path:key>", merge_slashes=False)  # a key may end in a name that a person gave
def slip(kind: str, key: str) -> str:
    """The working of a figure in the month that is chosen, made by the area the figure belongs to."""
    make = next((area.workings[kind] for area in areas().values() if kind in area.workings), None)
    if make is None:
        raise NotFound("There is no working of that name.")
    working = make(g.db, g.by, key, g.month)
    page = "working/_slip.html" if request.headers.get("HX-Request") else "working/page.html"
    return render_template(page, working=working, address_of=address_of)


def address_of(part: Working) -> str | None:
    """Where a part of a working can be read, None if it leads nowhere further."""
    if part.ref is None:
        return None
    kind, key, *month = part.ref
    if kind == "entry":
        return url_for("ledger.entry", entry_id=key)
    if kind == "payee-page":
        return url_for("sorting.payee", payee_id=key)
    if kind == "account":
        return url_for("ledger.register", account_id=key)
    return url_for("working.slip", kind=kind, key=key, month=month[0] if month else None)
