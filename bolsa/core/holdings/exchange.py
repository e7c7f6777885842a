"""An amount of an account in the three currencies a holding is looked at in: the account's, the security's, and home."""

from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from typing import NamedTuple

from bolsa.core.money import E8, convert_minor, split_minor
from bolsa.core.worth.rates import Rates, rate_on


class Amounts(NamedTuple):  # no dataclass: it is made five times as fast, and thousands are for a page
    """One amount in the account's currency, the security's own and home; None where no rate is known."""

    minor: int
    own_minor: int | None
    home_minor: int | None

    def __add__(self, other: "Amounts") -> "Amounts":  # type: ignore[override]
        return Amounts(self.minor + other.minor, _sum(self.own_minor, other.own_minor), _sum(self.home_minor, other.home_minor))

    def __neg__(self) -> "Amounts":
        return Amounts(-self.minor, _minus(self.own_minor), _minus(self.home_minor))

    def __sub__(self, other: "Amounts") -> "Amounts":
        return self + -other

    def parts(self, weights: list[int]) -> list["Amounts"]:
        """Divided by weights; the parts always sum to the whole, in every currency."""
        own = split_minor(self.own_minor, weights) if self.own_minor is not None else [None] * len(weights)
        home = split_minor(self.home_minor, weights) if self.home_minor is not None else [None] * len(weights)
        return [Amounts(*one) for one in zip(split_minor(self.minor, weights), own, home, strict=True)]

    def cut(self, part: int, whole: int) -> tuple["Amounts", "Amounts"]:
        """So many of a whole taken off, and what remains."""
        taken, rest = self.parts([part, whole - part])
        return taken, rest


NOTHING = Amounts(0, 0, 0)


def _sum(one: int | None, other: int | None) -> int | None:
    return None if one is None or other is None else one + other


def _minus(one: int | None) -> int | None:
    return None if one is None else -one


@dataclass(frozen=True)
class Exchange:
    """The rates between an account's currency, a security's, and home."""

    account: str
    own: str
    home: str
    rates: Rates

    def amounts(self, minor: int, day: date) -> Amounts:
        """An amount of the account on a day. Rounding: half away from zero, once into home, once more into the security's."""
        if self.account == self.own == self.home:
            return Amounts(minor, minor, minor)
        home = self.at_home(minor, day)
        if self.own == self.account:
            return Amounts(minor, minor, home)
        if self.own == self.home:
            return Amounts(minor, home, home)
        into = self.into_own(day)
        return Amounts(minor, convert_minor(minor, round(into * E8), self.account, self.own) if into else None, home)

    def at_home(self, minor: int, day: date) -> int | None:
        """An amount of the account in home currency at a day's rate. Rounding: half away from zero, once."""
        if self.account == self.home:
            return minor
        rate = rate_on(self.account, day, self.home, self.rates)
        return convert_minor(minor, rate.e8, self.account, self.home) if rate else None

    def roughly_into_account(self, day: date | None) -> tuple[float, float]:
        """What one unit of the security's currency is worth in the account's, to compare by: on a day twice the same, without one
        the least and the most of all days; 0 where no rate is known."""
        if self.own == self.account:
            return 1, 1
        (our_least, our_most), (least, most) = (self._at_home_between(code, day) for code in (self.account, self.own))
        return (least / our_most, most / our_least) if our_least else (0, 0)

    def _at_home_between(self, currency: str, day: date | None) -> tuple[int, int]:
        known = self.rates.get(currency)
        if currency != self.home and known and day is None:
            rates = [rate_e8 for _, rate_e8 in known]
            return min(rates), max(rates)
        rate = rate_on(currency, day or date.max, self.home, self.rates)
        return (rate.e8, rate.e8) if rate else (0, 0)

    def into_own(self, day: date) -> Fraction | None:
        """What one unit of the account's currency is worth in the security's."""
        ours, theirs = (rate_on(code, day, self.home, self.rates) for code in (self.account, self.own))
        return Fraction(ours.e8, theirs.e8) if ours and theirs else None

    def into_account(self, day: date) -> Fraction | None:
        """What one unit of the security's currency is worth in the account's."""
        into = self.into_own(day)
        return 1 / into if into else None

    def own_at_home(self, own_minor: int | None, day: date) -> int | None:
        """An amount of the security's currency in home currency at a day's rate."""
        if self.own == self.home:
            return own_minor
        rate = rate_on(self.own, day, self.home, self.rates)
        return convert_minor(own_minor, rate.e8, self.own, self.home) if rate and own_minor is not None else None

    def own_in_account(self, own_minor: int, day: date) -> int | None:
        """An amount of the security's currency in the account's at a day's rate."""
        if self.own == self.account:
            return own_minor
        into = self.into_account(day)
        return convert_minor(own_minor, round(into * E8), self.own, self.account) if into else None
