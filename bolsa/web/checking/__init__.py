"""Check: a statement against the lines, suspects, reconciling. Begin with checking.py."""

from bolsa.services.checking.workings import WORKINGS
from bolsa.web.area import Area
from bolsa.web.checking import checking
from bolsa.web.checking.blueprint import blueprint

__all__ = ["AREA", "checking"]

AREA = Area(blueprint, workings=WORKINGS, under="accounts", step="check", samples=("/books/1/check",))
