"""The household itself, its members and sittings, the steps of its journal, and what breaks a promise."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Household:
    """The one household of the file. `set_day` is the day its clock is set to, None when it follows the machine."""

    name: str
    home_currency: str
    time_zone: str
    set_day: date | None


@dataclass(frozen=True)
class Member:
    id: int
    name: str
    birth_year: int | None = None


@dataclass(frozen=True)
class Sitting:
    """One guided round; `step` is where it was left, `worth_minor` the net worth when it began."""

    id: int
    started_at: str
    day: date
    step: str
    finished_at: str | None
    worth_minor: int


@dataclass(frozen=True)
class Step:
    """One thing a person did: `at` is UTC, `sentence` says it in the past tense, `undone_by` is the undoing step."""

    id: int
    at: str
    member: str
    sentence: str
    batch_id: int | None
    undone_by: int | None


@dataclass(frozen=True)
class KeptColumn:
    """A column of a table: its type in SQL, whether it may be empty, and the schema's own words about it."""

    name: str
    type: str
    may_be_empty: bool
    words: str


@dataclass(frozen=True)
class Breach:
    """A promise and one row that breaks it, in words. What is no damage was done by a person, who can mend it."""

    promise: str
    row: str
    is_damage: bool = True
