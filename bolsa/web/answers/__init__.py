"""Answers: questions in words, each a sentence, a picture and a table. Begin with views.py; asking.py reads the address."""

from bolsa.services.answers.workings import WORKINGS
from bolsa.web.answers import views
from bolsa.web.answers.blueprint import blueprint
from bolsa.web.area import Action, Area, Page

__all__ = ["AREA", "views"]

AREA = Area(
    blueprint,
    page=Page("answers.questions", "Answers", "a"),
    actions=tuple(Action(endpoint, words.rstrip("?")) for endpoint, words in views.QUESTIONS),
    workings=WORKINGS,
    samples=(
        "/answers", "/answers/where", "/answers/where?by=payee&months=12&only=group.2", "/answers/normal?by=group",
        "/answers/changed", "/answers/grew", "/answers/tags", "/answers/flow", "/answers/entries?months=2&only=group.2",
    ),
)  # fmt: skip
