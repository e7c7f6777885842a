"""A waiting file read anew by what was answered."""

import sqlite3

from flask import g, url_for
from werkzeug.wrappers import Response

from bolsa.services.bringing import taking_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.progress import Report
from bolsa.web import jobs


def read_anew(batch_id: int, answers: Answers) -> Response:
    """Reads it as a job: it may be a large one."""
    by, url = g.by, url_for("bringing.preview", batch_id=batch_id)

    def work(db: sqlite3.Connection, report: Report) -> jobs.Outcome:
        taking_in.answer(db, by, batch_id, answers, report)
        return jobs.Outcome(url)

    return jobs.run("Reading", url, work)
