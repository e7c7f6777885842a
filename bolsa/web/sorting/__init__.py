"""Sort: piles of unsorted entries, suggestions, transfers. Begin with views.py."""

from bolsa.web.area import Area, Page
from bolsa.web.sorting.views import blueprint

AREA = Area(blueprint, page=Page("sorting.piles", "Sort", "s"), step="sort", samples=("/sort",))
