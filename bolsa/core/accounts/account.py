"""The kinds of account and what follows from a kind until the user says otherwise."""

from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True)
class Kind:
    """One kind of account: what Bolsa proposes when it is added, the terms that matter to it, and whether its value is noted."""

    key: str
    label: str
    side: str  # "asset" or "liability"
    everyday: bool
    group: str
    terms: tuple[str, ...] = ()
    is_valued: bool = False

    def group_for(self, everyday: bool) -> str:
        """The group proposed for an account of this kind: one kept apart does not stand among the everyday ones."""
        return "Savings" if self.everyday and not everyday else self.group


_LOAN = ("rate", "principal", "term_months", "payment", "first_payment_on", "interest_category_id", "set_by_id")
_CURVE = ("curve", "curve_rate", "curve_until", "curve_last", "curve_index")
KINDS = (
    Kind("current", "Current", "asset", True, "Everyday", ("floor",)),
    Kind("savings", "Savings", "asset", True, "Everyday", ("rate", "floor")),
    Kind("cash", "Cash", "asset", True, "Everyday", ("floor",)),
    Kind("card", "Card", "liability", True, "Everyday", ("limit", "rate", "statement_day", "due_day", "payment")),
    Kind("loan", "Loan", "liability", False, "Debts", _LOAN),
    Kind("mortgage", "Mortgage", "liability", False, "Debts", _LOAN),
    Kind("property", "Property", "asset", False, "Property", _CURVE, True),
    Kind("vehicle", "Vehicle", "asset", False, "Property", _CURVE, True),
    Kind("asset", "Other asset", "asset", False, "Property", _CURVE, True),
    Kind("liability", "Other liability", "liability", False, "Debts", ("rate", "payment"), True),
    Kind("brokerage", "Brokerage", "asset", False, "Invested", (), True),
    Kind("pension", "Pension", "asset", False, "Invested", (), True),
    Kind("benefit", "Benefit savings", "asset", False, "Invested", ("ceiling",), True),
    Kind("deposit", "Fixed term", "asset", False, "Invested", ("rate", "matures_on", "free_on", "exit_cost"), True),
)
KIND_BY_KEY = {kind.key: kind for kind in KINDS}
KINDS_WITH_SHARES = ("brokerage", "pension", "asset", "benefit")


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
    counts_shares: bool = False  # worth its cash and what its shares are worth; otherwise what is noted

    @property
    def kind_label(self) -> str:
        return KIND_BY_KEY[self.kind].label

    @property
    def is_valued(self) -> bool:
        """Whether its value is noted by day: an apart account of a kind no bank counts entry by entry, unless its shares are
        counted."""
        return KIND_BY_KEY[self.kind].is_valued and not self.everyday and not self.counts_shares


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
    held_minor: int = 0  # what its shares are worth today, where they are counted

    @property
    def worth_minor(self) -> int:
        return self.balance_minor + self.held_minor

    @property
    def cleared_minor(self) -> int:
        return self.balance_minor - self.pending_minor
