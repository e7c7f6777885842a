"""Two opposite entries in different accounts that are likely one transfer."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date

from bolsa.core.ledger.payees import clean_text

DAYS_APART = 5
_TELLING = ("transfer", "own account", "savings", "card payment", "withdrawal", "atm", "cash")


@dataclass(frozen=True)
class Side:
    """An unsorted entry that could be one side of a transfer."""

    entry_id: int
    account_id: int
    account: str
    day: date
    amount_minor: int
    currency: str
    text: str


@dataclass(frozen=True)
class Pair:
    """One proposed transfer: `out` sends, `into` receives; `certainty` is 0 to 1, `reason` says why."""

    out: Side
    into: Side
    certainty: float
    reason: str


def propose_transfers(sides: list[Side]) -> list[Pair]:
    """Pairs of opposite amounts in two accounts of one currency within five days, surest first; each side once.

    Certainty: 0.95 on one day, less 0.08 for each day between; 0.04 more when a text speaks of a transfer or names the
    other account; a quarter off when another side would fit as well.
    """
    waiting: dict[tuple[int, str], list[Side]] = defaultdict(list)
    for side in sides:
        if side.amount_minor > 0:
            waiting[side.amount_minor, side.currency].append(side)
    candidates = []
    for out in sides:
        if out.amount_minor < 0:
            fits = [into for into in waiting[-out.amount_minor, out.currency] if _fits(out, into)]
            candidates += [_pair(out, into, rivals=len(fits) - 1) for into in fits]
    chosen: list[Pair] = []
    used: set[int] = set()
    for pair in sorted(candidates, key=lambda p: (-p.certainty, p.out.entry_id, p.into.entry_id)):
        if not used & {pair.out.entry_id, pair.into.entry_id}:
            used |= {pair.out.entry_id, pair.into.entry_id}
            chosen.append(pair)
    return chosen


def _fits(out: Side, into: Side) -> bool:
    return out.account_id != into.account_id and abs((into.day - out.day).days) <= DAYS_APART


def _pair(out: Side, into: Side, rivals: int) -> Pair:
    apart = abs((into.day - out.day).days)
    when = "on the same day" if not apart else f"{apart} {'day' if apart == 1 else 'days'} apart"
    reasons = [f"the same amount out and in, {when}"]
    certainty = 0.95 - 0.08 * apart
    texts = clean_text(f"{out.text} {into.text}").casefold()
    if any(word in texts for word in _TELLING) or any(s.account.casefold() in texts for s in (out, into)):
        certainty += 0.04
        reasons.append("the text speaks of a transfer")
    if rivals:
        certainty *= 0.75
        reasons.append("another entry would fit as well")
    return Pair(out, into, min(certainty, 0.99), ", ".join(reasons))
