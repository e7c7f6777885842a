"""A register as it is shown: its rows, a page of them, how it is filtered."""

from dataclasses import dataclass, fields
from datetime import date


@dataclass(frozen=True)
class OtherSide:
    """What stands against an account's line: a category or another account, how much, for whom, and with which tags."""

    category_id: int | None
    account_id: int | None
    name: str
    amount_minor: int
    member: str = ""
    tags: tuple[str, ...] = ()


@dataclass(frozen=True)
class RegisterRow:
    """One line of an account with its entry's words, what stands against it, and the balance just after it."""

    line_id: int
    entry_id: int
    payee_id: int
    day: date
    value_day: date | None
    payee: str
    memo: str
    note: str
    amount_minor: int
    state: str
    raw_text: str
    attachments: int
    balance_minor: int
    others: tuple[OtherSide, ...]

    @property
    def is_split(self) -> bool:
        return len(self.others) > 1

    @property
    def is_unsorted(self) -> bool:
        return any(other.category_id == 1 for other in self.others)

    @property
    def tags(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(tag for other in self.others for tag in other.tags))

    @property
    def members(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(other.member for other in self.others if other.member))


@dataclass(frozen=True)
class RegisterPage:
    """Some rows and the key after which the next page begins, None at the end."""

    rows: tuple[RegisterRow, ...]
    next_key: str | None


@dataclass(frozen=True)
class RegisterFilter:
    """What a register shows; an empty field means all.

    `text` are words of the payee, memo, note or bank text, found by their beginnings. `least_minor` and `most_minor` bound the
    amount in either direction. `series_payees` are the payees with a series, `in_series` whether to show those or the others.
    """

    text: str = ""
    state: str = ""
    payee: str = ""
    category_id: int | None = None
    tag: str = ""
    member_id: int | None = None
    least_minor: int | None = None
    most_minor: int | None = None
    first_day: date | None = None
    last_day: date | None = None
    in_series: bool | None = None
    series_payees: tuple[int, ...] = ()

    @property
    def is_empty(self) -> bool:
        """Whether the rows follow each other without holes (the last day alone cuts off, it leaves none)."""
        wanted = (getattr(self, f.name) for f in fields(self) if f.name not in ("last_day", "series_payees"))
        return all(value in ("", None) for value in wanted)


@dataclass(frozen=True)
class SavedFilter:
    """A filter as the query of a register's address."""

    id: int
    name: str
    address: str


@dataclass(frozen=True)
class FoundLine:
    """An account line that holds the words: its entry, day, payee, memo, account and amount."""

    line_id: int
    entry_id: int
    account_id: int
    account: str
    currency: str
    day: date
    payee: str
    memo: str
    amount_minor: int
