"""Long work beside the request: it runs in a thread with a connection of its own, and a page shows how far it is.

Short work is done before anyone looks: the request waits a moment and answers as if there were no job. What the work changes
is one transaction, so that a server that dies in the middle leaves nothing half done.
"""

import secrets
import threading
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass, field
from sqlite3 import Connection
from typing import TypeVar, cast
from urllib.parse import urlencode

from flask import Blueprint, Flask, current_app, g, redirect, render_template, request, url_for
from werkzeug.exceptions import HTTPException
from werkzeug.wrappers import Response

from bolsa.core.known import known
from bolsa.core.reader import Reader
from bolsa.errors import BolsaError, NotFound
from bolsa.services.house import files
from bolsa.services.progress import Report
from bolsa.web.forms import Message, tell_all

WAIT_SECONDS = 0.8
MOST_KEPT = 50
ASKED = "asked"  # the argument by which a page knows the job that fetched for it

blueprint = Blueprint("jobs", __name__)


@dataclass(frozen=True)
class Outcome:
    """Where the work leads, and what is to be said there."""

    url: str
    messages: tuple[Message, ...] = ()


Work = Callable[[Connection, Report], Outcome]
Answer = TypeVar("Answer")


class Stopped(BolsaError):
    default = "Stopped. Nothing of it was kept."


@dataclass
class Job:
    """Work under way: how many are done, of how many, and what; then its outcome or what stopped it. What only waits for an
    answer cannot be stopped; it has a deadline."""

    title: str
    back: str
    done: int = 0
    total: int = 0
    words: str = ""
    outcome: Outcome | None = None
    fetched: object = None
    error: Exception | None = None
    can_stop: bool = True
    is_told: bool = False
    stopped: threading.Event = field(default_factory=threading.Event)
    finished: threading.Event = field(default_factory=threading.Event)

    def report(self, done: int, total: int, words: str) -> None:
        """Hears how far the work is. Raises: Stopped, which ends it."""
        if self.stopped.is_set():
            raise Stopped
        self.done, self.total, self.words = done, total, words


def register(app: Flask) -> None:
    app.extensions["jobs"] = {}
    app.register_blueprint(blueprint)


def run(title: str, back: str, work: Work) -> Response:
    """Begins the work; answers with its outcome if it is quick, else with the page that shows how far it is.

    `back` is where its failure is told. Raises what quick work raises, so that a form can say it beside its field.
    """
    job = Job(title, back)
    _begin(job, work)
    if not job.finished.wait(WAIT_SECONDS):
        return redirect(url_for("jobs.progress", job_id=_keep(job)), code=303)
    if job.error:
        raise job.error
    return _lead_on(job)


class StillAsking(HTTPException):
    """An outside service has not answered yet: the request ends with the page that shows it, and leads back when it has."""

    def __init__(self, job_id: str):
        super().__init__(response=redirect(url_for("jobs.progress", job_id=job_id), code=303))
        self.job_id = job_id


def fetch(title: str, ask: Callable[[Connection], Answer]) -> Answer:
    """What an outside service answers, for a page that shows it; no request waits for it longer than a moment.

    Raises: StillAsking, after which the page is asked for again with the job it waits for; what asking raises.
    """
    job_id = request.args.get(ASKED, "")
    job = current_app.extensions["jobs"].get(job_id)
    if job is None or job.back != _asking(job_id):  # of another question, or no question at all
        job = Job(title, "", can_stop=False)
        job_id = _keep(job)
        job.back = _asking(job_id)

        def work(db: Connection, _report: Report) -> Outcome:
            job.fetched = ask(db)
            return Outcome(job.back)

        _begin(job, work)
    if not job.finished.wait(WAIT_SECONDS):
        raise StillAsking(job_id)
    current_app.extensions["jobs"].pop(job_id, None)
    if job.error:
        raise job.error
    return cast("Answer", job.fetched)


def _asking(job_id: str) -> str:
    """The address of this page, as it is asked for once a job has fetched for it."""
    return f"{request.path}?{urlencode({**request.args, ASKED: job_id})}"


def _begin(job: Job, work: Work) -> None:
    app = current_app._get_current_object()  # type: ignore[attr-defined]  # the application itself, for the other thread
    threading.Thread(target=_work, args=(job, app, g.reader, work), daemon=True).start()


def _keep(job: Job) -> str:
    """Keeps a job to be asked after; the oldest that are done go. Gives its id."""
    kept: dict[str, Job] = current_app.extensions["jobs"]
    done = [old for old, one in list(kept.items()) if one.finished.is_set()]
    for old in done[: max(0, len(kept) + 1 - MOST_KEPT)]:
        kept.pop(old, None)
    job_id = secrets.token_urlsafe(9)
    kept[job_id] = job
    return job_id


def _work(job: Job, app: Flask, reader: Reader, work: Work) -> None:
    try:
        with app.app_context(), closing(files.make_file(app.config["DATA_PATH"])) as db:
            g.reader = reader  # what the work says is written as the asking reader reads
            job.outcome = work(db, job.report)
    except Exception as error:
        job.error = error
    finally:
        job.finished.set()


def _lead_on(job: Job) -> Response:
    outcome = known(job.outcome)
    tell_all(outcome.messages)
    return redirect(outcome.url, code=303)


@blueprint.get("/progress/<job_id>")
def progress(job_id: str) -> str | Response:
    """How far a long work is; once it is done, leads to what it made."""
    job: Job | None = current_app.extensions["jobs"].get(job_id)
    if job is None:
        raise NotFound("That work is over, or the server was started anew. What was finished is kept, the rest was not begun.")
    if not job.finished.is_set():
        return render_template("progress.html", job=job, job_id=job_id)
    url = job.back
    if not job.can_stop:  # the page itself takes what was fetched, or says why nothing was
        return _lead(url)
    said: tuple[Message, ...] = ()
    if isinstance(job.error, BolsaError):
        said = (Message(job.error.sentence, kind="problem"),)
    elif job.error:
        raise job.error
    else:
        outcome = known(job.outcome)
        said, url = outcome.messages, outcome.url
    tell_all(() if job.is_told else said)
    job.is_told = True  # who comes here again, as by Back, is led on without a word
    return _lead(url)


@blueprint.post("/progress/<job_id>/stop")
def stop(job_id: str) -> Response:
    """Stops a work at its next report; what it changed is taken back."""
    job: Job | None = current_app.extensions["jobs"].get(job_id)
    if job is not None:
        job.stopped.set()
        job.finished.wait(WAIT_SECONDS)
    return redirect(url_for("jobs.progress", job_id=job_id), code=303)


def _lead(url: str) -> Response:
    if request.headers.get("HX-Request"):
        return Response(headers={"HX-Redirect": url})
    return redirect(url, code=303)
