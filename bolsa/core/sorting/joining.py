"""Which payees are one shop written in several ways: what remains of their names without legal forms and places is the same.

A place is learned from the household's own names: the last word or two that follow several shops which are also there without it
("Grebe Street Grocer" and "Grebe Street Grocer Pt Halden", "Lantern Hardware" and "Lantern Hardware Pt Halden").
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

from bolsa.core.ledger.payees import payee_key

_LEGAL = "ab ag as aps bv bvba co company corp gmbh inc kg limited llc llp ltd nv ohg oy plc sa sarl sas sl spa srl ug"
LEGAL = frozenset(_LEGAL.split())  # legal forms
FEWEST_SHOPS = 2  # that a place follows, and that are there without it
LONGEST_PLACE = 2  # words
FEWEST_LETTERS = 4  # of what remains of a name

Words = tuple[str, ...]


def join(names: Mapping[int, str]) -> dict[int, int]:
    """By payee: the first of those that are one shop with it, itself included.

    >>> join({1: "Grebe Grocer", 2: "Grebe Grocer Saltby", 3: "Tern Tools", 4: "Tern Tools Saltby", 5: "Tern Tools Ltd"})
    {1: 1, 2: 1, 3: 3, 4: 3, 5: 3}
    """
    words = {id_: without_form(payee_key(name).split()) for id_, name in names.items()}
    places = find_places(words.values())
    first: dict[Words, int] = {}
    joined = {}
    for id_ in sorted(words):
        joined[id_] = first.setdefault(without_place(words[id_], places), id_)
    return joined


def without_form(words: Sequence[str]) -> Words:
    """A name's words without the legal form at their end."""
    kept = list(words)
    while len(kept) > 1 and kept[-1] in LEGAL:
        kept.pop()
    return tuple(kept)


def without_place(words: Words, places: Iterable[Words]) -> Words:
    """A name's words without the place at their end, if enough of it remains."""
    for length in range(LONGEST_PLACE, 0, -1):
        stem = without_form(words[:-length])
        if words[-length:] in places and _is_enough(stem):
            return stem
    return words


def find_places(names: Iterable[Words]) -> set[Words]:
    """The ends of names that follow FEWEST_SHOPS shops or more, each of which is there without it too."""
    there = set(names)
    follows: dict[Words, set[Words]] = defaultdict(set)
    for words in there:
        for length in range(1, LONGEST_PLACE + 1):
            stem = without_form(words[:-length])
            if stem in there and _is_enough(stem):
                follows[words[-length:]].add(stem)
    return {place for place, stems in follows.items() if len(stems) >= FEWEST_SHOPS}


def _is_enough(stem: Words) -> bool:
    return sum(map(len, stem)) >= FEWEST_LETTERS
