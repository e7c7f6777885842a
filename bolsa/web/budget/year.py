"""Budget, the year: twelve months of every category, changed in place, or tried. Story: tests/stories/test_year.py.

A trial's own acts stand in trials.py, baselines and files in baseline.py.
"""

import re
from collections.abc import Mapping

from flask import g, redirect, render_template, request, url_for
from markupsafe import Markup
from werkzeug.wrappers import Response

from bolsa.core.budget.expecting import parse_expectation, parse_raise
from bolsa.core.budget.trial import Trial
from bolsa.core.budget.year import MONTHS, Year, YearCell
from bolsa.core.months import Month
from bolsa.core.whole_numbers import number_of
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting, expecting, trials, year
from bolsa.services.budget.year import YearView
from bolsa.web.budget.added_up import draw_added_up
from bolsa.web.budget.blueprint import blueprint
from bolsa.web.budget.views import expect_as_typed
from bolsa.web.budget.year_cells import show_row
from bolsa.web.budget.year_columns import draw_columns
from bolsa.web.filters import brief
from bolsa.web.forms import parse_id, parse_version, tell, tell_problem

MOST_PASTED = 60  # cells of a row
_CELL = re.compile(r"c\.(\d{1,18})\.(\d{4}-\d{2})")


@blueprint.get("/budget/year")
def year_page() -> str:
    """Twelve months from the month `first`, else from the January of the chosen month; `trial` shows them as one would have
    them."""
    trial = trials.require_trial(g.db, number_of(request.args.get("trial", "")))
    view = year.year_view(g.db, g.by, _first(), trial)
    kept = view.kept or view.year
    classes = [f"n{' past' if m < g.present else ''}{' chosen' if m == g.month else ''}" for m in view.year.months]
    return render_template(
        "budget/year.html",
        view=view,
        year=view.year,
        first=_first(),
        classes=classes,
        shown=_show_rows(view, _rhythms(trial), kept, classes),
        drawing=draw_added_up(view.year, g.household.home_currency, view.kept),
        columns={group.position: draw_columns(group.expected, group.actual) for group in view.groups},
        seen=changes.version_now(g.db),
        lowest=_lowest(view),
        kept_lowest=min(kept.added_up),
        trial=trial,
        trials=trials.list_trials(g.db),
    )


def _lowest(view: YearView) -> int:
    """The place of the lowest month; of a trial, which changes nothing that is over, of those that are not."""
    ahead = range(view.year.over_months, MONTHS) if view.trial and view.year.over_months < MONTHS else range(MONTHS)
    return min(ahead, key=lambda i: (view.year.added_up[i], i))


def _rhythms(trial: Trial | None) -> dict[tuple[int, Month], int]:
    tried = {key: cell.every for key, cell in trial.cells.items()} if trial else {}
    return budgeting.rhythms_of(g.db) | tried


def _show_rows(view: YearView, rhythms: Mapping[tuple[int, Month], int], kept: Year, classes: list[str]) -> dict[int, Markup]:
    """By category: its twelve cells."""
    names = {category.id: category for group in view.groups for category, _ in group.rows}
    return {
        row.category_id: show_row(names[row.category_id], row, former, rhythms, classes, g.household.home_currency)
        for row, former in zip((*view.year.incomes, *view.year.spendings), (*kept.incomes, *kept.spendings), strict=True)
    }


def _first() -> Month:
    text = request.values.get("first", "")
    return Month.parse(text) if text else Month(g.month.year, 1)


def trial_named() -> int | None:
    """The trial a form or an address names."""
    return number_of(request.values.get("trial", ""))


@blueprint.post("/budget/year/cell")
def set_cell() -> Response:
    """Sets one cell: an amount that carries on, "every 6", "once", "+3 %" from there on, nothing; or a row that was pasted."""
    category_id, month = parse_id(request.form, "category_id"), Month.parse(request.form.get("cell", ""))
    text, trial_id = request.form.get("expected", ""), trial_named()
    pasted = [part.strip() for part in text.split("\t")]
    if len(pasted) > 1:
        _set_row(category_id, month, pasted, trial_id)
    elif trial_id is not None:
        _try_cell(trial_id, category_id, month, text)
    elif (percent := parse_raise(text)) is not None:
        done = expecting.change_by_percent(g.db, g.by, category_id, month, percent, seen=parse_version(request.form))
        tell(done.sentence, done)
    else:
        expect_as_typed(category_id, month, text)
    return back()


def _try_cell(trial_id: int, category_id: int, month: Month, text: str) -> None:
    percent = parse_raise(text)
    if percent is not None:
        done = trials.try_percent(g.db, g.by, trial_id, category_id, month, percent, seen=parse_version(request.form))
        tell(f"{done.sentence}, not kept", done)
        return
    typed = parse_expectation(text, g.household.home_currency, g.reader.decimal_mark)
    tell("Tried, not kept", trials.try_expected(g.db, g.by, trial_id, category_id, month, typed))


def _set_row(category_id: int, first: Month, texts: list[str], trial_id: int | None) -> None:
    """Sets the months from one on as they were pasted; an empty one stays as it is."""
    if len(texts) > MOST_PASTED:
        raise InvalidInput(f"A row takes up to {MOST_PASTED} months.", field="expected")
    home, mark = g.household.home_currency, g.reader.decimal_mark
    typed = [parse_expectation(text, home, mark) if text.strip("–- ") else None for text in texts]
    if any(one and one.every != 1 for one in typed):
        raise InvalidInput("A row that is pasted holds amounts alone.", field="expected")
    if trial_id is None:
        amounts = [one.amount_minor if one else None for one in typed]
        done = expecting.set_row(g.db, g.by, category_id, first, amounts, seen=parse_version(request.form))
    else:
        with changes.change(g.db, g.by) as done:
            for at, one in enumerate(typed):
                if one:
                    trials.try_expected(g.db, g.by, trial_id, category_id, first + at, one)
            done.sentence = "Tried a row of amounts"
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("That is what is expected already")


@blueprint.post("/budget/year")
def set_cells() -> Response:
    """Sets every cell whose text is not what the page had shown (for who works without script), all or none."""
    view = year.year_view(g.db, g.by, _first())
    home, seen = g.household.home_currency, parse_version(request.form)
    with changes.change(g.db, g.by) as done:
        count = 0
        for name, text in request.form.items():
            found = _CELL.fullmatch(name)
            if not found:
                continue
            category_id, month = int(found[1]), Month.parse(found[2])
            cell = next((c for c in _cells_of(view, category_id) if c.month == month), None)
            if cell is None or (brief(cell.expected_minor, home) if cell.is_hand_set else "") == text.strip():
                continue
            typed = parse_expectation(text, home, g.reader.decimal_mark)
            amount, every = (typed.amount_minor, typed.every) if typed else (None, 1)
            expecting.set_expected(g.db, g.by, category_id, month, amount, every=every, seen=seen)
            count += 1
        done.sentence = f"Set {count} expected {'amount' if count == 1 else 'amounts'}"
    if done.step_id:
        tell(done.sentence, done)
    return back()


def _cells_of(view: YearView, category_id: int) -> tuple[YearCell, ...]:
    rows = (*view.year.incomes, *view.year.spendings)
    return next((row.cells for row in rows if row.category_id == category_id), ())


@blueprint.post("/budget/year/usual")
def take_usual() -> Response:
    """Takes the usual amounts of every empty row, or of one."""
    first = _first()
    if request.form.get("category_id"):
        category_id = parse_id(request.form, "category_id")
        row = next((row for category, row in year.year_view(g.db, g.by, first).offered if category.id == category_id), None)
        if row is None:
            raise InvalidInput("Something is expected of it by now.")
        since = max(first, g.present)
        done = expecting.set_expected(g.db, g.by, category_id, since, row.usual_minor, seen=parse_version(request.form))
    else:
        done = year.take_usual(g.db, g.by, first)
    if done.step_id:
        tell(done.sentence, done)
    else:
        tell_problem("Something is expected of every category already")
    return back()


def back() -> Response:
    """To the year one was at, with the trial one was in."""
    return redirect(url_for("budget.year_page", first=_first(), trial=trial_named()), code=303)
