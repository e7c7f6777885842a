"""The first page of an empty file: making the household. Begin with views.py."""

from bolsa.web.area import Area
from bolsa.web.welcome.views import blueprint

AREA = Area(blueprint)
