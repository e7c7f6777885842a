"""Net worth by month and by class. Begin with views.py."""

from bolsa.web.area import Area, Page
from bolsa.web.worth.views import blueprint

AREA = Area(blueprint, page=Page("worth.course", "Worth", "w"), samples=("/worth",))
