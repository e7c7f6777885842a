"""House: members, categories, journal, trash, health, taking everything out. Story: tests/stories/test_first_hour.py."""

import io
import tempfile
import zipfile
from datetime import timedelta
from functools import lru_cache
from pathlib import Path

from babel import Locale
from flask import current_app, g, redirect, render_template, request, send_file, session, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.reader import READERS
from bolsa.core.whole_numbers import is_number
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.house import backups, calendars, exports, households, preferences, sessions
from bolsa.services.ledger import listing
from bolsa.web.filters import samples
from bolsa.web.forms import parse_optional_id, parse_version, tell, tell_in_the_way
from bolsa.web.gate import page_before
from bolsa.web.house.blueprint import blueprint


@blueprint.get("/house")
def rooms() -> str:
    """What the household keeps in order here: the journal, the trash, copies and health."""
    steps = changes.list_steps(g.db, request.args.get("before", type=int))
    formers = backups.list_formers(current_app.config["DATA_PATH"])
    return render_template("house/rooms.html", steps=steps, trash=changes.list_trash(g.db), formers=formers)


@blueprint.get("/house/health")
def health() -> str:
    """Everything that must hold, checked now."""
    return render_template("house/health.html", breaches=listing.check(g.db))


@blueprint.post("/house/undo/<int:step_id>")
def undo(step_id: int) -> Response:
    """Undoes a step of the journal."""
    try:
        done = changes.undo_step(g.db, g.by, step_id)
    except Conflict as error:
        if error.step_id is None:
            raise
        tell_in_the_way(error, step_id)
        return redirect(page_before(url_for("house.rooms")), code=303)
    tell(done.made or done.sentence)
    return redirect(page_before(url_for("house.rooms")), code=303)


@blueprint.post("/house/undo/<int:step_id>/with-later")
def undo_with_later(step_id: int) -> Response:
    """Undoes a step and what changed the same things later, as one step."""
    done = changes.undo_with_later(g.db, g.by, step_id)
    tell(done.sentence, done)
    return redirect(page_before(url_for("house.rooms")), code=303)


@blueprint.post("/house/trash/<int:trash_id>/restore")
def restore(trash_id: int) -> Response:
    """Puts an entry back from the trash."""
    changes.restore_entry(g.db, g.by, trash_id)
    tell("The entry is back")
    return redirect(url_for("house.rooms"), code=303)


@blueprint.post("/house/trash/empty")
def empty_trash() -> Response:
    """Empties the trash."""
    done = changes.empty_trash(g.db, g.by)
    tell(f"{done.made} entries are gone from the trash", done)
    return redirect(url_for("house.rooms"), code=303)


@blueprint.get("/house/household")
def household() -> str:
    """The household's name, home currency, time zone, and who belongs to it."""
    return _household_page(None, MultiDict())


def _household_page(error: InvalidInput | None, typed: MultiDict) -> str:
    kept = {"name": g.household.name, "currency": g.household.home_currency, "time_zone": g.household.time_zone}
    return render_template(
        "house/household.html",
        typed={**kept, **typed.to_dict()},
        error=error,
        zones=households.list_zones(),
        members=sessions.list_members(g.db),
        may_change_currency=households.may_change_currency(g.db),
        seen=changes.version_of(g.db, "household", 1),
    )


@blueprint.post("/house/household")
def change_household() -> tuple[str, int] | Response:
    """Gives the household another name, time zone or home currency."""
    form = request.form
    currency = form.get("currency", g.household.home_currency)
    try:
        done = households.change_household(
            g.db, g.by, form.get("name", ""), currency, form.get("time_zone", ""), seen=parse_version(form)
        )
    except InvalidInput as error:
        return _household_page(error, form), 400
    tell("The household is changed", done)
    return redirect(url_for("house.household"), code=303)


@blueprint.post("/house/members")
def put_member() -> tuple[str, int] | Response:
    """Adds a member, gives one another name and birth year, or takes one out."""
    form = request.form
    member_id = parse_optional_id(form, "member_id")
    try:
        if form.get("way") == "remove" and member_id:
            done = households.remove_member(g.db, g.by, member_id)
        else:
            year = form.get("birth_year", "").strip()
            if year and not (is_number(year) and len(year) == 4):
                raise InvalidInput("Write the year of birth in four digits.", field="birth_year")
            done = households.put_member(g.db, g.by, member_id, form.get("member", ""), int(year) if year else None)
    except InvalidInput as error:
        error.field = f"{error.field}-{member_id or 0}"
        return _household_page(error, form), 400
    tell(done.sentence, done)
    return redirect(url_for("house.household"), code=303)


@blueprint.get("/house/reading")
def reading() -> str:
    """How numbers and days are read and written, each way with a sample."""
    home, today = g.household.home_currency, g.by.today
    ways = [(reader, samples(reader, home, today)) for reader in READERS.values()]
    return render_template(
        "house/reading.html", ways=ways, chosen=g.reader, countries=_named_countries(), country=calendars.chosen_country(g.db)
    )


@lru_cache(1)
def _named_countries() -> tuple[tuple[str, str], ...]:
    """The countries whose holidays are known, each with its name, by name."""
    names = Locale("en").territories
    return tuple(sorted(((code, names.get(code, code)) for code in calendars.list_countries()), key=lambda one: one[1]))


@blueprint.post("/house/reading")
def choose_reading() -> Response:
    """Says how numbers and days are read and written from now on."""
    preferences.choose_reader(g.db, request.form.get("locale", ""), is_dense=request.form.get("density") == "dense")
    tell("Numbers and days are read and written that way now")
    return redirect(url_for("house.reading"), code=303)


@blueprint.post("/house/sit")
def sit_here() -> Response:
    """Says who sits here; the journal notes it with what is done."""
    if is_number(request.form.get("member_id", "")):
        session["member_id"] = int(request.form["member_id"])
    return redirect(page_before(url_for("today.thread")), code=303)


@blueprint.post("/house/next-day")
def next_day() -> Response:
    """Lets the next day come, where the clock is set by hand."""
    if g.household.set_day is None:
        raise NotAllowed("This household's clock follows the machine.")
    households.set_day(g.db, g.by, g.by.today + timedelta(days=1))
    return redirect(url_for("today.thread"), code=303)


@blueprint.get("/house/export.zip")
def export() -> Response:
    """Everything as CSV and JSON in one ZIP file."""
    packed = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in exports.export_all(g.db, Path(folder)):
            archive.write(path, path.relative_to(folder))
    packed.seek(0)
    return send_file(packed, mimetype="application/zip", as_attachment=True, download_name="bolsa-export.zip")


@blueprint.get("/house/backup.bolsa")
def backup() -> Response:
    """The whole household in one file, checked."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "backup.bolsa"
        backups.back_up(g.db, path)
        content = io.BytesIO(path.read_bytes())
    name = f"bolsa-{g.by.today.isoformat()}.bolsa"
    return send_file(content, mimetype="application/vnd.sqlite3", as_attachment=True, download_name=name)
