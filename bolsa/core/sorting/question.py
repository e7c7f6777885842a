"""An entry put to a member of the household."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Question:
    """What is asked of whom, by whom ("" for a rule) and since when; `answered_on` is None while it waits."""

    id: int
    entry_id: int
    member_id: int
    member: str
    asked_by: str
    asked_on: date
    note: str
    rule_id: int | None
    answered_on: date | None
    answer: str
