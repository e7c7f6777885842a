"""Rules: the list of sentences, one of them opened and filled in, what it would do. Story: tests/stories/test_rules.py."""

import sqlite3
from dataclasses import replace
from typing import Any

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.sorting.rule_words import WEEKDAYS, pieces_of
from bolsa.core.sorting.rules import HOWS
from bolsa.core.whole_numbers import is_number
from bolsa.errors import Conflict, InvalidInput, UnreadableFile
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.house import sessions
from bolsa.services.progress import Report
from bolsa.services.sorting import categories, rule_files, rule_offers, rule_previewing, rules
from bolsa.web import jobs
from bolsa.web.filters import amount
from bolsa.web.forms import message_of, parse_ids, parse_version, tell, tell_problem
from bolsa.web.sorting.blueprint import blueprint
from bolsa.web.sorting.rule_form import Draft, draft_of, new_action, new_condition, read_draft, rule_of

KINDS_WHEN = (
    ("payee", "the payee"),
    ("text", "the text of the bank"),
    ("amount", "the amount"),
    ("direction", "money comes or goes"),
    ("account", "the account"),
    ("member", "it is for a member"),
    ("category", "the category it has"),
    ("weekday", "the day of the week"),
    ("day", "the day of the month"),
)
KINDS_THEN = (
    ("file", "file under a category"),
    ("tag", "tag it"),
    ("rename", "call the payee"),
    ("member", "say whom it is for"),
    ("ask", "put it to a member"),
    ("transfer", "make it a transfer"),
    ("split", "split it"),
    ("series", "link it to what comes again"),
    ("keep_out", "keep it out of the answers"),
)
HOW_WORDS = {
    "contains": "contains", "is": "is", "starts": "starts with", "equal": "is", "above": "is above", "below": "is below",
    "between": "is between", "in": "comes in", "out": "goes out",
}  # fmt: skip


@blueprint.get("/sort/rules")
def rule_list() -> str:
    """The rules in their order; `open` fills one in, `new` begins one, for an entry's payee and category if `entry` names it."""
    draft = None
    if request.args.get("open", type=int):
        draft = draft_of(rules.get_rule(g.db, request.args.get("open", 0, type=int)), g.household.home_currency)
    elif request.args.get("new"):
        draft = _new_draft()
    return _page(draft, None)


def _new_draft() -> Draft:
    entry_id = request.args.get("entry", type=int)
    if entry_id:
        return draft_of(rule_offers.rule_like(g.db, entry_id), g.household.home_currency)
    return Draft(0, (new_condition("payee", g.household.home_currency),), (new_action("file"),))


def _page(draft: Draft | None, error: Exception | None) -> str:
    names = replace(rules.names_of(g.db), write=amount)
    rows = rules.list_rows(g.db, g.by.today)
    shown = {
        "rows": rows,
        "sentences": {row.rule.id: pieces_of(row.rule, names) for row in rows},
        "filed": rules.count_filed_lately(g.db),
        "waiting": rule_previewing.count_unsorted(g.db) if rows else 0,
        "draft": draft,
        "error": error,
        "seen": changes.version_now(g.db),
    }
    return render_template("sorting/rules.html", **shown, **(_editor(draft) if draft else {}))


def _editor(draft: Draft) -> dict[str, Any]:
    """What the sentence's fields offer, and what the rule would do as far as it is filled in."""
    shown: dict[str, Any] = {"met": None, "lacks": ""}
    try:
        shown["met"] = rule_previewing.preview(g.db, rule_of(draft))
    except InvalidInput as error:
        shown["lacks"], shown["lacks_in"] = error.sentence, error.field
    return shown | {
        "groups": categories.list_by_group(g.db),
        "account_pairs": [(a.id, a.name) for a in accounts.list_accounts(g.db)],
        "member_pairs": [(m.id, m.name) for m in sessions.list_members(g.db)],
        "series": sorted(rules.names_of(g.db).series.items(), key=lambda one: one[1]),
        "weekday_pairs": list(enumerate(WEEKDAYS)),
        "kinds_when": KINDS_WHEN,
        "kinds_then": KINDS_THEN,
        "hows": HOWS,
        "how_words": HOW_WORDS,
        "is_on": bool(draft.rule_id) and rules.get_rule(g.db, draft.rule_id).is_on,
        "rule_seen": changes.version_of(g.db, "rule", draft.rule_id) if draft.rule_id else 0,
    }


@blueprint.post("/sort/rules/say")
def say_rule() -> str:
    """The sentence as it is typed, or only what it would do (`part=met`)."""
    draft = read_draft(request.form, g.household.home_currency)
    part = "sorting/_met.html" if request.args.get("part") == "met" else "sorting/_rule.html"
    if request.headers.get("HX-Request"):
        return render_template(part, draft=draft, error=None, **_editor(draft))
    return _page(draft, None)


@blueprint.post("/sort/rules/keep")
def keep_rule() -> str | tuple[str, int] | Response:
    """Keeps the rule; with `way=apply` it changes the past entries that are ticked too."""
    form = request.form
    if form.get("add-when") or form.get("add-then") or form.get("drop") or form.get("more"):
        return _page(read_draft(form, g.household.home_currency), None)
    draft = read_draft(form, g.household.home_currency)
    try:
        rule = rule_of(draft)
        if form.get("way") != "apply":
            done = rules.keep_rule(g.db, g.by, rule, seen=_seen(form, draft))
            tell("The rule is kept for what comes", done)
            return redirect(url_for("sorting.rule_list"), code=303)
        by, seen, unticked = g.by, _seen(form, draft), draft.unticked

        def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
            done = rule_previewing.keep_and_apply(db, by, rule, unticked, seen=seen, report=report)
            return jobs.Outcome("/sort/rules", (message_of(done),))

        return jobs.run("Applying the rule", url_for("sorting.rule_list"), work)
    except (InvalidInput, Conflict) as error:
        return _page(draft, error), 409 if isinstance(error, Conflict) else 400


def _seen(form: MultiDict, draft: Draft) -> int | None:
    return parse_version(form) if draft.rule_id else None


@blueprint.post("/sort/rules/<int:rule_id>/turn")
def turn_rule(rule_id: int) -> Response:
    """Turns a rule on or off."""
    done = rules.turn_rule(g.db, g.by, rule_id, is_on=request.form.get("on") == "1")
    tell(done.sentence, done)
    return redirect(url_for("sorting.rule_list"), code=303)


@blueprint.post("/sort/rules/<int:rule_id>/remove")
def remove_rule(rule_id: int) -> Response:
    """Takes a rule out; no entry changes."""
    done = rules.remove_rule(g.db, g.by, rule_id)
    tell("The rule is taken out; what it filed stays as it is", done)
    return redirect(url_for("sorting.rule_list"), code=303)


@blueprint.post("/sort/rules/order")
def set_rule_order() -> Response:
    """Gives the rules another order: that of the rows, with one moved if `move` names it."""
    ids = parse_ids(request.form, "rule_id")
    moved = request.form.get("move", "")
    if is_number(moved) and int(moved) in ids:
        at = ids.index(int(moved))
        ids.pop(at)
        to = {"top": 0, "up": at - 1, "down": at + 1, "end": len(ids)}.get(request.args.get("way", ""), at)
        ids.insert(max(0, min(len(ids), to)), int(moved))
    done = rules.set_rule_order(g.db, g.by, ids, seen=parse_version(request.form))
    if done.step_id:
        tell(done.sentence, done)
    return redirect(url_for("sorting.rule_list", at=moved or None), code=303)


@blueprint.post("/sort/rules/run")
def run_rules() -> Response:
    """Lets the rules sort what waits to be sorted."""
    done = rule_previewing.apply_all(g.db, g.by)
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("No rule speaks of what waits to be sorted")
    return redirect(url_for("sorting.rule_list"), code=303)


@blueprint.get("/sort/rules/rules.json")
def rules_out() -> Response:
    """The rules as JSON, in names."""
    reply = FlaskResponse(rule_files.export_rules(g.db), mimetype="application/json")
    reply.headers["Content-Disposition"] = "attachment; filename=bolsa-rules.json"
    return reply


@blueprint.get("/sort/rules/bring")
def rules_in() -> str:
    """The form that brings rules in from a file."""
    return render_template("sorting/rules_in.html", error=None)


@blueprint.post("/sort/rules/bring")
def bring_rules() -> tuple[str, int] | Response:
    """Brings rules in from a file; those that are here already stay as they are."""
    upload = request.files.get("file")
    try:
        if upload is None or not upload.filename:
            raise InvalidInput("Choose a file of rules first.", field="file")
        done = rule_files.import_rules(g.db, g.by, upload.read())
    except (InvalidInput, UnreadableFile) as error:
        return render_template("sorting/rules_in.html", error=error), 400
    tell(done.sentence, done)
    return redirect(url_for("sorting.rule_list"), code=303)
