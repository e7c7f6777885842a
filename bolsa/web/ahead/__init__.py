"""Years ahead: debts paid off together. Begin with debts.py."""

from bolsa.services.ahead.workings import WORKINGS
from bolsa.web.ahead import debts
from bolsa.web.ahead.blueprint import blueprint
from bolsa.web.area import Action, Area

__all__ = ["AREA", "debts"]

AREA = Area(
    blueprint,
    under="accounts",
    actions=(Action("ahead.debts", "Pay off debts"),),
    workings=WORKINGS,
    samples=("/debts", "/debts?more=200&order=balance"),
)
