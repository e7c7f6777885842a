"""Which payees are one shop written in several ways: what remains of their names without legal forms, numbers and places is the
same.

A place is learned from the household's own names: the last word or two that follow several shops. A shop is known by its name
alone ("Grebe Street Grocer" beside "Grebe Street Grocer Saltby"), or by several ends that other shops have too ("Tern Tools
Saltby", "Tern Tools Pt Halden", "Grebe Grocer Saltby", "Grebe Grocer Pt Halden": what varies beside what stays). A word for a
kind of shop is no place, or "Saltby Bakery" and "Halden Bakery" would be two places of one shop.

What a bank writes before a name ("Kartenzahlung", "Standing order") is learned likewise: the first words that stand before
FEWEST_AFTER shops, each of which is there without them.
"""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from functools import lru_cache
from itertools import combinations

from rapidfuzz import fuzz

from bolsa.core.ledger.payees import payee_key
from bolsa.core.sorting.vocabulary import KIND_WORDS, fold

_LEGAL = "ab ag as aps bv bvba co company corp gmbh inc kg limited llc llp ltd nv ohg oy plc sa sarl sas sl spa srl ug"
_PAPERS = "inv invoice rechnung rg facture factura fattura faktura order bestellung policy vertrag contract ref nr no"
DROPPED = frozenset((*_LEGAL.split(), *_PAPERS.split()))  # legal forms, and what papers are called
FEWEST_SHOPS = 2  # that a place follows
FEWEST_ENDS = 2  # that a shop has, where it is never named without one
LONGEST_PLACE = 2  # words
FEWEST_AFTER = 3  # shops that what a bank writes before names stands before
LONGEST_HEAD = 3  # words
FEWEST_LETTERS = 4  # of what remains of a name
NEAR = 86  # how alike, of 100, two names must be to be asked about as one
SAME_BEGINNING = 2  # letters that names near each other share: the first ones are hardly ever wrong

Words = tuple[str, ...]


def join(names: Mapping[int, str], apart: Collection[int] = ()) -> dict[int, int]:
    """By payee: the first of those that are one shop with it, itself included; those kept apart are only themselves.

    >>> join({1: "Grebe Grocer", 2: "Grebe Grocer Saltby", 3: "Tern Tools", 4: "Tern Tools Saltby", 5: "Tern Tools"}, apart=[5])
    {1: 1, 2: 1, 3: 3, 4: 3, 5: 5}
    """
    words = {id_: bare_words(name) for id_, name in names.items()}
    while (bare := _without_both(words)) != words:  # what is left shows more: "Pt" of "Pt Halden", say
        words = bare
    first: dict[Words, int] = {}
    return {id_: id_ if id_ in apart else first.setdefault(words[id_], id_) for id_ in sorted(words)}


def _without_both(words: Mapping[int, Words]) -> dict[int, Words]:
    """Names without what a bank wrote before them, else one shop looks like several with its last word for a place; then without
    places."""
    heads = find_heads(words.values())
    names = {id_: without_head(one, heads) for id_, one in words.items()}
    places = find_places(names.values())
    return {id_: without_place(one, places) for id_, one in names.items()}


@lru_cache(20_000)
def bare_words(name: str) -> Words:
    """A name's words, folded, without numbers after the first word and without legal forms and papers at their end.

    >>> bare_words("Müller Söhne GmbH 12"), bare_words("MUELLER SOEHNE Rechnung 77")
    (('muller', 'sohne'), ('muller', 'sohne'))
    """
    first, *others = [_plain(word) for word in payee_key(name).split()] or [""]
    return without_form((first, *(word for word in others if not any(letter.isdigit() for letter in word))))


def _plain(word: str) -> str:
    """A word without marks, and without the e that some write for them."""
    return fold(word).replace("ae", "a").replace("oe", "o").replace("ue", "u")


def without_form(words: Sequence[str]) -> Words:
    """A name's words without legal forms and papers at their end."""
    kept = list(words)
    while len(kept) > 1 and kept[-1] in DROPPED:
        kept.pop()
    return tuple(kept)


def without_place(words: Words, places: Collection[Words]) -> Words:
    """A name's words without the places at their end, one after the other ("Pt Halden", then its country), if enough remains."""
    for length in range(LONGEST_PLACE, 0, -1):
        stem = without_form(words[:-length])
        if words[-length:] in places and _is_enough(stem):
            return without_place(stem, places)
    return words


def without_head(words: Words, heads: Collection[Words]) -> Words:
    """A name's words without what a bank wrote before them."""
    for length in range(LONGEST_HEAD, 0, -1):
        if words[:length] in heads and _is_enough(words[length:]):
            return words[length:]
    return words


def find_heads(names: Iterable[Words]) -> set[Words]:
    """The beginnings that stand before FEWEST_AFTER shops or more which are there without them. A word for a kind of shop is
    none, nor is it a shop alone."""
    there = set(names)
    shops_of: dict[Words, set[str]] = defaultdict(set)  # by their first word: one shop may be there with many places
    for words in there:
        for length in range(1, LONGEST_HEAD + 1):
            head, stem = words[:length], words[length:]
            if stem in there and _is_enough(stem) and not KIND_WORDS.intersection(head) and not KIND_WORDS.issuperset(stem):
                shops_of[head].add(stem[0])
    return {head for head, shops in shops_of.items() if len(shops) >= FEWEST_AFTER}


def find_places(names: Iterable[Words]) -> set[Words]:
    """The ends of names that follow FEWEST_SHOPS shops or more, each of which is there without an end, or with FEWEST_ENDS ends
    that other shops have as well."""
    there = set(names)
    ends_of: dict[Words, set[Words]] = defaultdict(set)
    stems_of: dict[Words, set[Words]] = defaultdict(set)
    for words in there:
        for length in range(1, LONGEST_PLACE + 1):
            stem, end = without_form(words[:-length]), words[-length:]
            if _is_enough(stem) and not KIND_WORDS.intersection(end):
                ends_of[stem].add(end)
                stems_of[end].add(stem)
    shared = {end for end, stems in stems_of.items() if len(stems) >= FEWEST_SHOPS}
    shops = {stem for stem, ends in ends_of.items() if stem in there or _has_ends(stem, ends, shared)}
    return {end for end in shared if len(stems_of[end] & shops) >= FEWEST_SHOPS}


def _has_ends(stem: Words, ends: set[Words], shared: set[Words]) -> bool:
    """Whether a name that never stands alone is a shop: two words or more, with several ends that other shops have too."""
    return len(stem) > 1 and len(ends & shared) >= FEWEST_ENDS


def _is_enough(stem: Words) -> bool:
    return sum(map(len, stem)) >= FEWEST_LETTERS


def is_near(one: str, other: str) -> bool:
    """Whether two names differ by a few letters only.

    >>> is_near("Lantern Hardware", "Lantern Hardwear"), is_near("Grebe Grocer", "Grebe Grocer 93"), is_near("Tern", "Heron")
    (True, True, False)
    """
    return fuzz.ratio(" ".join(bare_words(one)), " ".join(bare_words(other))) >= NEAR


def near_names(names: Mapping[int, str], shops: Mapping[int, int]) -> list[tuple[int, int]]:
    """Pairs of payees of different shops whose names are near each other."""
    blocks: dict[str, list[int]] = defaultdict(list)
    for id_, name in names.items():
        blocks[" ".join(bare_words(name))[:SAME_BEGINNING]].append(id_)
    return [
        (one, other)
        for block in blocks.values()
        for one, other in combinations(block, 2)
        if shops[one] != shops[other] and is_near(names[one], names[other])
    ]
