"""Today: the thread of five knots, and the sitting. Begin with views.py."""

from bolsa.web.area import Area, Page
from bolsa.web.today.views import blueprint

AREA = Area(blueprint, page=Page("today.thread", "Today", "t"), samples=("/",))
