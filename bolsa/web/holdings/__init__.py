"""Shares here against the shares an institution lists. Begin with shares.py."""

from bolsa.services.holdings.workings import WORKINGS
from bolsa.web.area import Area
from bolsa.web.holdings import shares
from bolsa.web.holdings.blueprint import blueprint

__all__ = ["AREA", "shares"]

AREA = Area(blueprint, workings=WORKINGS, under="accounts", samples=("/books/14/shares",))
