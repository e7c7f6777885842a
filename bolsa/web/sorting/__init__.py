"""Sort: piles of unsorted entries, suggestions, transfers, rules, payees, questions. Begin with views.py."""

from bolsa.web.area import Area, Page
from bolsa.web.sorting import payees, questions, rules, views  # noqa: F401 (they enter their pages)
from bolsa.web.sorting.blueprint import blueprint

AREA = Area(
    blueprint,
    page=Page("sorting.piles", "Sort", "s"),
    step="sort",
    samples=(
        "/sort",
        "/sort/certain",
        "/sort/transfers",
        "/sort/rules",
        "/sort/rules?open=2",
        "/sort/questions",
        "/payees",
        "/payees/1",
    ),
)
