"""Today: the thread of five knots, and the sitting. Begin with views.py."""

from bolsa.services.today.workings import WORKINGS
from bolsa.web.area import Area, Page
from bolsa.web.today.views import blueprint

AREA = Area(blueprint, workings=WORKINGS, page=Page("today.thread", "Today", "t"), samples=("/",))
