"""Rows that the bank's own balances speak against: sent twice, or with the wrong sign.

A bank declares a balance with each statement. What it declared before, and the rows that are new since, must lead to what it
declares now. Where they do not, and one row by itself would mend it, that row is doubtful.
"""

from collections import Counter
from collections.abc import Sequence

from bolsa.core.bringing.rows import BroughtRow


def find_doubtful(fresh: Sequence[BroughtRow], off_minor: int) -> tuple[int, str] | None:
    """The place of the row that alone explains why the new rows miss the declared balance by so much, and why; None if none
    or several would.

    `off_minor` is what was declared before, with the new rows, less what is declared now. `fresh` are the new rows, or those
    of them with that amount or half of it. The row is brought in all the same unless the user leaves it out: the bank's
    balance may be the one that is wrong.
    """
    if not off_minor:
        return None
    times = Counter((row.day, row.amount_minor, row.raw_text) for row in fresh)
    for i in range(len(fresh) - 1, -1, -1):
        row = fresh[i]
        if row.amount_minor == off_minor and times[row.day, row.amount_minor, row.raw_text] > 1:
            return i, "the bank sent it twice, but its balance counts it once"
    wrong = [i for i, row in enumerate(fresh) if 2 * row.amount_minor == off_minor]
    if len(wrong) == 1:
        return wrong[0], "the bank’s balance counts it the other way round: its sign may be wrong"
    return None
