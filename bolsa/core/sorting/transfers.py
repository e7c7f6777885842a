"""Entries in different accounts that are likely one transfer: opposite amounts, one with a fee, one that came in two, or two
currencies."""

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from itertools import combinations

from bolsa.core.ledger.payees import clean_text
from bolsa.core.whole_numbers import counted

DAYS_APART = 7
TOLD, UNTOLD = 0.97, 0.75  # certainty on one day, when a text or the past speaks of a transfer, and when nothing does
PER_DAY = 0.04  # less for each day between
RIVALS = 0.75  # times this, when another side would fit as well
UNLIKE = 0.6  # times this, when the amounts are not the same: a fee, two parts, a rate
MOST_FEE = 3  # per cent of what arrives
RATE_OFF = 3  # per cent by which a rate may differ from the day's
DAYS_IN_PARTS = 3  # between the parts of one transfer
MOST_FITTING = 12  # entries among which two parts are sought
_TELLING = (
    "transfer", "own account", "savings", "card payment", "payment received", "withdrawal", "atm", "cash", "ubertrag",
    "umbuchung", "virement", "transferencia", "bonifico", "overboeking",
)  # fmt: skip

Worth = Callable[[int, str, str, date], int | None]  # an amount of one currency in another on a day, None if no rate is known


@dataclass(frozen=True)
class Side:
    """An unsorted entry that could be one side of a transfer; `before` says how often its payee was one, by account."""

    entry_id: int
    account_id: int
    account: str
    day: date
    amount_minor: int
    currency: str
    text: str
    before: dict[int, int] = field(default_factory=dict, hash=False)
    note: str = ""


@dataclass(frozen=True)
class Pair:
    """One proposed transfer: `out` sends, `into` receives, `more` are further parts of whichever side came in two; what was sent
    beyond what arrived is the fee, in minor units of its currency. `certainty` is 0 to 1, `reason` says why."""

    out: Side
    into: Side
    certainty: float
    reason: str
    more: tuple[Side, ...] = ()
    fee_minor: int = 0

    @property
    def sides(self) -> tuple[Side, ...]:
        return (self.out, self.into, *self.more)

    @property
    def notes(self) -> list[str]:
        """What is noted about its sides, each sentence once: why a transfer was undone, for one."""
        return list(dict.fromkeys(side.note for side in self.sides if side.note))

    @property
    def entry_ids(self) -> frozenset[int]:
        return frozenset(side.entry_id for side in self.sides)

    @property
    def kind(self) -> tuple[int, int, int, bool]:
        """What pairs that are decided together have in common: the two accounts, and whether a fee or parts come with it."""
        return self.out.account_id, self.into.account_id, len(self.more), bool(self.fee_minor)


def propose_transfers(sides: Sequence[Side], refused: Collection[tuple[int, int]] = (), worth: Worth | None = None) -> list[Pair]:
    """Proposed transfers, surest first; each side once. `refused` are pairs of entries, the smaller id first, that are none.

    Certainty: TOLD on one day when a text speaks of a transfer or names the other account, or the payee was one with it before;
    else UNTOLD; less PER_DAY for each day between, times RIVALS when another side would fit as well, times UNLIKE when the
    amounts differ by a fee, in parts, or by a rate.
    """
    by_amount: dict[tuple[int, str], list[Side]] = defaultdict(list)
    for side in sides:
        by_amount[side.amount_minor, side.currency].append(side)
    candidates = []
    for out in sides:
        if out.amount_minor >= 0:
            continue
        fits = [into for into in by_amount[-out.amount_minor, out.currency] if _fits(out, into, refused)]
        candidates += [_pair(out, into, rivals=len(fits) - 1) for into in fits]
    candidates += _unlike(sides, refused, worth)
    chosen: list[Pair] = []
    used: set[int] = set()
    for pair in sorted(candidates, key=lambda p: (-p.certainty, p.out.entry_id, p.into.entry_id)):
        if not used & pair.entry_ids:
            used |= pair.entry_ids
            chosen.append(pair)
    return chosen


def _fits(out: Side, into: Side, refused: Collection[tuple[int, int]]) -> bool:
    ids = min(out.entry_id, into.entry_id), max(out.entry_id, into.entry_id)
    return out.account_id != into.account_id and abs((into.day - out.day).days) <= DAYS_APART and ids not in refused


def _pair(out: Side, into: Side, *, rivals: int = 0, more: tuple[Side, ...] = (), fee_minor: int = 0, unlike: str = "") -> Pair:
    apart = max(abs((side.day - out.day).days) for side in (into, *more))
    when = "on the same day" if not apart else f"{counted(apart, 'day')} apart"
    reasons = [f"{unlike or 'the same amount out and in'}, {when}"]
    told = _told(out, into)
    certainty = (TOLD if told else UNTOLD) - PER_DAY * apart
    reasons += [told] if told else []
    if unlike:
        certainty *= UNLIKE
    if rivals:
        certainty *= RIVALS
        reasons.append("another entry would fit as well")
    return Pair(out, into, max(certainty, 0.01), ", ".join(reasons), more, fee_minor)


def _told(out: Side, into: Side) -> str:
    """What speaks of a transfer besides the amounts, "" if nothing does."""
    times = max(out.before.get(into.account_id, 0), into.before.get(out.account_id, 0))
    if times:
        return f"{counted(times, 'time')} before between these accounts"
    texts = clean_text(f"{out.text} {into.text}").casefold()
    if any(word in texts for word in _TELLING) or any(side.account.casefold() in texts for side in (out, into)):
        return "the text speaks of a transfer"
    return ""


def _unlike(sides: Sequence[Side], refused: Collection[tuple[int, int]], worth: Worth | None) -> Iterator[Pair]:
    """Transfers whose sides are not the same amount; only where a text or the past speaks of one, since amounts alone say
    little."""
    incoming = sorted((side for side in sides if side.amount_minor > 0), key=lambda side: side.day)
    outgoing = sorted((side for side in sides if side.amount_minor < 0), key=lambda side: side.day)
    for out in outgoing:
        near = [into for into in _around(out, incoming) if _fits(out, into, refused) and _told(out, into)]
        for into in near:
            if into.currency == out.currency:
                fee = -out.amount_minor - into.amount_minor
                if fee > 0 and fee * 100 <= MOST_FEE * into.amount_minor:
                    yield _pair(out, into, fee_minor=fee, unlike="a little less arrived than was sent")
            elif worth and _is_worth(out, into, worth):
                yield _pair(out, into, unlike="as much at the day’s rate")
        for one, other in _in_parts(out, near):
            yield _pair(out, one, more=(other,), unlike="sent once and arrived in two parts")
    for into in incoming:
        near = [out for out in _around(into, outgoing) if _fits(out, into, refused) and _told(out, into)]
        for one, other in _in_parts(into, near):
            yield _pair(one, into, more=(other,), unlike="sent in two parts and arrived once")


def _around(side: Side, ordered: Sequence[Side]) -> Sequence[Side]:
    """The sides within DAYS_APART of one, of some in order of day."""
    first, last = (side.day + timedelta(days=days) for days in (-DAYS_APART, DAYS_APART))
    return ordered[bisect_left(ordered, first, key=_day) : bisect_right(ordered, last, key=_day)]


def _day(side: Side) -> date:
    return side.day


def _is_worth(out: Side, into: Side, worth: Worth) -> bool:
    expected = worth(-out.amount_minor, out.currency, into.currency, out.day)
    return expected is not None and abs(into.amount_minor - expected) * 100 <= RATE_OFF * expected


def _in_parts(whole: Side, near: Sequence[Side]) -> Iterator[tuple[Side, Side]]:
    """Two entries of one account whose sum is opposite to a third."""
    for one, other in combinations([side for side in near if side.currency == whole.currency][:MOST_FITTING], 2):
        is_sum = one.amount_minor + other.amount_minor == -whole.amount_minor
        if is_sum and one.account_id == other.account_id and abs((one.day - other.day).days) <= DAYS_IN_PARTS:
            yield one, other
