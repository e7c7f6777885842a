"""What changed net worth between two days: saved, debt paid, market, revaluation, currency, and what was newly noted.

For each account the change in home currency is what its lines brought, each at its day's rate, and the rest: that is currency.
A line counts by its entry: one that books a noted value is market (of what is invested) or revaluation (of things one owns or
owes by value); an opening balance is newly noted; all others are saved where they are owned, debt paid where they are owed apart.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from bolsa.core.accounts.account import Account
from bolsa.core.worth.net_worth import DEBTS, INVESTED, MONEY, class_of

CAUSES = ("saved", "debt", "market", "revaluation", "currency", "new")


@dataclass(frozen=True)
class Flow:
    """What lines brought to an account in home currency, above zero to the household; `kind` is "plain", "value" or "opening"."""

    account_id: int
    kind: str
    home_minor: int


@dataclass(frozen=True)
class AccountChange:
    """What changed one account, by cause."""

    account_id: int
    name: str
    by_cause: Mapping[str, int]

    @property
    def home_minor(self) -> int:
        return sum(self.by_cause.values())


@dataclass(frozen=True)
class WorthChange:
    """What changed net worth, account by account. The causes add up to the change, to the unit."""

    accounts: tuple[AccountChange, ...]

    def of(self, cause: str) -> int:
        return sum(one.by_cause[cause] for one in self.accounts)

    @property
    def home_minor(self) -> int:
        return sum(one.home_minor for one in self.accounts)


def worth_change(
    accounts: Sequence[Account], before: Mapping[int, int], after: Mapping[int, int], flows: Iterable[Flow]
) -> WorthChange:
    """What made the difference; `before` and `after` are what the accounts were worth in home currency."""
    brought: dict[int, dict[str, int]] = {account.id: dict.fromkeys(CAUSES, 0) for account in accounts}
    by_id = {account.id: account for account in accounts}
    for flow in flows:
        if flow.account_id in by_id:
            brought[flow.account_id][cause_of(by_id[flow.account_id], flow.kind)] += flow.home_minor
    found = []
    for account in accounts:
        causes = brought[account.id]
        rest = after.get(account.id, 0) - before.get(account.id, 0) - sum(causes.values())
        causes["currency"] += rest
        if any(causes.values()):
            found.append(AccountChange(account.id, account.name, causes))
    return WorthChange(tuple(found))


def cause_of(account: Account, kind: str) -> str:
    """What a line on an account counts as."""
    if kind == "opening":
        return "new"
    of_class = class_of(account.kind, account.side)
    if kind == "value":
        return "market" if of_class in (INVESTED, MONEY) else "revaluation"
    return "debt" if of_class == DEBTS and not account.everyday else "saved"
