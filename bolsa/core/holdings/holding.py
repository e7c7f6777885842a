"""What is held: shares of a security in an account with their value, what they cost, and what they gained; and cash, and accounts
whose value is noted, as rows of the same kind."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from bolsa.core.accounts.account import Account
from bolsa.core.holdings.exchange import NOTHING, Amounts, Exchange
from bolsa.core.holdings.lots import Lot
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.security import KINDS, Security
from bolsa.core.worth.net_worth import facet_of_account

PARTS = ("price", "currency", "income")


class Held(NamedTuple):
    """What the lots of a holding come to; `is_known` where all of them say what they cost."""

    shares_e8: int
    cost: Amounts
    is_known: bool


def held_of(lots: Sequence[Lot]) -> Held:
    """The sums of lots."""
    cost = sum((lot.cost for lot in lots), NOTHING)
    return Held(sum(lot.shares_e8 for lot in lots), cost, all(lot.is_known for lot in lots))


@dataclass(frozen=True)
class HoldingRow:
    """One row: shares of a security (`security`), the cash of an account counted by its shares, or an account whose value is
    noted (neither has a security). Amounts are in the account's currency, the security's, and home.

    gain = price + currency + income: what the price made at today's rate, what the rate made of the cost, what was distributed.
    """

    account: Account
    security: Security | None
    shares_e8: int
    priced: Priced | None
    value: Amounts
    cost: Amounts
    currency_minor: int | None
    income_minor: int
    is_known: bool = True  # whether all its lots say what they cost
    is_cash: bool = False

    @property
    def key(self) -> str:
        """By which pages and figures name it."""
        return f"{self.account.id}-{self.security.id if self.security else 'cash' if self.is_cash else 'all'}"

    @property
    def name(self) -> str:
        return self.security.name if self.security else "Cash" if self.is_cash else self.account.name

    @property
    def home_minor(self) -> int:
        """What it is worth in home currency; 0 where no rate or no price is known, which is said beside it."""
        return self.value.home_minor or 0

    @property
    def cost_minor(self) -> int:
        return self.cost.home_minor or 0

    @property
    def price_minor(self) -> int:
        """What the price made, in home currency: all that is neither the rate's nor a distribution."""
        return self.home_minor - self.cost_minor - (self.currency_minor or 0) if self.is_valued else 0

    @property
    def gain_minor(self) -> int:
        return self.price_minor + (self.currency_minor or 0) + self.income_minor

    @property
    def is_valued(self) -> bool:
        """Whether it can be valued: its price and its rates are known."""
        return self.value.home_minor is not None and self.cost.home_minor is not None

    @property
    def is_sold_out(self) -> bool:
        return self.security is not None and not self.shares_e8

    def part(self, name: str) -> int:
        """One of PARTS of its gain."""
        return {"price": self.price_minor, "currency": self.currency_minor or 0, "income": self.income_minor}[name]


def value_row(
    account: Account,
    security: Security,
    held: Held,
    priced: Priced | None,
    exchange: Exchange,
    day: date,
    income_minor: int,
) -> HoldingRow:
    """The row of shares of a security on a day. `income_minor` is what was distributed until then, in home currency."""
    shares, cost, is_known = held
    if priced is None:
        value = Amounts(0, None, None) if shares else NOTHING
    else:
        own = priced.value_of(shares, exchange.own)
        value = Amounts(exchange.own_in_account(own, day) or 0, own, exchange.own_at_home(own, day))
    then = exchange.own_at_home(cost.own_minor, day)
    currency = None if then is None or cost.home_minor is None else then - cost.home_minor
    return HoldingRow(account, security, shares, priced, value, cost, currency, income_minor, is_known)


def places_of_row(row: HoldingRow, of_account: Mapping[str, str]) -> dict[str, str]:
    """What a row is in each facet: its account's places, and of a security's row its own kind and currency."""
    places = dict(facet_of_account(row.account)) | dict(of_account)
    if row.security is not None:
        places |= {"sort": KINDS[row.security.kind], "money": row.security.currency, "security": row.security.name}
    else:
        places |= {"sort": "Cash" if row.is_cash else row.account.kind_label, "money": row.account.currency, "security": row.name}
    return places


@dataclass(frozen=True)
class Sums:
    """The sums of some rows in home currency."""

    value_minor: int
    cost_minor: int
    price_minor: int
    currency_minor: int
    income_minor: int

    @property
    def gain_minor(self) -> int:
        return self.price_minor + self.currency_minor + self.income_minor


def sums_of(rows: Sequence[HoldingRow]) -> Sums:
    """What rows come to."""
    return Sums(
        sum(row.home_minor for row in rows), sum(row.cost_minor for row in rows), sum(row.price_minor for row in rows),
        sum(row.currency_minor or 0 for row in rows), sum(row.income_minor for row in rows),
    )  # fmt: skip
