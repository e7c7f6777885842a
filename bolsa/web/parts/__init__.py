"""What fields of any page ask while one types: what a day says, and a category made in place. Begin with views.py."""

from bolsa.web.area import Area
from bolsa.web.parts.views import blueprint

AREA = Area(blueprint)
