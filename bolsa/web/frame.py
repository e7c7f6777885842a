"""What the frame of every page shows: the ten pages' words that exist so far, the month ribbon, messages, who sits here."""

from dataclasses import dataclass
from functools import cache

from flask import current_app, g, request

from bolsa.core.months import Month
from bolsa.services.budget.budgeting import RibbonMonth, ribbon
from bolsa.services.budget.closing import list_closed
from bolsa.services.house import sessions
from bolsa.services.sorting.categories import list_lately
from bolsa.web.area import Area

RIBBON_MONTHS = 18
AHEAD = 3
MARK_HEIGHT = 11


@dataclass(frozen=True)
class RibbonCell:
    """A month of the ribbon with its marks in pixels."""

    month: Month
    in_minor: int
    out_minor: int
    in_px: float
    out_px: float
    is_chosen: bool
    is_future: bool
    is_closed: bool


def context() -> dict[str, object]:
    """What every template may use."""
    if g.get("household") is None or "db" not in g:
        return {"framed": False}
    return {
        "framed": True,
        "pages": [area.page for area in areas().values() if area.page],
        "here": page_here(),
        "ribbon": ribbon_cells,  # what a key asks for has none
        "today": g.by.today,
        "month": g.month,
        "present": g.present,
        "members": sessions.list_members(g.db),
        "member_id": g.by.member_id,
        "household": g.household,
        "home": g.household.home_currency,
        "lately": cache(lambda: list_lately(g.db)),  # a page has several pickers
        "is_partial": bool(request.headers.get("HX-Request")),
    }


def areas() -> dict[str, Area]:
    """Every area by its name."""
    return current_app.extensions["areas"]


def page_here() -> str:
    """The area whose word in the bar is marked."""
    here = areas().get(request.blueprint or "")
    return (here.under or here.name) if here else ""


def ribbon_cells() -> list[RibbonCell]:
    """Eighteen months around the chosen one, ending three after the present where that shows it."""
    last = g.present + AHEAD
    if g.month > last:
        last = g.month + AHEAD
    if g.month < last + (1 - RIBBON_MONTHS):
        last = g.month + (RIBBON_MONTHS - 2)
    months = ribbon(g.db, g.household.home_currency, last + (1 - RIBBON_MONTHS), last)
    most = max([m.in_minor for m in months] + [m.out_minor for m in months] + [1])
    closed = list_closed(g.db)
    return [_cell(m, most, m.month in closed) for m in months]


def _cell(m: RibbonMonth, most: int, is_closed: bool) -> RibbonCell:
    return RibbonCell(
        m.month,
        m.in_minor,
        m.out_minor,
        round(MARK_HEIGHT * m.in_minor / most, 1),
        round(MARK_HEIGHT * m.out_minor / most, 1),
        m.month == g.month,
        m.month > g.present,
        is_closed,
    )
