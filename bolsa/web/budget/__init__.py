"""The budget of a month (views.py, begin there) and of a year (year.py): needs, placing, shifting, expecting."""

from bolsa.services.budget import workings, year_workings
from bolsa.web.area import Action, Area, Page
from bolsa.web.budget import views, year
from bolsa.web.budget.blueprint import blueprint

__all__ = ["AREA", "views", "year"]

AREA = Area(
    blueprint,
    workings=workings.WORKINGS | year_workings.WORKINGS,
    page=Page("budget.month", "Budget", "u"),
    step="place",
    actions=(Action("budget.year_page", "Lay out the year"),),
    samples=("/budget", "/budget?open=8", "/budget/year?first=2026-01", "/budget/year?first=2026-06"),
)
