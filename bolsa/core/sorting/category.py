"""Categories in their groups, and entries that wait for one."""

from dataclasses import dataclass
from datetime import date

UNSORTED = 1  # the category of what waits to be sorted


@dataclass(frozen=True)
class Group:
    id: int
    name: str
    position: int


@dataclass(frozen=True)
class Category:
    """A category; `role` is set on the three that Bolsa itself needs and that no one files under by hand. `priority` is its place
    among all when money is given (0: after those that have one, by its place in the groups); `member_id` whose allowance it
    is."""

    id: int
    group_id: int
    group: str
    name: str
    type: str
    role: str | None
    in_budget: bool
    carries: bool
    carries_minus: bool
    retired: bool
    note: str
    priority: int = 0
    member_id: int | None = None


@dataclass(frozen=True)
class Unsorted:
    """An entry that waits to be sorted, seen from its account; `waits_minor` is the part of its amount that does."""

    entry_id: int
    line_id: int
    payee_id: int
    payee: str
    memo: str
    account_id: int
    account: str
    currency: str
    day: date
    amount_minor: int
    raw_text: str
    waits_minor: int
    note: str = ""

    @property
    def is_part(self) -> bool:
        """Whether a part of it has its category already."""
        return self.waits_minor != self.amount_minor
