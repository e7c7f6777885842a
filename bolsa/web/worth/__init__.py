"""Net worth by month and by class. Begin with views.py."""

from bolsa.services.worth.workings import WORKINGS
from bolsa.web.area import Area, Page
from bolsa.web.worth.views import blueprint

AREA = Area(blueprint, workings=WORKINGS, page=Page("worth.course", "Worth", "w"), samples=("/worth",))
