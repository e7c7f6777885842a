"""What category an entry likely belongs to, learned from the household's own decisions, with the reason in words.

The past of a payee is split by the circumstance that tells its categories apart best (an account, an amount, a cut of the amount
or of the day of month, weekends, a day since which it is another), again and again, as long as the split makes the past
likelier: the marginal likelihood of the counts on both sides under a Dirichlet prior (each category ALPHA) against that of all
together, less a penalty for having chosen among many cuts. An entry falls on one side of every split; there its suggestion is
counted.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property, lru_cache
from math import lgamma, log

from bolsa.core.money import decimal_text

SURE_ENOUGH = 0.7  # below this Bolsa asks instead of guessing
MOST_CHOICES = 5
ALPHA = 0.5  # of a category in the prior of a split
NEAR = 0.5  # cases that the wider circumstance counts as in a narrower one
STEADY = 0.25  # how often a category is the one, before anything is known of the payee
LIKE = 0.1  # what a payee that is only like another is worth at most: its past gives choices, and no guess
FEWEST_EACH = 2  # cases a category has on average where a split is tried: a shop of all sorts has none that would help
DEEPEST = 3  # splits one after the other
SATURDAY = 5
KINDS = 7  # of circumstances that are tried


@dataclass(frozen=True)
class Decision:
    """One past entry of a payee and the category it was filed under."""

    category_id: int
    amount_minor: int
    account_id: int
    day: date


@dataclass(frozen=True)
class Choice:
    """A category, in how many of the cases it was the one, and the chance that it is right."""

    category_id: int
    times: int
    cases: int
    certainty: float


@dataclass(frozen=True)
class Suggestion:
    """The choices, likeliest first; `is_guess` says whether the first is sure enough to be offered by itself."""

    choices: tuple[Choice, ...]
    reason: str
    is_guess: bool


@dataclass(frozen=True)
class Circumstance:
    """A question that splits the past: its kind, and what it is asked with."""

    kind: str
    value: int

    def holds(self, amount_minor: int, account_id: int, day: date) -> bool:
        """Whether an entry is on its side."""
        return _ASKS[self.kind](self.value, amount_minor, account_id, day)

    def words(self, currency: str, *, holds: bool) -> str:
        """The side in words."""
        if self.kind in ("below", "until", "before"):
            value = {
                "below": lambda: decimal_text(self.value, currency),
                "until": lambda: f"the {self.value}.",
                "before": self._day,
            }
            yes, no = {"below": ("below", "from"), "until": ("until", "after"), "before": ("before", "since")}[self.kind]
            return f"{yes if holds else no} {value[self.kind]()}{' on' if self.kind == 'below' and not holds else ''}"
        return _SIDES[self.kind][not holds]

    def _day(self) -> str:
        return date.fromordinal(self.value).isoformat()


_SIDES = {
    "amount": ("at this amount", "at other amounts"),
    "account": ("in this account", "in other accounts"),
    "direction": ("coming in", "going out"),
    "weekend": ("at weekends", "on weekdays"),
}
_ASKS: dict[str, Callable[[int, int, int, date], bool]] = {
    "amount": lambda value, amount, account, day: amount == value,
    "account": lambda value, amount, account, day: account == value,
    "direction": lambda value, amount, account, day: amount > 0,
    "below": lambda value, amount, account, day: abs(amount) < value,
    "until": lambda value, amount, account, day: day.day <= value,
    "weekend": lambda value, amount, account, day: day.weekday() >= SATURDAY,
    "before": lambda value, amount, account, day: day.toordinal() < value,
}


@dataclass(frozen=True)
class Past:
    """The decisions on one payee: their counts, and how they are split further, if anything tells them apart."""

    counts: Counter[int]
    split: Circumstance | None = None
    yes: "Past | None" = None
    no: "Past | None" = None

    @cached_property
    def cases(self) -> int:
        return self.counts.total()

    def suggest(self, *, amount_minor: int, account_id: int, day: date, currency: str = "", like: str = "") -> Suggestion | None:
        """The suggestion for an entry; `like` names the payee whose past it is, if it is another's. None if there is no past.

        Certainty of a category = (times + NEAR × its share in the wider circumstance) / (cases + NEAR), the widest being STEADY:
        once of once is 0.75, four of four 0.92. Of another payee's past it is LIKE × times / (cases + 1).
        """
        if not self.cases:
            return None
        here: Past = self
        shares = dict.fromkeys(self.counts, STEADY)
        words: list[str] = []
        while True:
            counts, weight = here.counts, here.cases + NEAR
            shares = {id_: (counts.get(id_, 0) + NEAR * share) / weight for id_, share in shares.items()}
            if here.split is None or here.yes is None or here.no is None:
                break
            holds = here.split.holds(amount_minor, account_id, day)
            words.append(here.split.words(currency, holds=holds))
            here = here.yes if holds else here.no
        ordered = sorted(self.counts, key=lambda id_: (-shares[id_], -here.counts[id_], id_))
        top = ordered[0]
        told = [*words[-1:]] if here.counts[top] else []
        reason = f"{here.counts[top]} of {here.cases} times {' '.join(told)}".rstrip()
        if here.cases == 1 and not told:
            reason = "once before"
        if like:
            reason += f", as for {like}"
            shares = {id_: LIKE * here.counts[id_] / (here.cases + 1) for id_ in ordered}
        choices = tuple(Choice(id_, here.counts[id_], here.cases, shares[id_]) for id_ in ordered[:MOST_CHOICES])
        return Suggestion(choices, reason, shares[top] >= SURE_ENOUGH)


def learn(decisions: Sequence[Decision]) -> Past:
    """What the decisions on a payee tell, split by what tells them apart."""
    return _learn(list(decisions), len({one.category_id for one in decisions}) + 1, DEEPEST)


def suggest(
    decisions: Sequence[Decision], *, amount_minor: int, account_id: int, day: date, currency: str = "", like: str = ""
) -> Suggestion | None:
    """The suggestion for one entry, from the past decisions on its payee."""
    return learn(decisions).suggest(amount_minor=amount_minor, account_id=account_id, day=day, currency=currency, like=like)


def _learn(cases: list[Decision], categories: int, deeper: int) -> Past:
    counts = Counter(one.category_id for one in cases)
    if len(counts) < 2 or not deeper or len(cases) < FEWEST_EACH * len(counts):
        return Past(counts)
    found = _best_split(cases, counts, categories)
    if found is None:
        return Past(counts)
    sides: tuple[list[Decision], list[Decision]] = ([], [])
    for one in cases:
        sides[not found.holds(one.amount_minor, one.account_id, one.day)].append(one)
    yes_side, no_side = (_learn(side, categories, deeper - 1) for side in sides)
    return Past(counts, found, yes_side, no_side)


def _best_split(cases: list[Decision], counts: Counter[int], categories: int) -> Circumstance | None:
    """The circumstance that makes the past likelier by most, its penalty taken off; None if none does."""
    whole = _Evidence(counts, categories)
    best, found = 0.0, None
    for kind, keys in (
        ("amount", [one.amount_minor for one in cases]),
        ("account", [one.account_id for one in cases]),
        ("direction", [one.amount_minor > 0 for one in cases]),
        ("weekend", [one.day.weekday() >= SATURDAY for one in cases]),
    ):
        for value, ways, side in _groups(kind, keys, cases):
            gain = whole.gain_of(side) - log(ways * KINDS)
            if gain > best:
                best, found = gain, Circumstance(kind, value)
    for kind, keys in (
        ("below", [abs(one.amount_minor) for one in cases]),
        ("until", [one.day.day for one in cases]),
        ("before", [one.day.toordinal() for one in cases]),
    ):
        gain, cut, ways = whole.best_cut(keys, [one.category_id for one in cases])
        if ways and gain - log(ways * KINDS) > best:
            best, found = gain - log(ways * KINDS), Circumstance(kind, _cut_at(kind, *cut))
    return found


def _groups(kind: str, keys: Sequence[int], cases: Sequence[Decision]) -> Iterator[tuple[int, int, dict[int, int]]]:
    """The values one can ask for, each with in how many ways one could have asked, and the counts of its side."""
    times = Counter(keys)
    if len(times) < 2:
        return
    if kind in ("direction", "weekend"):
        asked = [1]
    else:  # an amount that came once tells nothing
        asked = [value for value, many in times.items() if many > 1 or kind != "amount"]
    sides: dict[int, dict[int, int]] = {value: {} for value in asked}
    for key, one in zip(keys, cases, strict=True):
        if key in sides:
            side = sides[key]
            side[one.category_id] = side.get(one.category_id, 0) + 1
    for value, side in sides.items():
        yield value, len(asked), side


def _cut_at(kind: str, low: int, high: int) -> int:
    """The cut between two values side by side: of amounts half way, of days of the month the lower, of days the later."""
    return {"below": (low + high + 1) // 2, "until": low, "before": high}[kind]


@lru_cache(1_000)
def _term(times: int) -> float:
    return lgamma(times + ALPHA) - lgamma(ALPHA)


@lru_cache(20_000)
def _all(cases: int, categories: int) -> float:
    return lgamma(categories * ALPHA) - lgamma(categories * ALPHA + cases)


class _Evidence:
    """The logarithm of the marginal likelihood of counts of categories under a Dirichlet prior, and what splits add to it."""

    def __init__(self, counts: Counter[int], categories: int):
        self.counts, self.categories, self.cases = counts, categories, counts.total()
        self.terms = sum(map(_term, counts.values()))
        self.whole = _all(self.cases, categories) + self.terms

    def gain_of(self, side: Mapping[int, int]) -> float:
        """What a side, split from the rest, adds."""
        yes = rest = 0.0
        for category_id, times in side.items():
            yes += _term(times)
            rest += _term(self.counts[category_id] - times) - _term(self.counts[category_id])
        here = sum(side.values())
        return _all(here, self.categories) + yes + _all(self.cases - here, self.categories) + self.terms + rest - self.whole

    def best_cut(self, keys: Sequence[int], category_ids: Sequence[int]) -> tuple[float, tuple[int, int], int]:
        """The cut between neighbouring keys that adds most: what it adds, the keys beside it, and how many cuts there were."""
        order = sorted(range(len(keys)), key=keys.__getitem__)
        below: dict[int, int] = {}
        yes, rest, best, found, ways = 0.0, self.terms, float("-inf"), (0, 0), 0
        for done, at in enumerate(order, 1):
            category_id = category_ids[at]
            times = below.get(category_id, 0)
            below[category_id] = times + 1
            above = self.counts[category_id] - times
            yes += _term(times + 1) - _term(times)
            rest += _term(above - 1) - _term(above)
            if done == len(order) or keys[order[done]] == keys[at]:
                continue
            ways += 1
            gain = _all(done, self.categories) + yes + _all(self.cases - done, self.categories) + rest - self.whole
            if gain > best:
                best, found = gain, (keys[at], keys[order[done]])
        return best, found, ways
