"""Questions put to members, and their answers. Story: tests/stories/test_sorting.py."""

from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.house import sessions
from bolsa.services.sorting import asking, categories, keeping_out
from bolsa.web.forms import parse_id, parse_optional_id, tell, tell_problem
from bolsa.web.gate import page_before
from bolsa.web.sorting.blueprint import blueprint


@blueprint.get("/sort/questions")
def question_list() -> str:
    """The questions that wait, of all or of one member, and those answered lately."""
    members = sessions.list_members(g.db)
    member = next((one for one in members if one.id == request.args.get("member", type=int)), None)
    return render_template(
        "sorting/questions.html",
        found=asking.list_open(g.db, member.id if member else None),
        answered=[] if member else asking.list_answered(g.db),
        counts=asking.count_open(g.db),
        sorters=members,
        member=member,
        names=categories.names_of(g.db),
        accounts={a.id: a.name for a in accounts.list_accounts(g.db)},
        groups=categories.list_by_group(g.db),
    )


@blueprint.post("/sort/questions/ask")
def ask_about() -> Response:
    """Puts an entry to a member, from its own page."""
    form = request.form
    entry_id = parse_id(form, "entry_id")
    try:
        done = asking.ask(g.db, g.by, [entry_id], parse_id(form, "ask"), form.get("asking", ""))
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    return redirect(page_before(url_for("ledger.entry", entry_id=entry_id)), code=303)


@blueprint.post("/sort/questions/<int:question_id>/answer")
def answer_question(question_id: int) -> Response:
    """Answers a question: files its entry, or leaves it as it is."""
    form = request.form
    try:
        done = asking.answer(g.db, g.by, question_id, parse_optional_id(form, "category_id"), form.get("answer", ""))
        tell(done.sentence, done)
    except InvalidInput as error:
        tell_problem(error.sentence)
    return redirect(url_for("sorting.question_list", member=form.get("member") or None), code=303)


@blueprint.post("/sort/questions/<int:question_id>/back")
def take_back_question(question_id: int) -> Response:
    """Takes a question back that is not answered yet."""
    done = asking.take_back(g.db, g.by, question_id)
    tell(done.sentence, done)
    return redirect(url_for("sorting.question_list", member=request.form.get("member") or None), code=303)


@blueprint.post("/sort/keep-out/<int:entry_id>")
def keep_out(entry_id: int) -> Response:
    """Keeps an entry out of the answers, or lets them count it again."""
    done = keeping_out.keep_out(g.db, g.by, [entry_id], out=request.form.get("out") == "1")
    tell(done.sentence, done)
    return redirect(page_before(url_for("ledger.entry", entry_id=entry_id)), code=303)
