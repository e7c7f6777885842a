"""Shares here against the shares an institution lists. Begin with shares.py."""

from bolsa.web.area import Area
from bolsa.web.holdings import shares
from bolsa.web.holdings.blueprint import blueprint

__all__ = ["AREA", "shares"]

AREA = Area(blueprint, under="accounts", samples=("/books/14/shares",))
