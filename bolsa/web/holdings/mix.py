"""The mix against its targets, and money by when it is meant for. Story: tests/stories/test_mix.py."""

from dataclasses import dataclass

from flask import g, redirect, render_template, request, url_for
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from bolsa.core.holdings.bands import Band
from bolsa.core.holdings.mix import BANDS, AssetClass, MixPlan
from bolsa.core.percents import parse_percent
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import BolsaError, InvalidInput
from bolsa.services.holdings import mix
from bolsa.services.holdings.mix import MixView
from bolsa.web.forms import parse_optional_id, parse_optional_money, tell
from bolsa.web.holdings.blueprint import blueprint

HUES = (1, 8, 4, 2, 6, 5, 7, 3)
WIDTH = 1100
BAND_WIDTH = 760
LETTER = 7.4
UNSAID_HUE = 9
BAND_WORDS = {"near": "Near", "middle": "Middle", "far": "Far"}


@dataclass(frozen=True)
class Piece:
    """A piece of a strip: its class, where it lies, its hue, and its name if there is room for it."""

    class_id: int
    x: float
    width: float
    hue: int
    name: str


@dataclass(frozen=True)
class Strip:
    """One bar cut into classes, with a notch at the end of each class's target."""

    pieces: tuple[Piece, ...]
    notches: tuple[tuple[float, str], ...]


def hue_of(view: MixView, class_id: int) -> int:
    """The hue of a class, by its place in the household's order."""
    places = [one.id for one in view.classes]
    return HUES[places.index(class_id) % len(HUES)] if class_id in places else UNSAID_HUE


def draw_strip(view: MixView) -> Strip:
    """The mix as one bar; the notches are where each class would end at its target."""
    pieces, x = [], 0.0
    for line in view.lines:
        width = round(WIDTH * float(line.percent) / 100, 1)
        name = line.of_class.name if len(line.of_class.name) * LETTER + 14 < width else ""
        if width:
            pieces.append(Piece(line.of_class.id, round(x, 1), width, hue_of(view, line.of_class.id), name))
        x += width
    notches, at = [], 0.0
    for line in view.lines[:-1]:
        if line.target is None:
            return Strip(tuple(pieces), ())
        at += float(line.target)
        if at < 99.9:
            notches.append((round(WIDTH * at / 100, 1), f"{line.of_class.name} at its target"))
    return Strip(tuple(pieces), tuple(notches))


@dataclass(frozen=True)
class BandStrip:
    """A band's bar by class, in years of spending, and where its need ends."""

    band: Band
    pieces: tuple[Piece, ...]
    need_x: float | None
    years: float | None

    @property
    def end(self) -> float:
        """Where the last piece ends."""
        return self.pieces[-1].x + self.pieces[-1].width if self.pieces else 0.0


def draw_bands(view: MixView) -> tuple[BandStrip, ...]:
    """The three bands as bars of one scale: money, and with it years of spending."""
    most = max([band.there_minor for band in view.bands] + [band.needed_minor or 0 for band in view.bands] + [1])
    found = []
    for band in view.bands:
        pieces, x = [], 0.0
        for class_id in [*(one.id for one in view.classes), 0]:
            width = round(BAND_WIDTH * max(0, band.by_class.get(class_id, 0)) / most, 1)
            if width:
                pieces.append(Piece(class_id, round(x, 1), width, hue_of(view, class_id), ""))
                x += width
        need = round(BAND_WIDTH * band.needed_minor / most, 1) if band.needed_minor is not None else None
        years = band.there_minor / view.yearly_minor if view.yearly_minor > 0 else None
        found.append(BandStrip(band, tuple(pieces), need, years))
    return tuple(found)


@blueprint.get("/holdings/mix")
def mix_page() -> str:
    """The mix of today against its targets, the bands, and what is locked until when."""
    return _page(None, MultiDict())


def _page(error: BolsaError | None, typed: MultiDict) -> str:
    view = mix.mix_view(g.db, g.by)
    return render_template(
        "holdings/mix.html",
        view=view,
        strip=draw_strip(view),
        bands=draw_bands(view),
        band_words=BAND_WORDS,
        hue=lambda class_id: hue_of(view, class_id),
        error=error,
        typed=typed,
        with_sales=bool(request.args.get("sales")),
    )


@blueprint.post("/holdings/mix/classes")
def say_classes() -> tuple[str, int] | Response:
    """Keeps the classes, their bands and targets as they are typed."""
    form = request.form
    try:
        done = mix.say_classes(g.db, g.by, _classes(form))
    except InvalidInput as error:
        return _page(error, form), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.mix_page"), code=303)


def _classes(form: MultiDict) -> list[AssetClass]:
    found: list[AssetClass] = []
    for text in form.getlist("class"):
        class_id = number_of(text) or 0
        name = " ".join(form.get(f"name-{text}", "").split())
        if not name and (not class_id or form.get(f"out-{text}")):
            continue
        if form.get(f"out-{text}"):
            continue
        target = " ".join(form.get(f"target-{text}", "").replace("−", "-").removesuffix("%").split())
        found.append(AssetClass(class_id, name, len(found) + 1, form.get(f"band-{text}", "far"), target))
    return found


@blueprint.post("/holdings/mix/plan")
def say_plan() -> tuple[str, int] | Response:
    """Keeps how long the bands are, what is put in a month, and whose age counts."""
    form = request.form
    try:
        plan = MixPlan(
            _number(form, "near_years"), _number(form, "middle_years"),
            parse_optional_money(form, "contribution", g.household.home_currency) or 0, parse_optional_id(form, "aged"),
        )  # fmt: skip
        birth_year = _number(form, "birth_year") if form.get("birth_year", "").strip() else None
        done = mix.say_plan(g.db, g.by, plan, birth_year)
    except InvalidInput as error:
        return _page(error, form), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.mix_page"), code=303)


def _number(form: MultiDict, field: str) -> int:
    text = form.get(field, "").strip()
    if not (is_number(text) and len(text) < 5):
        raise InvalidInput("Write a whole number.", field=field)
    return int(text)


@blueprint.get("/holdings/mix/<key>")
def mix_row(key: str) -> str:
    """What a security, or an account, is made of."""
    return _row_page(key, None, MultiDict())


def _row_page(key: str, error: BolsaError | None, typed: MultiDict) -> str:
    view = mix.mix_view(g.db, g.by)
    return render_template(
        "holdings/mix_row.html", row=mix.get_row(g.db, g.by, key), view=view, band_words=BAND_WORDS, error=error, typed=typed
    )


@blueprint.post("/holdings/mix/<key>")
def say_parts(key: str) -> tuple[str, int] | Response:
    """Keeps what a security, or an account, is made of, and for which years it is meant."""
    form = request.form
    try:
        parts = {
            one.id: parse_percent(form.get(f"part-{one.id}", ""), "parts")
            for one in mix.mix_view(g.db, g.by).classes
            if form.get(f"part-{one.id}", "").strip()
        }
        band = form.get("band", "")
        done = mix.say_parts(g.db, g.by, key, parts, band if band in BANDS else "")
    except InvalidInput as error:
        return _row_page(key, error, form), 400
    tell(done.sentence, done)
    return redirect(url_for("holdings.mix_page"), code=303)
