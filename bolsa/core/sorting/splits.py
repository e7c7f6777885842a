"""Splits by amounts and shares: whether parts make a whole, how they come out, and how a payee was split before."""

from collections.abc import Sequence

from bolsa.core.money import split_minor
from bolsa.core.sorting.rules import WHOLE_SHARE, SharePart
from bolsa.errors import InvalidInput

_PER_CENT = WHOLE_SHARE // 100


def split_parts(parts: Sequence[SharePart], total_minor: int) -> list[tuple[int, int]] | None:
    """By part: its category and amount, which add up to the total, in minor units of either sign.

    Fixed amounts are taken as they are; shares are of the whole, rounded by largest remainder together with what they leave; the
    part with neither takes the rest. None where that cannot add up.

    >>> split_parts([SharePart(1, share_e6=333_333), SharePart(2)], 1000), split_parts([SharePart(1, 700), SharePart(2)], -1000)
    ([(1, 333), (2, 667)], [(1, -700), (2, -300)])
    """
    size, sign = abs(total_minor), 1 if total_minor >= 0 else -1
    shares = [part.share_e6 or 0 for part in parts]
    of_share = split_minor(size, [*shares, WHOLE_SHARE - sum(shares)])
    found = [of_share[i] if part.amount_minor is None else part.amount_minor for i, part in enumerate(parts)]
    opened = [i for i, part in enumerate(parts) if part.amount_minor is None and part.share_e6 is None]
    rest = size - sum(found)
    if rest < 0 or (rest and not opened):
        return None
    if opened:
        found[opened[0]] = rest
    return [(part.category_id, sign * amount) for part, amount in zip(parts, found, strict=True) if amount]


def check_parts(parts: Sequence[SharePart], field: str) -> None:
    """Raises: InvalidInput if parts make no whole, whatever the whole is."""
    sentence = problem_of_parts(parts)
    if sentence:
        raise InvalidInput(sentence, field=field)


def problem_of_parts(parts: Sequence[SharePart]) -> str:
    """What keeps parts from making a whole, in a sentence; "" if nothing does."""
    if len(parts) < 2:
        return "A split has at least two parts."
    opened = sum(part.amount_minor is None and part.share_e6 is None for part in parts)
    shares = sum(part.share_e6 or 0 for part in parts)
    if opened > 1:
        return "Only one part may be left open; it takes what remains."
    if any((part.amount_minor or 0) < 0 or (part.share_e6 or 0) < 0 for part in parts):
        return "A part is not less than nothing."
    if shares > WHOLE_SHARE:
        return "The shares are more than 100 %."
    if not opened and (shares != WHOLE_SHARE or any(part.amount_minor is not None for part in parts)):
        return "Leave one part open, so that it takes what remains; or give shares that make 100 %."
    return ""


def split_as_before(past: Sequence[Sequence[tuple[int, int]]]) -> tuple[SharePart, ...]:
    """The parts of an entry like the latest of some past ones, given as their categories and amounts, the latest first; none if
    that was not split. The largest part takes what remains; another is an amount where it was the same the time before, else so
    many per cent.

    >>> [(part.category_id, part.amount_minor, part.share_e6) for part in split_as_before([[(1, 700), (2, 300)]])]
    [(2, None, 300000), (1, None, None)]
    """
    latest, *others = past or [()]
    total = sum(amount for _, amount in latest)
    same_way = all(amount and (amount > 0) == (total > 0) for _, amount in latest)
    if len(latest) < 2 or not same_way or len(dict(latest)) < len(latest):
        return ()
    before = dict(others[0]) if others else {}
    largest = max(latest, key=lambda one: abs(one[1]))[0]
    parts = []
    for id_, amount in latest:
        if id_ != largest:
            is_same = before.get(id_) == amount
            share = max(1, round(100 * amount / total)) * _PER_CENT
            parts.append(SharePart(id_, abs(amount)) if is_same else SharePart(id_, share_e6=share))
    return (*parts, SharePart(largest)) if sum(part.share_e6 or 0 for part in parts) < WHOLE_SHARE else ()
