"""What a page's folder says of itself: its blueprint, its word in the bar, what find offers of it, its figures, its samples.

Adding a page is a folder with an `AREA`, and its name in areas.py.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from flask import Blueprint

from bolsa.services.working_parts import Make


@dataclass(frozen=True)
class Page:
    """A page in the top bar: its endpoint, its word, and the letter that follows `g`."""

    endpoint: str
    word: str
    letter: str


@dataclass(frozen=True)
class Action:
    """Something one can do, found by its words."""

    endpoint: str
    words: str


@dataclass(frozen=True)
class Area:
    """One folder of pages. `under` names the blueprint whose word in the bar stands for it; `step` is the step of a sitting
    that is done here; `workings` make the working of each figure that opens here; `samples` are addresses, in the demo, of its
    main views, which the tests walk."""

    blueprint: Blueprint
    page: Page | None = None
    under: str = ""
    step: str = ""
    actions: tuple[Action, ...] = ()
    workings: Mapping[str, Make] = field(default_factory=dict)
    samples: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        return self.blueprint.name
