"""The kinds of account and what follows from a kind until the user says otherwise."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Kind:
    """One kind of account: what Bolsa proposes when it is added."""

    key: str
    label: str
    side: str  # "asset" or "liability"
    everyday: bool
    group: str

    def group_for(self, everyday: bool) -> str:
        """The group proposed for an account of this kind: one kept apart does not stand among the everyday ones."""
        return "Savings" if self.everyday and not everyday else self.group


KINDS = (
    Kind("current", "Current", "asset", True, "Everyday"),
    Kind("savings", "Savings", "asset", True, "Everyday"),
    Kind("cash", "Cash", "asset", True, "Everyday"),
    Kind("card", "Card", "liability", True, "Everyday"),
    Kind("loan", "Loan", "liability", False, "Debts"),
    Kind("property", "Property", "asset", False, "Property"),
)
KIND_BY_KEY = {kind.key: kind for kind in KINDS}


@dataclass(frozen=True)
class Account:
    """An account as it is kept. `side` is its class, asset or liability; `number` is the bank's identifier."""

    id: int
    name: str
    kind: str
    side: str
    everyday: bool
    currency: str
    institution: str
    number: str
    group: str
    opened_on: date
    shown: bool
    note: str
    closed_on: date | None = None

    @property
    def kind_label(self) -> str:
        return KIND_BY_KEY[self.kind].label


@dataclass(frozen=True)
class AccountState:
    """An account with what the books and the bank say about it; amounts in minor units of its currency.

    `bank_minor` is what the bank last said, as of `bank_day`; `checked_until` the last reconciled closing day.
    """

    account: Account
    balance_minor: int
    pending_minor: int
    bank_minor: int | None
    bank_day: date | None
    difference_minor: int | None
    checked_until: date | None
    brought_at: str | None

    @property
    def cleared_minor(self) -> int:
        return self.balance_minor - self.pending_minor
