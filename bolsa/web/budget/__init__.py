"""The budget of a month (views.py, begin there) and of a year (year.py): needs, placing, shifting, expecting."""

from bolsa.services.budget import flow_workings, sum_workings, workings, year_workings
from bolsa.web.area import Action, Area, Page
from bolsa.web.budget import aims, baseline, closing, shifting, trials, views, year
from bolsa.web.budget.blueprint import blueprint

__all__ = ["AREA", "aims", "baseline", "closing", "shifting", "trials", "views", "year"]

AREA = Area(
    blueprint,
    workings=workings.WORKINGS | year_workings.WORKINGS | flow_workings.WORKINGS | sum_workings.WORKINGS,
    page=Page("budget.month", "Budget", "u"),
    step="place",
    actions=(
        Action("budget.year_page", "Lay out the year"),
        Action("budget.baseline_page", "Take a baseline for the year"),
        Action("budget.goals", "Goals that are built up"),
        Action("budget.order", "Order of categories"),
        Action("budget.log", "What was placed and shifted"),
        Action("budget.month_end", "Close the month"),
    ),
    samples=(
        "/budget",
        "/budget?open=8",
        "/budget/year?first=2026-01",
        "/budget/year?first=2026-06",
        "/budget/goals",
        "/budget/order",
        "/budget/log",
        "/budget/baseline",
        "/budget?without=1",
        "/budget/year?trial=1",
        "/budget/trial/1",
        "/budget/end?month=2026-04",
        "/budget?month=2026-07",
    ),
)
