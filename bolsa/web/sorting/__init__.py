"""Sort: piles of unsorted entries, suggestions, transfers, rules, payees, questions. Begin with views.py."""

from bolsa.services.sorting.workings import WORKINGS
from bolsa.web.area import Action, Area, Page
from bolsa.web.sorting import payees, questions, rules, views  # noqa: F401 (they enter their pages)
from bolsa.web.sorting.blueprint import blueprint

AREA = Area(
    blueprint,
    page=Page("sorting.piles", "Sort", "s"),
    workings=WORKINGS,
    step="sort",
    actions=(
        Action("sorting.rule_list", "Look through the rules"),
        Action("sorting.payee_list", "Look through the payees: rename, merge"),
        Action("sorting.transfer_list", "Look through the transfers"),
        Action("sorting.question_list", "Answer questions"),
    ),
    samples=(
        "/sort", "/sort?pile=x", "/sort/certain", "/sort/transfers", "/sort/rules", "/sort/rules?open=2", "/sort/rules?new=1",
        "/sort/rules/bring", "/sort/questions", "/payees", "/payees/1",
    ),
)  # fmt: skip
