"""The one table from what went wrong to an answer: status and words for people; a request number for our bugs."""

import logging
import secrets
import sqlite3

from flask import Flask, current_app, g, redirect, render_template, request
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException, SecurityError
from werkzeug.wrappers import Response

from bolsa.errors import (
    BolsaError,
    Conflict,
    FileUnusable,
    InvalidInput,
    NotAllowed,
    NotFound,
    ServiceUnavailable,
    UnreadableFile,
)
from bolsa.services.house import files
from bolsa.web.forms import tell_problem
from bolsa.web.gate import page_before

STATUS = {
    InvalidInput: 400,
    NotFound: 404,
    NotAllowed: 403,
    Conflict: 409,
    UnreadableFile: 400,
    ServiceUnavailable: 503,
    FileUnusable: 503,
    BolsaError: 400,
}
# What a form could not offer, and another's change or a hand at the address brings about.
_CHANGED_MEANWHILE = {
    sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY: "What was chosen is not here any more. Nothing was changed; look again.",
    sqlite3.SQLITE_CONSTRAINT_UNIQUE: "There is one like it here already. Nothing was changed; look again.",
}
_HTTP_WORDS = {
    404: "There is no page at this address.",
    405: "That page cannot be asked this way.",
    413: "That is larger than Bolsa takes in at once.",
}


def register(app: Flask) -> None:
    app.register_error_handler(BolsaError, for_people)
    app.register_error_handler(FileUnusable, for_now)
    app.register_error_handler(CSRFError, stale_form)
    app.register_error_handler(OverflowError, too_large)
    app.register_error_handler(sqlite3.Error, for_the_file)
    app.register_error_handler(HTTPException, for_visitors)
    app.register_error_handler(SecurityError, for_strangers)
    if not app.testing:
        app.register_error_handler(Exception, for_us)


def for_people(error: BolsaError) -> Response | tuple[str, int]:
    """A change that could not be made leads back to where it was asked, and says why there; a page says it itself."""
    before = page_before("") if request.method == "POST" else ""
    if before:
        tell_problem(error.sentence)
        return redirect(before, code=303)
    status = next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)
    return page(error.sentence, status)


def for_the_file(error: sqlite3.Error) -> tuple[str, int] | Response:
    """A file or a disk that fails is said in words, on a page that asks the file for nothing."""
    if sentence := _CHANGED_MEANWHILE.get(getattr(error, "sqlite_errorcode", 0)):
        return for_people(Conflict(sentence))
    told = files.in_words(error)
    if told is None:
        if current_app.testing:
            raise error
        return for_us(error)
    if isinstance(told, FileUnusable):
        return for_now(told)
    g.household = None
    return page(told.sentence, 503)


def for_now(error: FileUnusable) -> tuple[str, int] | Response:
    """A change that the file or the disk did not take is offered again with all that was typed; files have to be chosen anew."""
    if request.method != "POST":
        return page(error.sentence, 503)
    if request.files:
        return for_people(error)
    fields = [(name, value) for name, value in request.form.items(multi=True) if name != "csrf_token"]
    try:
        return render_template("again.html", sentence=error.sentence, fields=fields, back=page_before("")), 503
    except sqlite3.Error:  # not even the frame of the page can be read
        g.household = None
        return render_template("again.html", sentence=error.sentence, fields=fields, back=""), 503


def stale_form(_: CSRFError) -> tuple[str, int]:
    return page("This page was open for too long, or was sent from elsewhere. Nothing was changed: go back and try again.", 400)


def too_large(_: OverflowError) -> tuple[str, int]:
    """A number no row can have, as only an address typed by hand holds."""
    return page(_HTTP_WORDS[404], 404)


def for_strangers(_: SecurityError) -> Response:
    """A host that is not trusted gets no page: an address in one would be the stranger's."""
    return Response("Bolsa does not answer under this name. Use the address it printed.\n", 400, mimetype="text/plain")


def for_visitors(error: HTTPException) -> tuple[str, int] | Response:
    """What cannot be shown leads to the nearest page above it: a form that was refused, then asked for again, is no page."""
    above = nearest_page(request.path) if error.code == 405 and request.method == "GET" else None
    if above:
        return redirect(above, code=303)
    return page(_HTTP_WORDS.get(error.code or 500, error.description or "That did not work."), error.code or 500)


def nearest_page(path: str) -> str | None:
    """The address of the nearest page above one; None if there is none."""
    urls = current_app.create_url_adapter(request)
    while urls is not None and "/" in path.strip("/"):
        path = path.rstrip("/").rpartition("/")[0]
        if urls.test(path, method="GET"):
            return path
    return None


def for_us(error: Exception) -> tuple[str, int]:
    number = secrets.token_hex(4)
    logging.getLogger("bolsa").exception("request %s failed", number, exc_info=error)
    return page(f"Bolsa made a mistake; nothing was changed. The log knows it as {number}.", 500)


def page(sentence: str, status: int) -> tuple[str, int]:
    return render_template("error.html", sentence=sentence), status
