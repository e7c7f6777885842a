"""The page of dues: proposals, the weeks ahead, what is late or differs, and every series. Story: tests/stories/test_due.py."""

from flask import Response as FlaskResponse
from flask import g, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from bolsa.core.due.ahead import find_mending
from bolsa.core.due.rhythm import in_words
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.due import calendars, dues, finding, keeping, reminding
from bolsa.services.sorting import categories
from bolsa.web.due.blueprint import blueprint
from bolsa.web.due.timeline import draw_lane
from bolsa.web.forms import parse_day, parse_id, tell

STRETCHES = ((42, "Six weeks"), (91, "Three months"), (366, "A year"))


@blueprint.get("/due")
def page() -> str:
    """What is due; `days` looks further ahead, `account` shows one account's series alone."""
    return _page(None)


def _page(error: InvalidInput | None) -> str:
    days = request.args.get("days", type=int)
    days = days if days in dict(STRETCHES) else STRETCHES[0][0]
    view, prices = dues.dues_and_prices(g.db, g.by, days)
    account_id = request.args.get("account", type=int)
    shown = [lane for lane in view.lanes if lane.dues or lane.crossing]
    crossing = next((lane for lane in view.lanes if lane.crossing), None)
    return render_template(
        "due/dues.html",
        view=view,
        days=days,
        stretches=STRETCHES,
        lanes=[(lane, draw_lane(lane)) for lane in shown],
        crossing=crossing,
        mending=find_mending(view.lanes, crossing) if crossing else None,
        proposals=finding.list_proposals(g.db, g.by.today),
        prices=prices,
        kept=[one for one in view.kept if account_id in (None, one.account.id)],
        account_id=account_id,
        accounts=[a for a in accounts.list_accounts(g.db) if any(one.account.id == a.id for one in view.kept)],
        names=categories.names_of(g.db),
        in_words=in_words,
        reminders=reminding.list_open(g.db),
        error=error,
        typed=request.form,
    )


@blueprint.post("/due/reminders")
def add_reminder() -> tuple[str, int] | Response:
    """Reminds of something on a day."""
    try:
        day = parse_day(request.form, "day", g.by.today, ahead=True)
        done = reminding.add_reminder(g.db, g.by, day, request.form.get("words", ""))
    except InvalidInput as error:
        return _page(error), 400
    tell(done.sentence, done)
    return redirect(url_for("due.page"), code=303)


@blueprint.post("/due/reminders/<int:reminder_id>/done")
def do_reminder(reminder_id: int) -> Response:
    """Notes that a reminder was thought of."""
    done = reminding.do_reminder(g.db, g.by, reminder_id)
    tell(done.sentence, done)
    return redirect(url_for("today.thread") if request.form.get("back") == "today" else url_for("due.page"), code=303)


@blueprint.post("/due/reminders/<int:reminder_id>/forget")
def forget_reminder(reminder_id: int) -> Response:
    """Takes a reminder out."""
    done = reminding.forget_reminder(g.db, g.by, reminder_id)
    tell(done.sentence, done)
    return redirect(url_for("due.page"), code=303)


@blueprint.post("/due/proposals")
def decide() -> Response:
    """Keeps or refuses the proposals chosen; keeps all of them when asked for all."""
    keys = request.form.getlist("key")
    if request.form.get("what") == "all":
        keys = [one.key for one in finding.list_proposals(g.db, g.by.today)]
    if not keys:
        raise InvalidInput("Choose some of the proposals first.")
    if request.form.get("what") == "refuse":
        done = keeping.refuse(g.db, g.by, keys)
        tell("They are not proposed again" if len(keys) > 1 else "It is not proposed again", done)
    else:
        done = keeping.accept(g.db, g.by, keys)
        tell(done.sentence, done)
    return redirect(url_for("due.page"), code=303)


@blueprint.post("/due/<int:series_id>/dues/<any(skip, miss, again, match):what>")
def say(series_id: int, what: str) -> Response:
    """Leaves a due out, says that it hasn't come, takes that back, or matches it with an entry."""
    day = parse_day(request.form, "day", g.by.today)
    if what == "skip":
        done = keeping.skip_due(g.db, g.by, series_id, day)
    elif what == "miss":
        done = keeping.miss_due(g.db, g.by, series_id, day)
    elif what == "again":
        done = keeping.await_due(g.db, g.by, series_id, day)
    else:
        done = keeping.match_due(g.db, g.by, series_id, day, parse_id(request.form, "line_id"))
    tell(done.sentence, done)
    back = url_for("due.page") if what == "miss" else url_for("due.series", series_id=series_id)
    return redirect(back, code=303)


@blueprint.post("/due/<int:series_id>/out/<int:line_id>")
def keep_out(series_id: int, line_id: int) -> Response:
    """Says that an entry of the payee is no due."""
    done = keeping.keep_out(g.db, g.by, series_id, line_id)
    tell(done.sentence, done)
    return redirect(url_for("due.series", series_id=series_id), code=303)


@blueprint.get("/due.ics")
def calendar() -> FlaskResponse:
    """The dues of a year ahead as a calendar file."""
    text = calendars.write_calendar(g.db, g.by)
    return FlaskResponse(text, mimetype="text/calendar", headers={"Content-Disposition": 'attachment; filename="bolsa-due.ics"'})
