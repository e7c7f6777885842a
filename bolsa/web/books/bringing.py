"""Bringing in: files, the preview with its mapping, connections. Stories: tests/stories/test_bringing_in.py."""

from dataclasses import replace

from flask import current_app, g, redirect, render_template, request, session, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.accounts import KIND_BY_KEY
from bolsa.errors import BolsaError, InvalidInput, ServiceUnavailable
from bolsa.formats.csv_guess import CsvMapping
from bolsa.services import accounts, bringing_in, changes, connections
from bolsa.services.accounts import NewAccount
from bolsa.services.connections import Institution, send_over_http
from bolsa.web.books.blueprint import blueprint
from bolsa.web.forms import parse_id, tell, tell_problem

COLUMN_ROLES = (
    ("day", "Date"), ("value_day", "Value date"), ("payee", "Payee"), ("memo", "Memo"), ("amount", "Amount"),
    ("money_in", "In"), ("money_out", "Out"), ("sign", "Sign letter"), ("balance", "Balance"), ("bank_ref", "Bank id"),
    ("currency", "Currency"),
)  # fmt: skip
SAMPLE_ROWS = 6


@blueprint.get("/books/bring-in")
def bring_in() -> str:
    """Connections with their health, a file to bring in, and what was brought in before."""
    return _bring_in_page(None)


def _bring_in_page(error: BolsaError | None) -> str:
    overview = bringing_in.overview(g.db)
    return render_template(
        "books/bring_in.html",
        overview=overview,
        accounts=accounts.list_accounts(g.db),
        bank_url=current_app.config["BANK_URL"],
        error=error,
        chosen=request.values.get("account_id", type=int),
    )


@blueprint.post("/books/bring-in/file")
def bring_file() -> tuple[str, int] | Response:
    """Takes a file into preview; a file that cannot be read is refused with the reason beside it."""
    upload = request.files.get("file")
    try:
        if upload is None or not upload.filename:
            raise InvalidInput("Choose a file first.", field="file")
        batch_id = bringing_in.preview_file(g.db, g.by, parse_id(request.form, "account_id"), upload.filename, upload.read())
    except BolsaError as error:
        error.field = error.field or "file"
        return _bring_in_page(error), 400
    return redirect(url_for("books.preview", batch_id=batch_id), code=303)


@blueprint.get("/books/bring-in/<int:batch_id>")
def preview(batch_id: int) -> str | Response:
    """What a waiting batch would bring; of a batch that was brought in, what it brought."""
    shown = bringing_in.get_preview(g.db, batch_id)
    names = {a.id: a for a in accounts.list_accounts(g.db)}
    return render_template("books/preview.html", shown=shown, accounts=names, roles=COLUMN_ROLES, sample=SAMPLE_ROWS)


@blueprint.post("/books/bring-in/<int:batch_id>/mapping")
def change_mapping(batch_id: int) -> Response:
    """Reads a waiting CSV anew by the columns chosen."""
    shown = bringing_in.get_preview(g.db, batch_id)
    bringing_in.change_mapping(g.db, g.by, batch_id, _parse_mapping(request.form, shown.csv.mapping))
    return redirect(url_for("books.preview", batch_id=batch_id), code=303)


def _parse_mapping(form: MultiDict, before: CsvMapping) -> CsvMapping:
    """The mapping of the form: a role for each column, and the styles."""
    roles: dict[str, int | None] = {role: None for role, _ in COLUMN_ROLES}
    for name, role in form.items():
        if name.startswith("column-") and role in roles:
            column = int(name.removeprefix("column-"))
            if roles[role] is not None:
                label = dict(COLUMN_ROLES)[role]
                raise InvalidInput(f"Two columns cannot both be “{label}”.", field="mapping")
            roles[role] = column
    more = tuple(c for c in before.more_memo if c not in roles.values())
    return replace(
        before,
        **roles,
        more_memo=more,
        date_order=form.get("date_order", before.date_order),
        decimal_mark=form.get("decimal_mark", before.decimal_mark),
        delimiter={"tab": "\t"}.get(form.get("delimiter", ""), form.get("delimiter", before.delimiter)),
        flip=form.get("flip") == "1",
    )


@blueprint.post("/books/bring-in/<int:batch_id>/row/<int:row_id>")
def overrule(batch_id: int, row_id: int) -> Response:
    """Decides otherwise about one row of a preview."""
    bringing_in.overrule(g.db, batch_id, row_id, request.form.get("decision", ""))
    return redirect(url_for("books.preview", batch_id=batch_id), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/bring")
def bring_batch(batch_id: int) -> Response:
    """Brings the batch in, whole."""
    done = bringing_in.bring_in(g.db, g.by, batch_id)
    tell(f"{done.new} new, {done.matched} matched with what was typed, {done.known} already here", done.step_id)
    waiting = bringing_in.overview(g.db).waiting
    if waiting:
        return redirect(url_for("books.preview", batch_id=waiting[0].id), code=303)
    return redirect(url_for("sort.piles" if done.new else "books.accounts"), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/discard")
def discard(batch_id: int) -> Response:
    """Forgets a waiting batch."""
    bringing_in.discard(g.db, batch_id)
    tell("The file was put aside; nothing was brought in")
    return redirect(url_for("books.bring_in"), code=303)


@blueprint.post("/books/bring-in/<int:batch_id>/undo")
def undo_batch(batch_id: int) -> Response:
    """Takes a batch out again."""
    tell(changes.undo_batch(g.db, g.by, batch_id))
    return redirect(url_for("books.bring_in"), code=303)


# --- connections ------------------------------------------------------------------------------------------------------


@blueprint.get("/books/connect")
def connect() -> str:
    """The institutions one can connect to; each leads to its own sign-in page."""
    back = url_for("books.connect_back", _external=True, month=None)
    found, problem = [], ""
    try:
        found = connections.list_institutions(current_app.config["BANK_URL"], send_over_http)
    except ServiceUnavailable as error:
        problem = error.sentence
    asked = {one.name: connections.ask_consent(one, back) for one in found}
    session["consents"] = {c.state: [one.name, one.base_url, c.verifier, back] for one in found for c in [asked[one.name]]}
    return render_template("books/connect.html", institutions=found, asked=asked, problem=problem)


@blueprint.get("/books/connect/back")
def connect_back() -> str | tuple[str, int]:
    """Where an institution sends the person back to: one button finishes what was agreed."""
    kept = session.get("consents", {}).get(request.args.get("state", ""))
    if kept is None or "code" not in request.args:
        raise InvalidInput("The consent was not given, or was asked for elsewhere. Connect again.")
    return render_template("books/connect_back.html", institution=kept[0], code=request.args["code"], state=request.args["state"])


@blueprint.post("/books/connect/finish")
def connect_finish() -> Response:
    """Turns the consent into a connection."""
    kept = session.get("consents", {}).get(request.form.get("state", ""))
    if kept is None:
        raise InvalidInput("The consent was asked for elsewhere. Connect again.")
    name, base_url, verifier, back = kept
    institution = Institution(name, base_url)
    connection_id = connections.connect(g.db, institution, request.form.get("code", ""), verifier, back, send_over_http)
    session.pop("consents")
    return redirect(url_for("books.connection", connection_id=connection_id), code=303)


@blueprint.get("/books/connections/<int:connection_id>")
def connection(connection_id: int) -> str:
    """A connection: its health, and which account there is which account here."""
    kept, remotes = connections.get_connection(g.db, connection_id)
    return render_template("books/connection.html", connection=kept, remotes=remotes, accounts=accounts.list_accounts(g.db))


@blueprint.post("/books/connections/<int:connection_id>/link/<int:remote_id>")
def link(connection_id: int, remote_id: int) -> Response:
    """Links an account there to one here, to a new one, or to none."""
    choice = request.form.get("account_id", "")
    if choice == "new":
        _, remotes = connections.get_connection(g.db, connection_id)
        remote = next(r for r in remotes if r.id == remote_id)
        kind = remote.remote_kind if remote.remote_kind in KIND_BY_KEY else "current"
        new = NewAccount(remote.remote_name, kind, remote.currency, number=remote.remote_number)
        account_id = accounts.add_account(g.db, g.by, new)
    else:
        account_id = int(choice) if choice.isdigit() else None
    step_id = connections.link(g.db, g.by, connection_id, remote_id, account_id)
    tell("The link is changed", step_id)
    return redirect(url_for("books.connection", connection_id=connection_id), code=303)


@blueprint.post("/books/connections/<int:connection_id>/refresh")
def refresh(connection_id: int) -> Response:
    """Asks an institution for what is new."""
    batch_id = connections.download(g.db, g.by, connection_id, send_over_http)
    if batch_id is None:
        tell("Nothing new")
        return redirect(url_for("books.bring_in"), code=303)
    return redirect(url_for("books.preview", batch_id=batch_id), code=303)


@blueprint.post("/books/connections/refresh")
def refresh_all() -> Response:
    """Asks every institution; each that fails says why, the others are brought in all the same."""
    batches = []
    for one in bringing_in.overview(g.db).connections:
        try:
            batch_id = connections.download(g.db, g.by, one.id, send_over_http)
            if batch_id is None:
                tell(f"{one.institution}: nothing new")
            else:
                batches.append(batch_id)
        except BolsaError as error:
            tell_problem(f"{one.institution}: {error.sentence}")
    if batches:
        return redirect(url_for("books.preview", batch_id=batches[0]), code=303)
    return redirect(url_for("books.bring_in"), code=303)


@blueprint.post("/books/connections/<int:connection_id>/cut")
def cut_off(connection_id: int) -> Response:
    """Cuts a connection off; what it brought stays."""
    connections.cut_off(g.db, connection_id)
    tell("The connection is cut off; what it brought stays")
    return redirect(url_for("books.bring_in"), code=303)
