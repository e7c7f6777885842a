"""Trades: what can happen to the shares of a security in an account, what each kind needs, and the cash it moves there.

Shares are integers of 1e-8, above zero into the account. Totals are in minor units of the account's currency, above zero where
the account gets them; of shares held before or transferred in, the total is what they had cost (below zero), and no cash moves.
"""

from dataclasses import dataclass, replace
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

from bolsa.core.amounts import parse_exact
from bolsa.core.money import E8, digits_of
from bolsa.errors import InvalidInput

MOST_RATIO = 1000


@dataclass(frozen=True)
class TradeKind:
    """One kind of trade: its words, which way its shares and its cash go (0: none, or as said), and what it asks for."""

    key: str
    words: str
    shares_way: int
    cash_way: int
    asks: tuple[str, ...]
    has_basis: bool = False


_PARTS = ("taxed", "untaxed", "credit", "withheld", "ex_day")
KINDS = (
    TradeKind("buy", "bought", 1, -1, ("shares", "price", "total", "fee")),
    TradeKind("sell", "sold", -1, 1, ("shares", "price", "total", "fee", "lots")),
    TradeKind("dividend", "dividend", 0, 1, ("total", *_PARTS)),
    TradeKind("reinvest", "reinvested", 1, 0, ("shares", "price", "total", *_PARTS)),
    TradeKind("opening", "held before", 1, 0, ("shares", "total", "basis_day", "reason"), True),
    TradeKind("in", "came in", 1, 0, ("shares", "total", "basis_day", "reason"), True),
    TradeKind("out", "went out", -1, 0, ("shares", "reason", "lots")),
    TradeKind("split", "split", 0, 0, ("ratio", "reason")),
    TradeKind("lieu", "fraction paid out", -1, 1, ("shares", "total")),
    TradeKind("return", "capital returned", 0, 1, ("total",)),
    TradeKind("fee", "fee", 0, -1, ("total", "reason")),
)
KIND_BY_KEY = {kind.key: kind for kind in KINDS}
KIND_WORDS = {kind.key: kind.words for kind in KINDS}
TAKES_OUT = {kind.key for kind in KINDS if kind.shares_way < 0}
BRINGS_IN = {kind.key for kind in KINDS if kind.shares_way > 0}
INCOME = ("dividend", "reinvest")


@dataclass(frozen=True)
class Trade:
    """One trade as it is kept. `ratio_new` for `ratio_old` is a split's; `basis_day` is since when transferred shares are
    held."""

    day: date
    kind: str
    shares_e8: int = 0
    security_id: int = 0
    total_minor: int | None = None
    fee_minor: int = 0
    basis_day: date | None = None
    taxed_minor: int | None = None
    untaxed_minor: int | None = None
    credit_minor: int | None = None
    withheld_minor: int | None = None
    ex_day: date | None = None
    ratio_new: int | None = None
    ratio_old: int | None = None
    reason: str = ""
    bank_ref: str = ""
    account_id: int = 0
    id: int = 0
    entry_id: int | None = None

    @property
    def cash_minor(self) -> int:
        """What it moves in the account's cash."""
        return (self.total_minor or 0) if KIND_BY_KEY[self.kind].cash_way else 0

    @property
    def income_minor(self) -> int:
        """What it brought of income, after what was withheld."""
        return abs(self.total_minor or 0) if self.kind in INCOME else 0

    @property
    def held_since(self) -> date:
        return self.basis_day or self.day


def in_order(trades: "list[Trade] | tuple[Trade, ...]") -> list[Trade]:
    """Trades in the order in which they take effect, whatever the order they were entered in: of one day first splits (shares
    trade split from the morning on), then what brings shares in, then what takes them out."""
    ranks = {"split": 0, "return": 2, "dividend": 2, "fee": 2}

    def place(trade: Trade) -> tuple[date, int, int, int, int]:
        rank = ranks.get(trade.kind, 3 if trade.kind in TAKES_OUT else 1)
        return trade.day, rank, trade.shares_e8, trade.total_minor or 0, trade.id

    return sorted(trades, key=place)


def check_trade(trade: Trade) -> Trade:
    """The trade with the signs of its kind. Raises: InvalidInput where it lacks what its kind needs, such as a basis."""
    kind = KIND_BY_KEY.get(trade.kind)
    if kind is None:
        raise InvalidInput("Choose what happened.", field="kind")
    if "shares" in kind.asks and not trade.shares_e8:
        raise InvalidInput("Write how many shares.", field="shares")
    if trade.kind == "split":
        return _checked_split(trade)
    if "shares" not in kind.asks:
        trade = replace(trade, shares_e8=0)
    has_total = trade.total_minor is not None
    if (kind.cash_way and not trade.total_minor) or (trade.kind == "reinvest" and not trade.total_minor):
        raise InvalidInput("Write what was paid or received.", field="total")
    if kind.has_basis and not has_total and not trade.reason.strip():
        raise InvalidInput("Say what they had cost, or why nobody knows: a gift, an old account.", field="total")
    if trade.kind == "out" and not trade.reason.strip():
        raise InvalidInput("Say where they went.", field="reason")
    if trade.basis_day and trade.basis_day > trade.day:
        raise InvalidInput("They cannot be held since after the day they came.", field="basis_day")
    if trade.fee_minor < 0 or (has_total and trade.fee_minor > abs(trade.total_minor or 0) and trade.kind == "buy"):
        raise InvalidInput("A fee is a part of what was paid.", field="fee")
    _check_parts(trade)
    way = kind.cash_way or (-1 if kind.has_basis or trade.kind == "reinvest" else 0)
    total = abs(trade.total_minor) * way if trade.total_minor is not None and way else None
    return replace(trade, shares_e8=abs(trade.shares_e8) * kind.shares_way, total_minor=total)


def _checked_split(trade: Trade) -> Trade:
    if (trade.ratio_new is None) != (trade.ratio_old is None) or not (trade.ratio_new or trade.shares_e8):
        raise InvalidInput("Write how many new shares came for how many old ones, such as 3 for 1.", field="ratio")
    if trade.ratio_new is not None and not (0 < trade.ratio_new <= MOST_RATIO and 0 < (trade.ratio_old or 0) <= MOST_RATIO):
        raise InvalidInput(f"A split is of 1 to {MOST_RATIO} shares.", field="ratio")
    if trade.ratio_new is not None and trade.ratio_new == trade.ratio_old:
        raise InvalidInput("One for one changes nothing.", field="ratio")
    return replace(trade, total_minor=None, fee_minor=0)


def _check_parts(trade: Trade) -> None:
    """A distribution's parts, where they are said, make what was received: taxed + untaxed − withheld."""
    if trade.kind not in INCOME or (trade.taxed_minor is None and trade.untaxed_minor is None):
        return
    received = (trade.taxed_minor or 0) + (trade.untaxed_minor or 0) - (trade.withheld_minor or 0)
    if received != abs(trade.total_minor or 0):
        raise InvalidInput("Taxed and untaxed less what was withheld do not make what was received.", field="taxed")


def split_shares(held_e8: int, ratio_new: int, ratio_old: int) -> int:
    """What a split adds to shares (below zero if it takes some). Rounding: cut to 1e-8.

    >>> split_shares(40 * E8, 3, 1) == 80 * E8, split_shares(50 * E8, 1, 20) == -4_750_000_000
    (True, True)
    """
    return held_e8 * ratio_new // ratio_old - held_e8


def total_of(kind: str, shares_e8: int, price_e8: int, fee_minor: int, currency: str, rate: Fraction = Fraction(1)) -> int:
    """What so many shares cost or bring at a price, the fee counted in, in minor units of the account's currency (above zero).

    `rate` is what one unit of the security's currency is worth in the account's. Formula: shares × price × rate + fee when
    buying, − fee when selling. Rounding: half up, once.
    """
    exact = Fraction(abs(shares_e8) * price_e8, E8 * E8) * rate * 10 ** digits_of(currency)
    gross = int(exact + Fraction(1, 2))
    return gross - fee_minor if KIND_BY_KEY[kind].cash_way > 0 else gross + fee_minor


def price_of(trade: Trade, currency: str, rate: Fraction = Fraction(1)) -> int | None:
    """The price a trade was made at, times 1e8, in the security's currency; None where it has none.

    `rate` is what one unit of the security's currency is worth in the account's. Rounding: half up, once.
    """
    if not trade.shares_e8 or not trade.total_minor or trade.kind in ("split", "opening", "in") or rate <= 0:
        return None
    gross = abs(trade.total_minor) + (trade.fee_minor if KIND_BY_KEY[trade.kind].cash_way > 0 else -trade.fee_minor)
    exact = Fraction(gross * E8 * E8, abs(trade.shares_e8) * 10 ** digits_of(currency)) / rate
    found = int(exact + Fraction(1, 2))
    return found or None


def shares_for(total_minor: int, price_e8: int, fee_minor: int, kind: str, currency: str, rate: Fraction = Fraction(1)) -> int:
    """How many shares a total makes at a price, of 1e-8. Rounding: half up, once. Raises: InvalidInput if the price is zero."""
    if price_e8 <= 0 or rate <= 0:
        raise InvalidInput("A price is above zero.", field="price")
    gross = abs(total_minor) + (fee_minor if KIND_BY_KEY[kind].cash_way > 0 else -fee_minor)
    return int(Fraction(gross * E8 * E8, price_e8 * 10 ** digits_of(currency)) / rate + Fraction(1, 2))


def parse_price(text: str, *, decimal_mark: str = ".", field: str = "price") -> int:
    """A typed price as an integer of 1e-8, as `parse_exact` reads it. Raises: InvalidInput."""
    price = parse_exact(text, decimal_mark, "a price", field, "81.20")
    scaled = (price * E8).quantize(Decimal(1), rounding=ROUND_HALF_UP)
    if not 0 < scaled < 10**18:
        raise InvalidInput("A price is above zero, such as 81.20.", field=field)
    return int(scaled)
