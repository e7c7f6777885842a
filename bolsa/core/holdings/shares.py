"""Share positions: shares here against the shares an institution declares, and what may explain a difference.

Shares are integers of 1e-8, positive in the account. A trade brings shares in or takes them out; a position on a day is the sum
of what the trades until then moved.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from fractions import Fraction

from bolsa.core.amounts import parse_exact
from bolsa.core.holdings.trades import KIND_BY_KEY, KIND_WORDS, Trade
from bolsa.core.known import known
from bolsa.errors import InvalidInput

E8 = 10**8
MOST_SHARES = 10**9
DAYS_TO_SETTLE = 4  # a trade reaches the institution's list after settlement, over a weekend
# What companies split by: so many for one and back, and the few ratios in between that are in use.
_BETWEEN = [Fraction(3, 2), Fraction(5, 2), Fraction(4, 3), Fraction(5, 3), Fraction(5, 4), Fraction(6, 5), Fraction(11, 10)]
_RATIOS = [*(Fraction(n) for n in range(2, 21)), *_BETWEEN, *(Fraction(1, n) for n in (*range(2, 21), 25, 50, 100))]


@dataclass(frozen=True)
class ShareCure:
    """One change that would make a position agree: "remove", "turn" round, "date", "correct" a move, or enter a "split".

    `shares_e8`, `day` and `reason` are what the move has afterwards, or the new one gets.
    """

    verb: str
    words: str
    move_id: int = 0
    shares_e8: int = 0
    day: date | None = None
    reason: str = ""
    ratio: tuple[int, int] | None = None  # of a split: new shares for old ones


@dataclass(frozen=True)
class ShareSuspect:
    """What may explain why shares here and there differ, in words, and its cure."""

    title: str
    reason: str
    cure: ShareCure

    @property
    def key(self) -> str:
        """By which the page names it, the same as long as nothing changes."""
        day = self.cure.day.isoformat() if self.cure.day else ""
        return f"{self.cure.verb}-{self.cure.move_id}-{self.cure.shares_e8}-{day}"


# What a trade is when its shares go the other way.
_OTHER_WAY = {"buy": "sell", "sell": "buy", "in": "out", "out": "in", "opening": "out", "reinvest": "sell"}


def trades_of_cure(cure: ShareCure, moves: Sequence[Trade]) -> tuple[tuple[Trade, ...], tuple[int, ...]]:
    """A cure as trades: those it changes or adds (without an id), and those it takes out."""
    if cure.verb == "split":
        new, old = cure.ratio or (None, None)
        like = moves[0]
        split = Trade(
            known(cure.day), "split", cure.shares_e8, like.security_id, ratio_new=new, ratio_old=old, reason=cure.reason,
            account_id=like.account_id,
        )  # fmt: skip
        return (split,), ()
    move = next(move for move in moves if move.id == cure.move_id)
    if cure.verb == "remove":
        return (), (move.id,)
    if cure.verb == "date":
        return (replace(move, day=known(cure.day)),), ()
    if cure.verb == "correct":
        return (replace(move, shares_e8=cure.shares_e8),), ()
    kind = _OTHER_WAY.get(move.kind, move.kind)
    has_total = bool(KIND_BY_KEY[kind].cash_way) or KIND_BY_KEY[kind].has_basis
    total = -move.total_minor if has_total and move.total_minor is not None else None
    return (replace(move, shares_e8=cure.shares_e8, kind=kind, total_minor=total),), ()


def parse_shares(text: str, *, decimal_mark: str = ".", field: str = "shares") -> int:
    """Typed shares as an integer of 1e-8, as `parse_exact` reads them. Raises: InvalidInput.

    >>> parse_shares("12.5"), parse_shares("1 200"), parse_shares("0,0001")
    (1250000000, 120000000000, 10000)
    """
    shares = parse_exact(text, decimal_mark, "a number of shares", field)
    scaled = shares * E8
    if scaled != scaled.to_integral_value() or abs(shares) > MOST_SHARES:
        raise InvalidInput("Shares have up to eight decimals and number up to a billion.", field=field)
    return int(scaled)


def shares_text(shares_e8: int) -> str:
    """Shares as they are read, with as many decimals as they have.

    >>> shares_text(1250000000), shares_text(-120000000000)
    ('12.5', '-1200')
    """
    return f"{Decimal(shares_e8).scaleb(-8).normalize():f}"


def position_on(moves: Sequence[Trade], day: date) -> int:
    """The shares held at the end of a day, by the moves of one security."""
    return sum(move.shares_e8 for move in moves if move.day <= day)


def find_share_suspects(moves: Sequence[Trade], there_e8: int, day: date) -> list[ShareSuspect]:
    """What may explain that the moves of one security do not lead to the declared position, the surest first.

    Each by itself explains all of the difference. `day` is that of the declared position.
    """
    here = position_on(moves, day)
    if here == there_e8:
        return []
    search = _Search(moves, there_e8 - here, here, there_e8, day)
    found = [*search.twice(), *search.turned(), *search.settling(), *search.split(), *search.swapped()]
    return found or list(search.too_much())


class _Search:
    def __init__(self, moves: Sequence[Trade], missing_e8: int, here_e8: int, there_e8: int, day: date):
        self.moves = [move for move in moves if move.day <= day]
        self.later = [move for move in moves if day < move.day <= day + timedelta(days=DAYS_TO_SETTLE)]
        self.missing, self.here, self.there, self.day = missing_e8, here_e8, there_e8, day

    def twice(self) -> Iterator[ShareSuspect]:
        """A move that is there twice, by a few days at most."""
        for i, move in enumerate(self.moves):
            if move.shares_e8 != -self.missing:
                continue
            for other in self.moves[:i]:
                if (other.kind, other.shares_e8) == (move.kind, move.shares_e8) and (move.day - other.day).days <= DAYS_TO_SETTLE:
                    double = move if not move.bank_ref else other
                    reason = f"the same shares were {KIND_WORDS[move.kind]} on {other.day} too"
                    yield ShareSuspect(_named(double), reason, ShareCure("remove", "Remove the double", double.id))

    def turned(self) -> Iterator[ShareSuspect]:
        """A move whose sign is wrong: half of the difference."""
        for move in self.moves:
            if -2 * move.shares_e8 == self.missing:
                reason = "turned round it explains all: they may have gone the other way"
                yield ShareSuspect(_named(move), reason, ShareCure("turn", "Turn it round", move.id, -move.shares_e8))

    def split(self) -> Iterator[ShareSuspect]:
        """A split or a reverse split: the positions stand in a simple ratio, a fraction of a share aside, which is paid out."""
        if self.here <= 0 or self.there <= 0:
            return
        exact = next((ratio for ratio in _RATIOS if self.here * ratio == self.there), None)
        cut = next((ratio for ratio in _RATIOS if self.here * ratio // E8 * E8 == self.there), None)
        ratio = exact or cut
        if ratio is None:
            return
        words = f"split {ratio.numerator} for {ratio.denominator}"
        more = "" if exact else "; the fraction of a share that is left over was paid out"
        reason = f"{words[6:]} of the {shares_text(self.here)} here makes {shares_text(self.there)}{more}"
        pair = (ratio.numerator, ratio.denominator) if exact else None
        cure = ShareCure("split", f"Enter a {words}", shares_e8=self.missing, day=self.day, reason=words + more, ratio=pair)
        yield ShareSuspect(f"A {words}", reason, cure)

    def settling(self) -> Iterator[ShareSuspect]:
        """A trade around the day: not settled there yet, or dated late here."""
        for move in self.moves:
            if move.shares_e8 == -self.missing and (self.day - move.day).days < DAYS_TO_SETTLE:
                reason = f"dated {move.day}, it may not have been settled there yet"
                after = self.day + timedelta(days=1)
                yield ShareSuspect(_named(move), reason, ShareCure("date", f"Date it {after}", move.id, day=after))
        for move in self.later:
            if move.shares_e8 == self.missing:
                reason = f"dated {move.day}, just after the day of the list"
                yield ShareSuspect(_named(move), reason, ShareCure("date", f"Date it {self.day}", move.id, day=self.day))

    def swapped(self) -> Iterator[ShareSuspect]:
        """Two neighbouring digits of a move swapped; the difference is then divisible by nine."""
        for move in self.moves if self.missing % 9 == 0 else ():
            right = move.shares_e8 + self.missing
            here, there = shares_text(abs(move.shares_e8)), shares_text(abs(right))
            if _are_swapped(here, there) and (right < 0) == (move.shares_e8 < 0):
                reason = f"two digits may be swapped: {here} for {there}"
                yield ShareSuspect(_named(move), reason, ShareCure("correct", f"Make it {there}", move.id, right))

    def too_much(self) -> Iterator[ShareSuspect]:
        """A typed move the institution does not count; what is gone there altogether was sold or moved, not mistyped."""
        for move in reversed(self.moves) if self.there else ():
            if move.shares_e8 == -self.missing and not move.bank_ref:
                reason = "without it the two agree: the institution does not count it"
                yield ShareSuspect(_named(move), reason, ShareCure("remove", "Remove it", move.id))


def _named(move: Trade) -> str:
    return f"{shares_text(abs(move.shares_e8))} {KIND_WORDS[move.kind]} on {move.day}"


def _are_swapped(one: str, other: str) -> bool:
    """Whether exactly two neighbouring digits are exchanged; the decimal point may stand between them."""
    if len(one) != len(other) or one.find(".") != other.find("."):
        return False
    one, other = one.replace(".", ""), other.replace(".", "")
    unlike = [i for i in range(len(one)) if one[i] != other[i]]
    if len(unlike) != 2 or unlike[1] != unlike[0] + 1:
        return False
    i, j = unlike
    return (one[i], one[j]) == (other[j], other[i])
