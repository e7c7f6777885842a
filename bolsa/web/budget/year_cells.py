"""A cell of the year as it is shown: its field, what came beneath it, and a bar. A year of 150 categories has two thousand of
them, so they are put together here, each escaped once, and not by a template."""

from collections.abc import Mapping, Sequence

from markupsafe import Markup, escape

from bolsa.core.budget.month import ONCE
from bolsa.core.budget.year import YearCell, YearRow
from bolsa.core.months import Month
from bolsa.core.sorting.category import Category
from bolsa.web.filters import brief, month_name
from bolsa.web.working.views import figure

BAR = 60  # the length of a month's expected amount, in the drawing's own units
BAR_ROOM = 72
HAND_SET = (
    '<svg class="notch-at" width="7" height="7" role="img" aria-label="set by hand"><path class="notch" d="M0 0h7L0 7z"/></svg>'
)
CARRIED = '<i class="lead-in"></i>'


def show_row(
    category: Category,
    row: YearRow,
    kept: YearRow,
    rhythms: Mapping[tuple[int, Month], int],
    classes: Sequence[str],
    currency: str,
) -> Markup:
    """A category's twelve cells, beside those of the year as it is kept; `classes` are those of each month's column."""
    cells = []
    for cell, was, class_ in zip(row.cells, kept.cells, classes, strict=True):
        is_tried = was.goes_minor != cell.goes_minor
        inner = _cell(category, cell, rhythms.get((category.id, cell.month), 1), currency, is_tried=is_tried)
        cells.append(f'<td class="{class_}{" tried" if is_tried else ""}">{inner}</td>')
    return Markup("".join(cells))  # noqa: S704 (the name is escaped; the rest are figures)


def _cell(category: Category, cell: YearCell, every: int, currency: str, *, is_tried: bool) -> str:
    """The cell with its field. A figure that is carried on, comes by its rhythm, or follows from an aim stands there in grey;
    while one is in the field, it holds what is typed to get the figure."""
    amount = brief(cell.expected_minor, currency)
    rhythm = {ONCE: " once", 1: ""}.get(every, f" every {every}")
    own = amount if cell.is_hand_set else ""
    put_by = brief(cell.aimed_minor, currency) if cell.aimed_minor else "–"
    carried = amount if cell.expected_minor else put_by
    name = f"c.{category.id}.{cell.month}"
    label = f"{escape(category.name)}, {month_name(cell.month)}, expected{', tried' if is_tried else ''}"
    mark = HAND_SET if cell.is_hand_set else CARRIED if cell.expected_minor or cell.aimed_minor else ""
    field = (
        f'<input class="cell" form="year-all" id="{name}" name="{name}" value="{own}" data-cell="{own + rhythm if own else ""}" '
        f'placeholder="{carried}" inputmode="text" autocomplete="off" aria-label="{label}">'
    )
    came = _came(category.id, cell, currency) if cell.is_over else ""
    return mark + field + came


def _came(category_id: int, cell: YearCell, currency: str) -> str:
    """What came or was spent in a month that is over, and how far that is from what was expected."""
    goes = figure(brief(cell.goes_minor, currency), "spent", category_id, cell.month) if cell.goes_minor else "–"
    actual, expected = max(0, cell.actual_minor or 0), cell.expected_minor
    bar = round(BAR * min(actual, expected) / max(1, expected), 1)
    over = 0.0
    if actual > expected > 0:  # beside nothing expected there is no bar to be over
        over = max(3, min(BAR_ROOM - BAR, round(BAR * (actual - expected) / expected, 1)))
    drawn = f'<rect class="spent" width="{bar}" height="3"/>' if bar or over else ""
    if over:
        drawn += f'<rect x="{bar}" width="{over}" height="3" class="over-bar"/>'
    picture = (
        f'<svg class="came-bar" viewBox="0 0 72 3" preserveAspectRatio="none" aria-hidden="true">{drawn}</svg>' if drawn else ""
    )
    return f'<span class="came">{goes}</span>{picture}'
