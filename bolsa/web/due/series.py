"""The form of a series, its dues and its end. Story: tests/stories/test_due.py."""

from datetime import timedelta

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.due.dues import Came, Series
from bolsa.core.due.rhythm import Rhythm, check_rhythm, in_words
from bolsa.core.whole_numbers import is_number
from bolsa.errors import BolsaError, Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.due import dues, keeping
from bolsa.services.due.keeping import TypedSeries
from bolsa.services.house.calendars import holidays_of
from bolsa.services.ledger import entries
from bolsa.services.pay import paydays
from bolsa.services.sorting import categories
from bolsa.web.due.blueprint import blueprint
from bolsa.web.filters import in_field
from bolsa.web.forms import parse_day, parse_id, parse_money, parse_optional_id, parse_version, tell

# What the form offers by name; any other rule is written as it is.
RHYTHMS = {
    "FREQ=WEEKLY": "every week",
    "FREQ=WEEKLY;INTERVAL=2": "every two weeks",
    "FREQ=WEEKLY;INTERVAL=4": "every four weeks",
    "FREQ=MONTHLY": "every month on that day",
    "FREQ=MONTHLY;INTERVAL=2": "every two months on that day",
    "FREQ=MONTHLY;INTERVAL=3": "every three months on that day",
    "FREQ=MONTHLY;INTERVAL=6": "every six months on that day",
    "FREQ=YEARLY": "every year on that day",
    "FREQ=MONTHLY;BYMONTHDAY=15,31": "twice a month, on the 15th and the last day",
    "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1": "on the last working day of each month",
}
LOOKED_BACK = 400  # days of dues a series' own page shows


@blueprint.get("/due/new")
def new() -> str:
    """An empty form, or one filled from an entry."""
    typed = MultiDict({"start": "", "rhythm": "FREQ=MONTHLY", "direction": "", "tolerance_days": "3"})
    entry_id = request.args.get("entry", type=int)
    if entry_id is not None:
        entry = entries.get_entry(g.db, entry_id)
        line = entry.account_lines[0]
        sorted_under = next((one.category_id for one in entry.category_lines), None)
        typed.update(
            {
                "payee": entry.payee, "account_id": str(line.account_id), "start": entry.day.isoformat(),
                "amount": in_field(abs(line.amount_minor), line.currency),
                "direction": "in" if line.amount_minor > 0 else "out", "category_id": str(sorted_under or ""),
            }
        )  # fmt: skip
    return _page(typed, None, None)


@blueprint.post("/due/new")
def add() -> tuple[str, int] | Response:
    """Keeps the series of the form."""
    try:
        done = keeping.add_series(g.db, g.by, _parse(request.form))
    except InvalidInput as error:
        return _page(request.form, error, None), 400
    tell(f"{request.form.get('payee', '').strip()} is kept as coming again", done)
    return redirect(url_for("due.page"), code=303)


@blueprint.get("/due/<int:series_id>")
def series(series_id: int) -> str:
    """A series: its form, its dues of the last year and to come, the payee's entries that no due claims."""
    kept = dues.get_kept(g.db, g.by, series_id, LOOKED_BACK)
    return _page(_typed(kept.series), None, kept)


@blueprint.post("/due/<int:series_id>")
def change(series_id: int) -> tuple[str, int] | Response:
    """Changes a series as its form says."""
    try:
        done = keeping.change_series(g.db, g.by, series_id, _parse(request.form), seen=parse_version(request.form))
    except (InvalidInput, Conflict) as error:
        kept = dues.get_kept(g.db, g.by, series_id, LOOKED_BACK)
        return _page(request.form, error, kept), 409 if isinstance(error, Conflict) else 400
    tell(f"{request.form.get('payee', '').strip()} is changed", done)
    return redirect(url_for("due.page"), code=303)


@blueprint.post("/due/<int:series_id>/end")
def end(series_id: int) -> Response:
    """Ends a series on a day, lets it go on, or forgets it."""
    if request.form.get("what") == "forget":
        done = keeping.forget_series(g.db, g.by, series_id)
        tell(done.sentence, done)
        return redirect(url_for("due.page"), code=303)
    day = parse_day(request.form, "day", g.by.today) if request.form.get("what") == "end" else None
    done = keeping.end_series(g.db, g.by, series_id, day)
    tell(done.sentence, done)
    return redirect(url_for("due.series", series_id=series_id), code=303)


@blueprint.post("/due/dates")
def dates() -> str:
    """The next six days of the rhythm as it is typed, and the rhythm in words."""
    try:
        rhythm = check_rhythm(_rhythm(request.form))
        days = rhythm.next_days(g.by.today - timedelta(days=1), 6, holidays_of(g.db))
        return render_template("due/_dates.html", words=in_words(rhythm), days=days, wrong="")
    except InvalidInput as error:
        return render_template("due/_dates.html", words="", days=[], wrong=error.sentence)


def _last_time(form: MultiDict) -> Came | None:
    """The last time something of the form's payee came on its account, from which what the form leaves open is taken."""
    account_id = parse_optional_id(form, "account_id")
    return keeping.last_time(g.db, g.by, form.get("payee", ""), account_id) if account_id else None


def _rhythm(form: MultiDict) -> Rhythm:
    rule = form.get("rrule", "").strip() if form.get("rhythm") == "own" else form.get("rhythm", "")
    last = None if form.get("start", "").strip() else _last_time(form)
    start = last.day if last else parse_day(form, "start", g.by.today) if form.get("start", "").strip() else g.by.today
    return Rhythm(rule, start, form.get("short", "last"), form.get("weekend", "stay"))


def _parse(form: MultiDict) -> TypedSeries:
    """The series a form holds; its first day and direction are those of the payee's last entry where they are left open.

    Raises: InvalidInput naming the field.
    """
    account = accounts.get_account(g.db, parse_id(form, "account_id"))
    amount = abs(parse_money(form, "amount", account.currency))
    last = _last_time(form)
    is_in = form["direction"] == "in" if form.get("direction") else last is not None and last.amount_minor > 0
    return TypedSeries(
        form.get("payee", ""), account.id, _rhythm(form), amount if is_in else -amount,
        "last" if form.get("amount_kind") == "last" else "fixed", parse_optional_id(form, "category_id"),
        _number(form, "tolerance_days", 31), _number(form, "tolerance_percent", 100),
    )  # fmt: skip


def _number(form: MultiDict, field: str, most: int) -> int:
    text = form.get(field, "").strip() or "0"
    if not is_number(text) or int(text) > most:
        raise InvalidInput(f"Write a whole number from 0 to {most}.", field=field)
    return int(text)


def _typed(kept: Series) -> MultiDict:
    """A kept series as its form would have been typed."""
    rhythm = kept.rhythm
    named = rhythm.rrule if rhythm.rrule in RHYTHMS else "own"
    return MultiDict(
        {
            "payee": kept.payee, "account_id": str(kept.account_id),
            "amount": in_field(abs(kept.amount_minor), kept.currency), "direction": "in" if kept.amount_minor > 0 else "out",
            "amount_kind": kept.amount_kind, "rhythm": named,
            "rrule": rhythm.rrule, "start": rhythm.start.isoformat(), "short": rhythm.short_month, "weekend": rhythm.weekend,
            "category_id": str(kept.category_id or ""), "tolerance_days": str(kept.tolerance_days),
            "tolerance_percent": str(kept.tolerance_percent),
        }
    )  # fmt: skip


def _page(typed: MultiDict, error: BolsaError | None, kept: dues.Kept | None) -> str:
    return render_template(
        "due/series.html",
        typed=typed,
        error=error,
        kept=kept,
        accounts=[a for a in accounts.list_accounts(g.db) if a.closed_on is None],
        groups=categories.list_by_group(g.db),
        rhythms=RHYTHMS,
        in_words=in_words,
        pay_id=paydays.find_pay_of_series(g.db, kept.series.id) if kept else None,
        seen=changes.version_of(g.db, "series", kept.series.id) if kept else 0,
    )
