"""Bringing in: files, the preview with its mapping, connections. Begin with bringing.py."""

from bolsa.web.area import Action, Area
from bolsa.web.bringing import bringing, columns
from bolsa.web.bringing.blueprint import blueprint

__all__ = ["AREA", "bringing", "columns"]

AREA = Area(
    blueprint,
    under="accounts",
    step="bring",
    actions=(Action("bringing.bring_in", "Bring in a file"), Action("bringing.connect", "Connect an institution")),
    samples=("/books/bring-in", "/books/bring-in/duplicates", "/books/connections/1"),
)
