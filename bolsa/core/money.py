"""Money as whole minor units, and the one table of digits per currency (ISO 4217, 2024 edition)."""

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

# ISO 4217 table A.1: currencies whose minor unit is not a hundredth.
_DIGITS = {
    **dict.fromkeys(
        ["BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "UYI", "VND", "VUV", "XAF", "XOF", "XPF"], 0
    ),
    **dict.fromkeys(["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"], 3),
    **dict.fromkeys(["CLF", "UYW"], 4),
}

E8 = 10**8


def digits_of(currency: str) -> int:
    """The number of decimal digits of the currency's minor unit.

    >>> digits_of("EUR"), digits_of("JPY"), digits_of("KWD")
    (2, 0, 3)
    """
    return _DIGITS.get(currency, 2)


def is_currency_code(text: str) -> bool:
    """Whether the text has the form of an ISO 4217 code: three capital letters."""
    return len(text) == 3 and text.isascii() and text.isalpha() and text.isupper()


def to_minor(amount: Decimal, currency: str) -> int:
    """The amount in minor units. Rounding: half up (away from zero), once.

    >>> to_minor(Decimal("-12.345"), "EUR")
    -1235
    """
    scaled = amount.scaleb(digits_of(currency))
    return int(scaled.quantize(Decimal(1), rounding=ROUND_HALF_UP))


def to_decimal(amount_minor: int, currency: str) -> Decimal:
    """The amount as an exact decimal with the currency's digits."""
    return Decimal(amount_minor).scaleb(-digits_of(currency))


def decimal_text(amount_minor: int, currency: str) -> str:
    """The amount as plain text for files, JSON and sentences: point as the mark, no grouping.

    >>> decimal_text(-5, "EUR"), decimal_text(120, "JPY")
    ('-0.05', '120')
    """
    return f"{to_decimal(amount_minor, currency):f}"


def split_minor(total_minor: int, weights: list[int]) -> list[int]:
    """The total divided by the weights, in their order; the parts always sum to the total.

    Rounding: each part is cut toward zero, then the units that remain go one each to the parts with the largest
    remainders, the earlier part first. A negative total is the mirror of the positive one.
    Raises: ValueError if there is no weight above zero, or one below (a bug: callers check first).

    >>> split_minor(100, [1, 1, 1]), split_minor(-100, [1, 1, 1])
    ([34, 33, 33], [-34, -33, -33])
    """
    if any(w < 0 for w in weights) or not sum(weights):
        raise ValueError("weights must be zero or more, and one above zero")
    if total_minor < 0:
        return [-part for part in split_minor(-total_minor, weights)]
    exact = [Fraction(total_minor * w, sum(weights)) for w in weights]
    parts = [int(x) for x in exact]
    by_remainder = sorted(range(len(weights)), key=lambda i: (parts[i] - exact[i], i))
    for i in by_remainder[: total_minor - sum(parts)]:
        parts[i] += 1
    return parts


def mean_of(amounts: Sequence[int]) -> int:
    """The mean in minor units, 0 of none. Rounding: half away from zero, once.

    >>> mean_of([1, 2]), mean_of([-1, -2]), mean_of([])
    (2, -2, 0)
    """
    if not amounts:
        return 0
    total, count = sum(amounts), len(amounts)
    magnitude = (2 * abs(total) + count) // (2 * count)
    return magnitude if total >= 0 else -magnitude


def median_of(amounts: Sequence[int]) -> int:
    """The middle amount, of an even number the mean of the two in the middle, 0 of none.

    >>> median_of([500, 100, 120]), median_of([100, 121])
    (120, 111)
    """
    if not amounts:
        return 0
    ordered = sorted(amounts)
    half = len(ordered) // 2
    return ordered[half] if len(ordered) % 2 else mean_of(ordered[half - 1 : half + 1])


def worth_minor(shares_e8: int, price_e8: int, currency: str) -> int:
    """What shares are worth at a price a share, both times 1e8, in minor units. Rounding: half away from zero, once.

    >>> worth_minor(250_000_000, 8_120_000_000, "EUR")   # 2.5 at 81.20
    20300
    """
    exact = abs(shares_e8) * price_e8 * int(10 ** digits_of(currency))  # times 1e16
    size = (2 * exact + E8 * E8) // (2 * E8 * E8)
    return size if shares_e8 >= 0 else -size


def worths_minor(shares_e8: Sequence[int], prices_e8: Sequence[int | None], currency: str) -> list[int]:
    """What shares are worth at prices, each as worth_minor says, far faster for thousands; at no price nothing."""
    unit, half, whole = 2 * 10 ** digits_of(currency), E8 * E8, 2 * E8 * E8
    exact = [shares * (price or 0) * unit for shares, price in zip(shares_e8, prices_e8, strict=True)]  # times 2e16
    return [(one + half) // whole if one >= 0 else -((half - one) // whole) for one in exact]


def converted_minor(amounts_minor: Sequence[int], rates_e8: Sequence[int], from_currency: str, to_currency: str) -> list[int]:
    """Amounts in another currency's minor units, each at its rate as convert_minor says, far faster for thousands."""
    over, under = 2 * 10 ** digits_of(to_currency), E8 * 10 ** digits_of(from_currency)
    exact = [amount * rate * over for amount, rate in zip(amounts_minor, rates_e8, strict=True)]
    return [(one + under) // (2 * under) if one >= 0 else -((under - one) // (2 * under)) for one in exact]


def convert_minor(amount_minor: int, rate_e8: int, from_currency: str, to_currency: str) -> int:
    """The amount in another currency's minor units.

    `rate_e8` is how many units of `to_currency` one unit of `from_currency` is worth, times 1e8.
    Rounding: half away from zero, once.

    >>> convert_minor(10000, 8_700_000, "SEK", "EUR")   # 100.00 SEK at 0.087
    870
    """
    over, under = int(10 ** digits_of(to_currency)), int(E8 * 10 ** digits_of(from_currency))
    magnitude = (2 * abs(amount_minor) * rate_e8 * over + under) // (2 * under)
    return magnitude if amount_minor >= 0 else -magnitude
