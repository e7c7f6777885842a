"""Making the application: the connection a request uses, the month every page obeys, and the headers that keep it safe."""

import secrets
from contextlib import closing
from pathlib import Path

from flask import Flask, current_app, g, redirect, request, session, url_for
from flask_wtf.csrf import CSRFProtect
from jinja2 import StrictUndefined
from werkzeug.wrappers import Response

from bolsa.core.months import Month
from bolsa.core.reader import USUAL
from bolsa.formats.text import MOST_BYTES
from bolsa.services.clock import by_now
from bolsa.services.house import files, preferences, sessions
from bolsa.services.house.open_files import OpenFiles
from bolsa.web import errors, filters, frame, gate, jobs
from bolsa.web.areas import AREAS

CONTENT_SECURITY_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
OPEN_ENDPOINTS = {"static", "welcome.new", "welcome.make"}


def create_app(
    data_path: Path,
    *,
    bank_url: str = "",
    market_url: str = "",
    mail_folder: Path | None = None,
    address: str = "",
    testing: bool = False,
) -> Flask:
    """The application over one household's file; `bank_url` is the directory of institutions, `market_url` the service of
    rates and indexes, `mail_folder` where brokers' letters lie, `address` where it is reached from outside."""
    app = Flask(__name__)
    with closing(files.make_file(data_path)) as db:
        secret = sessions.secret_key(db)
    app.config.update(
        SECRET_KEY=secret,
        DATA_PATH=data_path,
        BANK_URL=bank_url,
        MARKET_URL=market_url,
        MAIL_FOLDER=mail_folder,
        TESTING=testing,
        MAX_CONTENT_LENGTH=MOST_BYTES + 1024 * 1024,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
    )
    app.jinja_env.undefined = StrictUndefined
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.add_extension("jinja2.ext.do")
    app.before_request(read_as_usual)
    gate.register(app, address)
    CSRFProtect(app)
    app.before_request(open_request)
    app.teardown_appcontext(close_request)
    app.after_request(add_headers)
    app.url_defaults(keep_month)
    app.context_processor(frame.context)
    filters.register(app)
    errors.register(app)
    jobs.register(app)
    app.extensions["open_files"] = OpenFiles(data_path)
    app.extensions["areas"] = {area.name: area for area in AREAS}
    for area in AREAS:
        app.register_blueprint(area.blueprint)
    return app


def read_as_usual() -> None:
    """What is refused before the file is opened is written as most read."""
    g.reader = USUAL


def open_request() -> Response | None:
    """Opens the file, reads the clock once, and the month the address names; without a household, leads to the first page."""
    if request.endpoint == "static":
        return None
    g.db = current_app.extensions["open_files"].take()
    g.household = sessions.find_household(g.db)
    if g.household is None:
        return None if request.endpoint in OPEN_ENDPOINTS else redirect(url_for("welcome.new"))
    g.by = by_now(g.db, sessions.member_id(g.db, session.get("member_id")))
    g.reader = preferences.reader_of(g.db)
    g.present = Month.of(g.by.today)
    g.month = g.present
    if request.args.get("month"):
        g.month = Month.parse(request.args["month"])
    return None


def keep_month(endpoint: str, values: dict) -> None:
    """Every address keeps the month that is chosen, unless it names another."""
    if endpoint != "static" and "month" not in values and "month" in g and g.month != g.present:
        values["month"] = str(g.month)


def close_request(_: BaseException | None) -> None:
    db = g.pop("db", None)
    if db is not None:
        current_app.extensions["open_files"].give_back(db)


def add_headers(response: Response) -> Response:
    """The safety headers, on every answer."""
    response.headers["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()"
    response.headers["X-Request-Id"] = secrets.token_hex(4)
    if request.endpoint != "static":
        response.headers["Cache-Control"] = "no-store"
        response.vary.add("HX-Request")
    return response
