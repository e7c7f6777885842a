"""Years ahead: whether the money lasts, and debts paid off together. Begin with plans.py."""

from bolsa.services.ahead.workings import WORKINGS
from bolsa.web.ahead import carrying_out, debts, plans
from bolsa.web.ahead.blueprint import blueprint
from bolsa.web.area import Action, Area, Page

__all__ = ["AREA", "carrying_out", "debts", "plans"]

AREA = Area(
    blueprint,
    page=Page("ahead.page", "Long view", "l"),
    actions=(Action("ahead.debts", "Pay off debts"),),
    workings=WORKINGS,
    samples=(
        "/ahead",
        "/ahead?year=2040",
        "/ahead/1/mends",
        "/ahead/1/plan",
        "/ahead/1/do",
        "/debts",
        "/debts?more=200&order=balance",
    ),
)
