"""Net worth by day: what is owned above the line, what is owed below it, each class by itself."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Generic, Protocol, TypeVar

from bolsa.core.accounts.account import KIND_BY_KEY, Account
from bolsa.core.months import Month

MONEY, INVESTED, PROPERTY, DEBTS = CLASSES = ("Money", "Invested", "Property", "Debts")


@dataclass(frozen=True)
class WorthPoint:
    """Net worth at the end of a day, in home currency. Debts are negative, as they stand in the books; `by_class` sums to the
    net."""

    day: date
    owned_minor: int
    owed_minor: int
    by_class: Mapping[str, int] = field(default_factory=dict)

    @property
    def month(self) -> Month:
        return Month.of(self.day)

    @property
    def net_minor(self) -> int:
        return self.owned_minor + self.owed_minor


@dataclass(frozen=True)
class WorthRow:
    """One account on a day: its balance in its own currency and in home currency at that day's rate."""

    account_id: int
    name: str
    kind: str
    side: str
    shown: bool
    currency: str
    balance_minor: int
    home_minor: int

    @property
    def key(self) -> int:
        return self.account_id

    @property
    def of_class(self) -> str:
        return class_of(self.kind, self.side)


def class_of(kind: str, side: str) -> str:
    """The class of an account: what is owed is a debt whatever its kind; what is owned goes by its kind.

    >>> class_of("card", "liability"), class_of("savings", "asset"), class_of("pension", "asset"), class_of("vehicle", "asset")
    ('Debts', 'Money', 'Invested', 'Property')
    """
    if side == "liability":
        return DEBTS
    group = KIND_BY_KEY[kind].group
    return group if group in (INVESTED, PROPERTY) else MONEY


def worth_point(day: date, rows: Sequence[WorthRow]) -> WorthPoint:
    """The point a day's rows make. An account counts on its side, whichever sign it happens to have."""
    by_class = dict.fromkeys(CLASSES, 0)
    for row in rows:
        by_class[row.of_class] += row.home_minor
    owed = by_class[DEBTS]
    return WorthPoint(day, sum(by_class.values()) - owed, owed, by_class)


class Placed(Protocol):
    """What can stand in a tree: it has a key, by which its places are known, and is worth something in home currency."""

    @property
    def key(self) -> object: ...

    @property
    def home_minor(self) -> int: ...


Row = TypeVar("Row", bound=Placed)


@dataclass(frozen=True)
class Node(Generic[Row]):
    """A place in a tree of accounts: its name, the path of names that leads there, what is below it, and what stands on it."""

    name: str
    path: tuple[str, ...]
    children: tuple["Node[Row]", ...]
    rows: tuple[Row, ...]

    @property
    def home_minor(self) -> int:
        return sum(row.home_minor for row in self.rows) + sum(child.home_minor for child in self.children)

    @property
    def all_rows(self) -> tuple[Row, ...]:
        return self.rows + tuple(row for child in self.children for row in child.all_rows)


def tree_of(
    rows: Sequence[Row], places: Mapping[Any, Mapping[str, str]], order: Sequence[str], path: tuple[str, ...] = ()
) -> Node[Row]:
    """Rows arranged by facets in an order, each place with its subtotal; places in the order their rows have.

    `places` says by row's key what it is in each facet; where it says nothing the row stands under "Not said".
    """
    name = path[-1] if path else "All"
    if not order:
        return Node(name, path, (), tuple(rows))
    groups: dict[str, list[Row]] = {}
    for row in rows:
        groups.setdefault(places.get(row.key, {}).get(order[0]) or "Not said", []).append(row)
    children = tuple(tree_of(members, places, order[1:], (*path, place)) for place, members in groups.items())
    return Node(name, path, children, ())


def facet_of_account(account: Account) -> dict[str, str]:
    """What an account is by itself in the facets everyone has."""
    return {
        "class": class_of(account.kind, account.side), "group": account.group, "kind": account.kind_label,
        "institution": account.institution or "At home", "currency": account.currency, "account": account.name,
    }  # fmt: skip
