"""One account's entries: register.py their list, entry.py the form of one. Begin with register.py."""

from bolsa.web.area import Area
from bolsa.web.ledger import entry, register
from bolsa.web.ledger.blueprint import blueprint

__all__ = ["AREA", "entry", "register"]

AREA = Area(blueprint, under="accounts", samples=("/books/1", "/books/1/new", "/entries/20"))
