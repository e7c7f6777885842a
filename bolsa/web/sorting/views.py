"""Sort: piles, the biggest open, and proposed transfers. Story: tests/stories/test_sitting.py."""

from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.services.accounts import accounts
from bolsa.services.sorting import categories, sorting
from bolsa.web.forms import parse_id, parse_ids, parse_optional_id, tell, tell_problem

blueprint = Blueprint("sorting", __name__, template_folder="templates")
SURE = 0.9
PILES_SHOWN = 40


@blueprint.get("/sort")
def piles() -> str:
    """The proposed transfers, then the piles; `pile` opens another than the biggest, `single` decides its entries one by one."""
    todo = sorting.what_to_sort(g.db)
    shown: dict[str, Any] = {"todo": todo, "open": None, "pair": None, "single": bool(request.args.get("single"))}
    chosen = request.args.get("pile", "")
    if todo.transfers and not chosen:
        shown["pair"] = todo.transfers[0]
    elif todo.piles:
        shown["open"] = next((p for p in todo.piles if p.key == chosen), todo.piles[0])
    return render_template(
        "sorting/piles.html",
        names=categories.names_of(g.db),
        groups=categories.list_by_group(g.db),
        accounts=accounts.list_accounts(g.db),
        by_id={a.id: a for a in accounts.list_accounts(g.db)},
        sure=sum(len(p.as_certain_as(SURE)) for p in todo.piles),
        most=PILES_SHOWN,
        **shown,
    )


@blueprint.post("/sort/file")
def file_pile() -> Response:
    """Files the entries named under a category, or as transfers with an account."""
    ids = parse_ids(request.form, "entry_id")
    account_id = parse_optional_id(request.form, "account_id")
    if account_id:
        done = sorting.file_as_transfer(g.db, g.by, ids, account_id)
    else:
        done = sorting.file_entries(g.db, g.by, ids, parse_id(request.form, "category_id"))
    tell(done.sentence, done)
    return redirect(url_for("sorting.piles"), code=303)


@blueprint.post("/sort/sure")
def file_sure() -> Response:
    """Files every entry whose suggestion is at least that certain."""
    done = sorting.file_sure(g.db, g.by, SURE)
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("No suggestion is that certain")
    return redirect(url_for("sorting.piles"), code=303)


@blueprint.post("/sort/transfer")
def merge_transfer() -> Response:
    """Makes one transfer of two entries."""
    done = sorting.merge_transfer(
        g.db, g.by, parse_id(request.form, "out"), parse_id(request.form, "into"), parse_optional_id(request.form, "set_by")
    )
    tell(done.sentence, done)
    return redirect(url_for("sorting.piles"), code=303)
