"""Find: everything by a few letters, as one types. Begin with views.py."""

from bolsa.web.area import Area
from bolsa.web.find.views import blueprint

AREA = Area(blueprint, samples=("/find?q=heron",))
