"""Rates of exchange by day."""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from datetime import date
from operator import itemgetter

from bolsa.core.units import Rate

Rates = Mapping[
    str, Sequence[tuple[date, int]]
]  # by currency: days in order, and what one unit was worth in home currency, times 1e8
SAME_E8 = 10**8


def rate_on(currency: str, day: date, home: str, rates: Rates) -> Rate | None:
    """The rate into home currency on a day: the latest known not after it, else the first there is; None if none is known."""
    if currency == home:
        return Rate(home, home, SAME_E8)
    known = rates.get(currency)
    if not known:
        return None
    at = bisect_right(known, day, key=itemgetter(0))
    return Rate(currency, home, known[max(0, at - 1)][1])
