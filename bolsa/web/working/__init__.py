"""The slip behind a figure: a partial under it, or a page of its own. Begin with views.py."""

from bolsa.web.area import Area
from bolsa.web.working.views import blueprint

AREA = Area(blueprint, samples=("/working/unplaced/all",))
