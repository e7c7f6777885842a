"""What the balances a bank declares say of its rows: which of the doubtful ones are bookings of their own, which were sent
twice, or with the wrong sign.

A bank declares a balance with each statement. What the account would come to, less what the bank declares now, is off by
nothing, or by as much as it was off before. Where it is not, rows that explain it are named.
"""

from collections import Counter
from collections.abc import Sequence
from itertools import combinations

from bolsa.core.bringing.rows import BroughtRow

MOST_ASKED = 14  # rows asked about, of which every choice is tried


def find_doubtful(fresh: Sequence[BroughtRow], off_minor: int, known: Sequence[BroughtRow] = ()) -> tuple[int, str] | None:
    """The place of the row that alone explains why the new rows miss the declared balance by so much, and why; None if none
    or several would.

    `off_minor` is what the account would hold less what is declared. `fresh` are the new rows, or those
    of them with that amount or half of it, `known` those of the same file that are here already. The row is brought in all the
    same unless the user leaves it out: the bank's balance may be the one that is wrong.
    """
    if not off_minor:
        return None
    times = Counter((row.day, row.amount_minor, row.raw_text) for row in (*fresh, *known))
    for i in range(len(fresh) - 1, -1, -1):
        row = fresh[i]
        if row.amount_minor == off_minor and times[row.day, row.amount_minor, row.raw_text] > 1:
            return i, "the bank sent it twice, but its balance counts it once"
    wrong = [i for i, row in enumerate(fresh) if 2 * row.amount_minor == off_minor]
    if len(wrong) == 1:
        return wrong[0], "the bank’s balance counts it the other way round: its sign may be wrong"
    return None


def find_proven(amounts: Sequence[int], lacking_minor: int) -> list[int] | None:
    """Which of the rows asked about (by their amounts) the declared balance counts: the places of those that make up what is
    lacking.

    Rows of one amount are alike, the first ones are taken. None where no choice fits, or several do that differ in amounts.

    >>> find_proven([-350, -1200, -350], -350), find_proven([-350, -1200], 0), find_proven([-100, -200, -300], -300)
    ([0], [], None)
    """
    if len(amounts) > MOST_ASKED:
        return None
    found: dict[tuple[int, ...], list[int]] = {}
    for many in range(len(amounts) + 1):
        for places in combinations(range(len(amounts)), many):
            chosen = tuple(sorted(amounts[i] for i in places))
            if sum(chosen) == lacking_minor:
                found.setdefault(chosen, list(places))
    return next(iter(found.values())) if len(found) == 1 else None
