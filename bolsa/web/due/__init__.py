"""Due: what comes again, the weeks ahead, and what is late or came otherwise. dues.py is the page, series.py the forms."""

from bolsa.services.due.workings import WORKINGS
from bolsa.web.area import Action, Area, Page
from bolsa.web.due import dues, series
from bolsa.web.due.blueprint import blueprint

__all__ = ["AREA", "dues", "series"]

AREA = Area(
    blueprint,
    page=Page("due.page", "Due", "d"),
    actions=(Action("due.new", "Keep something as coming again"),),
    workings=WORKINGS,
    samples=("/due", "/due/new", "/due/1"),
)
