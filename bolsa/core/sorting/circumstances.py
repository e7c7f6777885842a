"""What tells the categories of one payee apart: a circumstance, found by how much likelier it makes the past.

Circumstances are an account, an amount, a word in the bank's text (a card, its holder), money in or out, weekends, and cuts of
the amount, of the day of month and of time. A split by one is worth the marginal likelihood of the counts on both sides under a
Dirichlet prior (each category ALPHA) against that of all together, less a penalty for having chosen among many.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from math import exp, lgamma, log
from typing import NamedTuple

from bolsa.core.money import decimal_text
from bolsa.core.whole_numbers import nth

ALPHA = 0.3  # of a category in the prior of a split: a side is mostly for one
SATURDAY = 5
KINDS = 8  # of circumstances that are tried
OFTEN = 4  # times likelier that one of them tells things apart than that nothing does
MOST_WORDS = 40  # of a payee's texts, the most frequent: each is a way to split
_REMEMBERED = 5_000  # texts


class Case(NamedTuple):
    """An entry as far as it can tell: its amount in minor units, signed, and the bank's words, as they came."""

    amount_minor: int
    account_id: int
    day: date
    text: str = ""


class Decision(NamedTuple):
    """One past entry of a payee and the category it was filed under."""

    category_id: int
    amount_minor: int
    account_id: int
    day: date
    text: str = ""


@lru_cache(_REMEMBERED)
def words_of(text: str) -> frozenset[str]:
    """The words of a bank's text that can tell two things apart.

    >>> sorted(words_of("CARD 4411 Grebe, Grebe"))
    ['4411', 'card', 'grebe', 'grebe,']
    """
    return frozenset(text.casefold().split())


@dataclass(frozen=True)
class Circumstance:
    """A question that splits the past: its kind, and what it is asked with."""

    kind: str
    value: int = 0
    word: str = ""
    low: int = 0  # of a cut: the known values beside it, between which nobody knows
    high: int = 0
    gain: float = 0.0  # the logarithm of how much likelier it makes the past

    def share(self, one: Case) -> float:
        """How likely an entry is on its side: where nothing is known, by how far it lies between the two known values."""
        key = _KEYS[self.kind](one) if self.kind in _KEYS else self.low
        if self.low < key < self.high:
            return (self.high - key) / (self.high - self.low)
        return float(self.holds(one))

    @property
    def trust(self) -> float:
        """How likely it is that it tells the past apart at all, rather than nothing."""
        return 1 / (1 + exp(-self.gain))

    def holds(self, one: Case | Decision) -> bool:
        """Whether an entry is on its side."""
        if self.kind == "word":
            return self.word in words_of(one.text)
        return _ASKS[self.kind](self.value, one)

    def words(self, currency: str, *, holds: bool) -> str:
        """The side in words."""
        if self.kind in ("below", "until", "before"):
            value = {
                "below": lambda: decimal_text(self.value, currency),
                "until": lambda: f"the {nth(self.value)}",
                "before": lambda: date.fromordinal(self.value).isoformat(),
            }
            yes, no = {"below": ("below", "from"), "until": ("until", "after"), "before": ("before", "since")}[self.kind]
            return f"{yes if holds else no} {value[self.kind]()}{' on' if self.kind == 'below' and not holds else ''}"
        if self.kind == "word":
            return f"{'with' if holds else 'without'} “{self.word.upper()}”"
        return _SIDES[self.kind][not holds]


_SIDES = {
    "amount": ("at this amount", "at other amounts"),
    "account": ("in this account", "in other accounts"),
    "direction": ("coming in", "going out"),
    "weekend": ("at weekends", "on weekdays"),
}
_ASKS: dict[str, Callable[[int, Case | Decision], bool]] = {
    "amount": lambda value, one: one.amount_minor == value,
    "account": lambda value, one: one.account_id == value,
    "direction": lambda value, one: one.amount_minor > 0,
    "below": lambda value, one: abs(one.amount_minor) < value,
    "until": lambda value, one: one.day.day <= value,
    "weekend": lambda value, one: one.day.weekday() >= SATURDAY,
    "before": lambda value, one: one.day.toordinal() < value,
}
_KEYS: dict[str, Callable[[Case], int]] = {"below": lambda one: abs(one.amount_minor), "until": lambda one: one.day.day}


def find_split(cases: list[Decision], counts: Counter[int], categories: int) -> Circumstance | None:
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
            gain = whole.gain_of(side) - _penalty(ways)
            if gain > best:
                best, found = gain, Circumstance(kind, value, gain=gain)
    for word, ways, side in _sides_of_words(cases):
        gain = whole.gain_of(side) - _penalty(ways)
        if gain > best:
            best, found = gain, Circumstance("word", word=word, gain=gain)
    for kind, keys in (
        ("below", [abs(one.amount_minor) for one in cases]),
        ("until", [one.day.day for one in cases]),
        ("before", [one.day.toordinal() for one in cases]),
    ):
        gain, cut, ways = whole.best_cut(keys, [one.category_id for one in cases])
        if ways and (gain := gain - _penalty(ways)) > best:
            best, found = gain, Circumstance(kind, _cut_at(kind, *cut), "", *cut, gain)
    return found


def _penalty(ways: int) -> float:
    """What choosing one of so many ways of a kind costs."""
    return log(ways * KINDS / OFTEN)


def _groups(kind: str, keys: Sequence[int], cases: Sequence[Decision]) -> Iterator[tuple[int, int, dict[int, int]]]:
    """The values one can ask for, each with in how many ways one could have asked, and the counts of its side."""
    times = Counter(keys)
    if len(times) < 2:
        return
    if kind in ("direction", "weekend"):
        asked = [1]
    elif kind == "amount":  # one that came once tells nothing; a split entry came once
        came = Counter(amount for amount, _ in {(one.amount_minor, one.day) for one in cases})
        asked = sorted(amount for amount, many in came.items() if many > 1)
    else:
        asked = list(times)
    sides: dict[int, dict[int, int]] = {value: {} for value in asked}
    for key, one in zip(keys, cases, strict=True):
        if key in sides:
            side = sides[key]
            side[one.category_id] = side.get(one.category_id, 0) + 1
    for value, side in sides.items():
        yield value, len(asked), side


def _sides_of_words(cases: Sequence[Decision]) -> Iterator[tuple[str, int, dict[int, int]]]:
    """The words that came more than once and not always, each with how many there are, and the counts of its side."""
    times = Counter(word for text, _ in {(one.text, one.day) for one in cases} for word in words_of(text))
    ordered = sorted(times, key=lambda word: (-times[word], word))[:MOST_WORDS]
    asked = [word for word in ordered if 1 < times[word] < len(cases)]
    for word in asked:
        yield word, len(asked), Counter(one.category_id for one in cases if word in words_of(one.text))


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
