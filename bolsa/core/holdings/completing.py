"""What the form of a trade leaves open: of shares, price and total two give the third; close and rate of the day are offered."""

from dataclasses import dataclass
from fractions import Fraction

from bolsa.core.accounts.account import Account
from bolsa.core.amounts import parse_exact
from bolsa.core.holdings.prices import Priced
from bolsa.core.holdings.security import Security
from bolsa.core.holdings.trades import KIND_BY_KEY, shares_for, total_of
from bolsa.core.money import E8
from bolsa.errors import InvalidInput

PARTS_OFF = 200  # shares × price may part from a typed total by one part in so many: prices are rounded
DAYS_OFFERED = 7  # a close is offered for so many days after its own


@dataclass(frozen=True)
class Offer:
    """What is known of a trade's day: the close, and what one unit of the security's currency is worth in the account's."""

    account: Account
    security: Security
    priced: Priced | None
    rate: Fraction | None

    @property
    def is_foreign(self) -> bool:
        return self.security.currency != self.account.currency


@dataclass(frozen=True)
class TypedAmounts:
    """What a form says of shares, price, total and fee; None where nothing is typed. `fee_in_own`: the fee is in the security's
    currency. `rate` is the typed one, as account's currency for one unit of the security's."""

    shares_e8: int | None = None
    price_e8: int | None = None
    total_minor: int | None = None
    fee_minor: int = 0
    fee_in_own: bool = False
    rate: Fraction | None = None


def complete(offered: Offer, kind: str, typed: TypedAmounts) -> tuple[int, int | None, int]:
    """The shares, the total and the fee of a trade, in 1e-8 and in minor units of the account's currency (above zero).

    Raises: InvalidInput naming the field that lacks, or where the three do not agree.
    """
    fee = _fee(offered, typed)
    if "price" not in KIND_BY_KEY[kind].asks:
        return typed.shares_e8 or 0, typed.total_minor, fee
    shares, price, total = typed.shares_e8, typed.price_e8, typed.total_minor
    if price is None and (shares is None or total is None) and offered.priced is not None:
        price = offered.priced.price_e8
    rate = typed.rate or offered.rate
    if rate is None and price is not None:
        raise InvalidInput(f"No rate of {offered.security.currency} is known for that day. Write it.", field="rate")
    currency = offered.account.currency
    if shares is not None and total is not None:
        if price is not None and typed.price_e8 is not None and rate is not None:
            _require_agreement(total_of(kind, shares, price, fee, currency, rate), total)
        return shares, total, fee
    if price is None or rate is None:
        raise InvalidInput("Write two of shares, price and total; the third follows.", field="price")
    if shares is not None:
        return shares, total_of(kind, shares, price, fee, currency, rate), fee
    if total is None:
        raise InvalidInput("Write how many shares, or what was paid in all.", field="shares")
    return shares_for(total, price, fee, kind, currency, rate), total, fee


def _fee(offered: Offer, typed: TypedAmounts) -> int:
    if not typed.fee_in_own or not typed.fee_minor or not offered.is_foreign:
        return typed.fee_minor
    rate = typed.rate or offered.rate
    if rate is None:
        raise InvalidInput(f"No rate of {offered.security.currency} is known for that day. Write it.", field="rate")
    return int(Fraction(typed.fee_minor) * rate + Fraction(1, 2))


def _require_agreement(reckoned_minor: int, typed_minor: int) -> None:
    if abs(reckoned_minor - typed_minor) * PARTS_OFF > abs(typed_minor) + PARTS_OFF:
        raise InvalidInput("Shares × price and the fee do not make this total. Leave one of the three empty.", field="total")


def parse_rate_text(text: str, decimal_mark: str = ".") -> Fraction | None:
    """A typed rate, as `parse_exact` reads it, None when nothing is typed. Raises: InvalidInput."""
    if not text.strip():
        return None
    rate = Fraction(parse_exact(text, decimal_mark, "a rate", "rate", "0.0915"))
    if not Fraction(1, E8) <= rate <= 10**6:
        raise InvalidInput("A rate is above zero, such as 0.0915.", field="rate")
    return rate
