"""Rows that the bank's own balances speak against: sent twice, or with the wrong sign.

A bank declares a balance with each statement. What it declared before, and the rows that are new since, must lead to what it
declares now. Where they do not, and one row by itself would mend it, that row is doubtful.
"""

from collections import Counter
from dataclasses import replace

from bolsa.core.bringing import BroughtRow
from bolsa.core.matching import Verdict


def doubt_by_balance(
    rows: list[BroughtRow], verdicts: list[Verdict], before_minor: int | None, now_minor: int | None
) -> list[Verdict]:
    """The verdicts, in the rows' order, with a row that the declared balances speak against marked as suspicious.

    It is brought in all the same unless the user leaves it out: the bank's balance may be the one that is wrong.
    """
    if before_minor is None or now_minor is None:
        return verdicts
    fresh = [i for i, verdict in enumerate(verdicts) if verdict.kind != "known"]
    off = before_minor + sum(rows[i].amount_minor for i in fresh) - now_minor
    if not off:
        return verdicts
    times = Counter((rows[i].day, rows[i].amount_minor, rows[i].raw_text) for i in fresh)
    for i in reversed(fresh):
        row = rows[i]
        if row.amount_minor == off and times[row.day, row.amount_minor, row.raw_text] > 1:
            return _with_doubt(verdicts, i, "the bank sent it twice, but its balance counts it once")
    wrong = [i for i in fresh if 2 * rows[i].amount_minor == off]
    if len(wrong) == 1:
        return _with_doubt(verdicts, wrong[0], "the bank’s balance counts it the other way round: its sign may be wrong")
    return verdicts


def _with_doubt(verdicts: list[Verdict], i: int, reason: str) -> list[Verdict]:
    doubted = list(verdicts)
    doubted[i] = replace(verdicts[i], kind="suspicious" if verdicts[i].kind == "new" else verdicts[i].kind, reason=reason)
    return doubted
