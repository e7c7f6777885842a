"""Kinds of value that do not mix: money in a currency, shares, prices, rates of exchange, and per cent.

Sentences made below the web hold their figures in one neutral form, which the web words for its reader (web/filters.sentence):
`Money` as "-31.74 EUR", days as 2026-05-14, months as 2026-05. The command line prints them as they are.

Adding two currencies, or money to shares, is a TypeError: a bug that shows where it is made, not a wrong sum on a page.
"""

from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from bolsa.core.money import convert_minor, decimal_text, worth_minor


@dataclass(frozen=True)
class Money:
    """An amount in a currency's minor units.

    >>> Money(120, "EUR") + Money(-20, "EUR"), -Money(5, "JPY")
    (Money(minor=100, currency='EUR'), Money(minor=-5, currency='JPY'))
    """

    minor: int
    currency: str

    def __add__(self, other: "Money") -> "Money":
        return Money(self.minor + self._same(other), self.currency)

    def __sub__(self, other: "Money") -> "Money":
        return Money(self.minor - self._same(other), self.currency)

    def __neg__(self) -> "Money":
        return Money(-self.minor, self.currency)

    def __bool__(self) -> bool:
        return bool(self.minor)

    def __str__(self) -> str:
        return f"{decimal_text(self.minor, self.currency)} {self.currency}"

    def _same(self, other: object) -> int:
        if not isinstance(other, Money) or other.currency != self.currency:
            raise TypeError(f"{self} does not mix with {other}")
        return other.minor

    @property
    def zero(self) -> "Money":
        return Money(0, self.currency)


@dataclass(frozen=True)
class Shares:
    """Shares of a security, in 1e-8."""

    e8: int

    def __add__(self, other: "Shares") -> "Shares":
        return Shares(self.e8 + self._same(other))

    def __sub__(self, other: "Shares") -> "Shares":
        return Shares(self.e8 - self._same(other))

    def __neg__(self) -> "Shares":
        return Shares(-self.e8)

    def __bool__(self) -> bool:
        return bool(self.e8)

    def __str__(self) -> str:
        return f"{Decimal(self.e8).scaleb(-8).normalize():f} shares"

    def _same(self, other: object) -> int:
        if not isinstance(other, Shares):
            raise TypeError(f"{self} does not mix with {other}")
        return other.e8

    @property
    def zero(self) -> "Shares":
        return Shares(0)


@dataclass(frozen=True)
class Price:
    """What one share costs in a currency: an exact decimal, kept times 1e8.

    >>> Price(8_120_000_000, "EUR").value_of(Shares(250_000_000))
    Money(minor=20300, currency='EUR')
    """

    e8: int
    currency: str

    def value_of(self, shares: Shares) -> Money:
        """What shares are worth at it. Rounding: half away from zero, once. Raises: TypeError for anything else than shares."""
        if not isinstance(shares, Shares):
            raise TypeError(f"{self} is a price of shares, not of {shares}")
        return Money(worth_minor(shares.e8, self.e8, self.currency), self.currency)

    def __str__(self) -> str:
        return f"{Decimal(self.e8).scaleb(-8).normalize():f} {self.currency}"


@dataclass(frozen=True)
class Rate:
    """What one unit of a currency is worth in another: an exact decimal, kept times 1e8.

    >>> Rate("SEK", "EUR", 8_700_000).convert(Money(10000, "SEK"))
    Money(minor=870, currency='EUR')
    """

    of: str
    into: str
    e8: int

    def convert(self, money: Money) -> Money:
        """The money in the other currency. Rounding: half away from zero, once. Raises: TypeError for another currency."""
        if money.currency != self.of:
            raise TypeError(f"{money} does not mix with a rate of {self.of}")
        return Money(convert_minor(money.minor, self.e8, self.of, self.into), self.into)

    def __str__(self) -> str:
        return f"{Decimal(self.e8).scaleb(-8):.6f}"


@dataclass(frozen=True)
class Percent:
    """So many hundredths of something: an exact decimal; 6.5 is 6.5 %.

    >>> Percent(Decimal("6")).of(199804), str(Percent(Decimal("6.50")))
    (11988, '6.5 %')
    """

    value: Decimal

    def of(self, amount_minor: int) -> int:
        """So many hundredths of an amount, in its minor units. Rounding: half away from zero, once."""
        return int((amount_minor * self.value / 100).quantize(Decimal(1), rounding=ROUND_HALF_UP))

    def __str__(self) -> str:
        text = f"{self.value:f}"
        return f"{text.rstrip('0').rstrip('.') if '.' in text else text} %"


Figure = Money | Shares
