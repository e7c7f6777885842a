"""Bringing in: files, the preview with its mapping, connections. Stories: tests/stories/test_bringing_in.py."""

import re
import sqlite3

from flask import current_app, g, redirect, render_template, request, session, url_for
from werkzeug.wrappers import Response

from bolsa.core.accounts.account import KIND_BY_KEY, KINDS
from bolsa.core.holdings.trades import KIND_WORDS
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import BolsaError, InvalidInput, ServiceUnavailable
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.bringing import bringing_in, connections, doubles, letters, previewing, taking_in, undoing
from bolsa.services.bringing.bringing_in import Brought
from bolsa.services.bringing.connections import Connection, Institution
from bolsa.services.bringing.questions import Answers, Choice
from bolsa.services.bringing.uploads import clean_name
from bolsa.services.clock import By
from bolsa.services.outside import send_over_http
from bolsa.services.progress import Report, silent
from bolsa.web import jobs
from bolsa.web.bringing.blueprint import blueprint
from bolsa.web.bringing.columns import MEANINGS, TABLES_HOLD, roles_of
from bolsa.web.bringing.reading import read_anew
from bolsa.web.filters import money, most_places
from bolsa.web.forms import Message, parse_id, parse_optional_id, tell
from bolsa.web.gate import outside_address

SAMPLE_ROWS = 6


@blueprint.get("/books/bring-in")
def bring_in() -> str:
    """Connections with their health, a file to bring in, and what was brought in before."""
    return _bring_in_page(None)


def _bring_in_page(error: BolsaError | None) -> str:
    overview = bringing_in.overview(g.db)
    return render_template(
        "bringing/bring_in.html",
        overview=overview,
        doubles=doubles.list_doubles(g.db),
        accounts=accounts.list_accounts(g.db),
        bank_url=current_app.config["BANK_URL"],
        letters=letters.list_letters(g.db, current_app.config["MAIL_FOLDER"]),
        error=error,
        chosen=request.values.get("account_id", type=int),
    )


@blueprint.post("/books/bring-in/file")
def bring_file() -> tuple[str, int] | Response:
    """Takes files into preview; one that cannot be read is refused with the reason beside it, the others are shown."""
    uploads = [(upload.filename, upload.read()) for upload in request.files.getlist("file") if upload.filename]
    back = url_for("bringing.bring_in")
    try:
        if not uploads:
            raise InvalidInput("Choose a file first.", field="file")
        return jobs.run("Reading", back, _preview_work(g.by, parse_optional_id(request.form, "account_id"), uploads))
    except BolsaError as error:
        error.field = error.field or "file"
        return _bring_in_page(error), 400


@blueprint.post("/books/bring-in/letters")
def bring_letters() -> tuple[str, int] | Response:
    """Takes brokers' letters into preview: the one named, or every new one that can be read."""
    names = [name for name in request.form.getlist("name") if name]
    try:
        made = letters.take_in_letters(g.db, g.by, current_app.config["MAIL_FOLDER"], names)
    except BolsaError as error:
        error.field = "letters"
        return _bring_in_page(error), 400
    return redirect(url_for("bringing.preview", batch_id=made[0]), code=303)


def _preview_work(by: By, account_id: int | None, uploads: list[tuple[str, bytes]]) -> jobs.Work:
    preview_url, back = url_for("bringing.preview", batch_id=0), url_for("bringing.bring_in")

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        made, refused = [], []
        for i, (name, content) in enumerate(uploads):
            report(i, len(uploads) if len(uploads) > 1 else 0, name)
            try:
                one = report if len(uploads) == 1 else silent
                made.append(taking_in.take_in(db, by, name, content, Answers(account_id), one).batch_id)
            except BolsaError as error:
                if len(uploads) == 1:
                    raise
                refused.append(Message(f"{clean_name(name)}: {error.sentence}", kind="problem"))
        if len(uploads) > 1:
            refused.insert(0, Message(f"{len(made)} of {len(uploads)} files can be read; look at each before it is kept"))
        return jobs.Outcome(preview_url.replace("/0", f"/{made[0]}") if made else back, tuple(refused))

    return work


@blueprint.get("/books/bring-in/<int:batch_id>")
def preview(batch_id: int) -> str | Response:
    """What a waiting batch would bring; of a batch that was brought in, what it brought."""
    shown = previewing.get_preview(g.db, batch_id)
    names = {a.id: a for a in accounts.list_accounts(g.db)}
    figures = [move.shares_e8 for one in shown.shares for move in one.new]
    figures += [move.shares_e8 for one in shown.shares for move in one.left_out]
    figures += [position.shares_e8 for one in shown.shares for position in one.brought.positions]
    return render_template(
        "bringing/preview.html", shown=shown, accounts=names, roles=roles_of(shown.csv), meanings=MEANINGS,
        tables_hold=TABLES_HOLD, sample=SAMPLE_ROWS, kinds=KINDS, share_kinds=KIND_WORDS, share_places=most_places(figures),
    )  # fmt: skip


@blueprint.post("/books/bring-in/<int:batch_id>/account")
def choose_account(batch_id: int) -> Response:
    """Says which account here a waiting file belongs to."""
    return read_anew(batch_id, Answers(parse_id(request.form, "account_id")))


@blueprint.post("/books/bring-in/<int:batch_id>/row/<int:row_id>")
def overrule(batch_id: int, row_id: int) -> Response:
    """Decides otherwise about one row of a preview."""
    previewing.overrule(g.db, batch_id, row_id, request.form.get("decision", ""))
    return redirect(url_for("bringing.preview", batch_id=batch_id), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/trade/<int:row_id>")
def overrule_trade(batch_id: int, row_id: int) -> Response:
    """Leaves one trade of a preview out, or takes it again."""
    previewing.overrule_trade(g.db, batch_id, row_id, take=request.form.get("decision") == "bring")
    return redirect(url_for("bringing.preview", batch_id=batch_id), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/accounts")
def choose_accounts(batch_id: int) -> Response:
    """Says which account here each account of a file is."""
    form, choices = request.form, {}
    for i, number in enumerate(form.getlist("number")):
        what = form.get(f"to-{i}", "leave")
        if is_number(what):
            choices[number] = Choice("here", int(what))
        elif what == "new":
            choices[number] = Choice("new", name=form.get(f"name-{i}", ""), kind=form.get(f"kind-{i}", ""))
    return read_anew(batch_id, Answers(accounts=choices, others="leave"))


@blueprint.get("/books/bring-in/<int:batch_id>/row/<int:row_id>/candidates")
def candidates(batch_id: int, row_id: int) -> str:
    """The entries a row could be matched with by hand."""
    shown = previewing.list_candidates(g.db, row_id)
    account = accounts.get_account(g.db, previewing.account_of_row(g.db, row_id))
    return render_template("bringing/candidates.html", candidates=shown, batch_id=batch_id, row_id=row_id, account=account)


@blueprint.post("/books/bring-in/<int:batch_id>/row/<int:row_id>/match")
def match_by_hand(batch_id: int, row_id: int) -> Response:
    """Matches a row with the entry chosen."""
    previewing.match_by_hand(g.db, batch_id, row_id, parse_id(request.form, "line_id"))
    return redirect(url_for("bringing.preview", batch_id=batch_id), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/bring")
def bring_batch(batch_id: int) -> Response:
    """Brings the batch in, whole."""
    by = g.by
    sort, books = url_for("sorting.piles"), url_for("accounts.table")
    preview_url = url_for("bringing.preview", batch_id=0)
    check_url, shares_url = url_for("checking.check", account_id=0), url_for("holdings.shares", account_id=0)
    register_url = url_for("ledger.register", account_id=0)

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        brought = bringing_in.bring_in(db, by, batch_id, report)
        done = brought.made
        messages = [Message(_in_words(done), done.step_id)]
        for waiting in bringing_in.list_waiting(db):
            link = preview_url.replace("/0", f"/{waiting.id}")
            messages.append(Message(f"“{waiting.name}” still waits to be brought in", link=link, link_words="Look at it"))
        for state in done.differing:
            off = money(state.difference_minor, state.account.currency)
            url, words = (check_url, "Check it") if state.checked_until else (register_url, "See why")
            link = re.sub(r"/0(?=/|\?|$)", f"/{state.account.id}", url)
            sentence = f"{state.account.name} differs from what its bank declares by {off}"
            messages.append(Message(sentence, link=link, link_words=words, kind="problem"))
        if done.shares_of and not done.new:
            return jobs.Outcome(shares_url.replace("/0/", f"/{done.shares_of[0]}/"), tuple(messages))
        return jobs.Outcome(sort if done.new else books, tuple(messages))

    return jobs.run("Bringing in", url_for("bringing.preview", batch_id=batch_id), work)


def _in_words(done: Brought) -> str:
    words = []
    if done.new or done.matched or done.known or not done.shares_of:
        here = done.known - done.asked - done.left_out
        words = [f"{done.new} new", f"{done.matched} matched with what was here", f"{here} already here"]
    if done.asked:
        words.append(f"{done.asked} left out until you decide")
    if done.left_out:
        words.append(f"{done.left_out} left out")
    if done.changed:
        words.append(f"{done.changed} changed")
    if done.vanished:
        words.append(f"{done.vanished} no longer announced")
    if done.moves or done.positions:
        words += [f"{done.moves} {'trade' if done.moves == 1 else 'trades'}", f"{done.positions} listed"]
    if done.touched_by_rules:
        others = done.touched_by_rules - done.ruled
        words.append(f"rules filed {done.ruled}" + (f" and changed {others} more" if others else ""))
    return ", ".join(words)


@blueprint.post("/books/bring-in/<int:batch_id>/asked")
def decide_asked(batch_id: int) -> Response:
    """Decides about the rows whose days are checked already, or about those that may be here."""
    take, checked = request.form.get("decision") == "bring", request.form.get("which") == "checked"
    previewing.decide_asked(g.db, batch_id, take=take, checked=checked)
    return redirect(url_for("bringing.preview", batch_id=batch_id), code=303)


@blueprint.get("/books/bring-in/duplicates")
def list_doubles() -> str:
    """The bookings that two files told, and that stand here twice."""
    return render_template("bringing/duplicates.html", found=doubles.list_doubles(g.db))


@blueprint.post("/books/bring-in/duplicates")
def take_out_doubles() -> Response:
    """Moves one of each two to the trash."""
    done = doubles.take_out_doubles(g.db, g.by)
    tell(done.sentence, done)
    return redirect(url_for("bringing.list_doubles"), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/discard")
def discard(batch_id: int) -> Response:
    """Forgets a waiting batch."""
    previewing.discard(g.db, batch_id)
    tell("The file was put aside; nothing was brought in")
    return redirect(url_for("bringing.bring_in"), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/undo")
def undo_batch(batch_id: int) -> Response:
    """Takes a batch out again."""
    tell(undoing.undo_batch(g.db, g.by, batch_id).made)
    return redirect(url_for("bringing.bring_in"), code=303)


# --- connections ------------------------------------------------------------------------------------------------------


@blueprint.get("/books/connect")
def connect() -> str:
    """The institutions one can connect to; each leads to its own sign-in page."""
    back = outside_address("bringing.connect_back")
    found, problem = [], ""
    try:
        url = current_app.config["BANK_URL"]
        found = jobs.fetch("Asking the directory", lambda _: connections.list_institutions(url, send_over_http))
    except ServiceUnavailable as error:
        problem = error.sentence
    asked = {one.name: connections.ask_consent(one, back) for one in found}
    session["consents"] = {asked[one.name].state: [one.name, one.base_url, asked[one.name].verifier, back] for one in found}
    return render_template("bringing/connect.html", institutions=found, asked=asked, problem=problem)


@blueprint.get("/books/connect/back")
def connect_back() -> str | tuple[str, int]:
    """Where an institution sends the person back to: one button finishes what was agreed."""
    kept = session.get("consents", {}).get(request.args.get("state", ""))
    if kept is None or "code" not in request.args:
        raise InvalidInput("The consent was not given, or was asked for elsewhere. Connect again.")
    return render_template(
        "bringing/connect_back.html", institution=kept[0], code=request.args["code"], state=request.args["state"]
    )


@blueprint.post("/books/connect/finish")
def connect_finish() -> Response:
    """Turns the consent into a connection."""
    kept = session.get("consents", {}).get(request.form.get("state", ""))
    if kept is None:
        raise InvalidInput("The consent was asked for elsewhere. Connect again.")
    name, base_url, verifier, back = kept
    institution = Institution(name, base_url)
    code = request.form.get("code", "")
    made_url = url_for("bringing.connection", connection_id=0)
    session.pop("consents")  # a code is taken once

    def work(db: sqlite3.Connection, _: Report) -> jobs.Outcome:
        connection_id = connections.connect(db, institution, code, verifier, back, send_over_http)
        return jobs.Outcome(f"{made_url.removesuffix('0')}{connection_id}")

    return jobs.run(f"Connecting {name}", url_for("bringing.connect"), work)


@blueprint.get("/books/connections/<int:connection_id>")
def connection(connection_id: int) -> str:
    """A connection: its health, and which account there is which account here."""
    kept, remotes = connections.get_connection(g.db, connection_id)
    shown = {"connection": kept, "remotes": remotes, "accounts": accounts.list_accounts(g.db)}
    return render_template("bringing/connection.html", **shown, renewal=_renewal(kept))


def _renewal(kept: Connection) -> str:
    """The address where the person gives this institution's consent anew; what comes back is the same connection."""
    back = outside_address("bringing.connect_back")
    asked = connections.ask_consent(Institution(kept.institution, kept.base_url), back)
    latest = dict(list(session.get("consents", {}).items())[-5:])  # the cookie must not grow with every look
    session["consents"] = {**latest, asked.state: [kept.institution, kept.base_url, asked.verifier, back]}
    return asked.address


@blueprint.post("/books/connections/<int:connection_id>/link/<int:remote_id>")
def link(connection_id: int, remote_id: int) -> Response:
    """Links an account there to one here, to a new one, or to none."""
    choice = request.form.get("account_id", "")
    if choice == "new":
        _, remotes = connections.get_connection(g.db, connection_id)
        remote = next(r for r in remotes if r.id == remote_id)
        kind = remote.remote_kind if remote.remote_kind in KIND_BY_KEY else "current"
        new = NewAccount(remote.remote_name, kind, remote.currency, number=remote.remote_number)
        account_id = accounts.add_account(g.db, g.by, new).made
    else:
        account_id = number_of(choice)
    done = connections.link(g.db, g.by, connection_id, remote_id, account_id)
    tell("The link is changed", done)
    return redirect(url_for("bringing.connection", connection_id=connection_id), code=303)


@blueprint.post("/books/connections/<int:connection_id>/refresh")
def refresh(connection_id: int) -> Response:
    """Asks an institution for what is new."""
    kept, _ = connections.get_connection(g.db, connection_id)
    return jobs.run(f"Asking {kept.institution}", url_for("bringing.connection", connection_id=connection_id), _ask_work([kept]))


@blueprint.post("/books/connections/refresh")
def refresh_all() -> Response:
    """Asks every institution; each that fails says why, the others are brought in all the same."""
    kept = [connection for connection, _ in bringing_in.overview(g.db).connections]
    return jobs.run("Asking every institution", url_for("bringing.bring_in"), _ask_work(kept))


def _ask_work(asked: list[Connection]) -> jobs.Work:
    """Asks institutions one after the other; with one alone its failure is raised."""
    by = g.by
    preview_url, back = url_for("bringing.preview", batch_id=0), url_for("bringing.bring_in")

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        batches, messages = [], []
        for one in asked:
            try:
                done = connections.download(db, by, one.id, send_over_http, report)
                messages += [Message(f"{one.institution}: {problem}", kind="problem") for problem in done.problems]
                if done.batch_id:
                    batches.append(done.batch_id)
                else:
                    messages.append(Message(f"{one.institution}: nothing new"))
            except BolsaError as error:
                messages.append(Message(f"{one.institution}: {error.sentence}", kind="problem"))
        return jobs.Outcome(preview_url.replace("/0", f"/{batches[0]}") if batches else back, tuple(messages))

    return work


@blueprint.post("/books/connections/<int:connection_id>/cut")
def cut_off(connection_id: int) -> Response:
    """Cuts a connection off; what it brought stays."""
    connections.cut_off(g.db, connection_id)
    tell("The connection is cut off; what it brought stays")
    return redirect(url_for("bringing.bring_in"), code=303)
