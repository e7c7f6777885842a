"""Net worth over time, by class and facet, its holes, and what changed it. Begin with views.py."""

from bolsa.services.worth.workings import WORKINGS
from bolsa.web.area import Area, Page
from bolsa.web.worth.views import blueprint

AREA = Area(
    blueprint,
    workings=WORKINGS,
    page=Page("worth.course", "Worth", "w"),
    samples=("/worth", "/worth?every=week&by=owner,class&since=1", "/worth?only=class.Invested&every=quarter&by=own1"),
)
