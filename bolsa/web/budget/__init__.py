"""The budget of a month: needs, placing, shifting, expecting. Begin with views.py."""

from bolsa.services.budget.workings import WORKINGS
from bolsa.web.area import Area, Page
from bolsa.web.budget.views import blueprint

AREA = Area(
    blueprint, workings=WORKINGS, page=Page("budget.month", "Budget", "u"), step="place", samples=("/budget", "/budget?open=7")
)
