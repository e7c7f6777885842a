"""How likely each category is after so many decisions, given how steady the household's payees are.

A payee is of one of two kinds, and which is inferred (Bayes). One for a single thing is always filed under it, but for a mistake
in two hundred decisions. One for several things follows a Dirichlet-multinomial distribution, TOGETHER spread evenly over as many
categories as were seen, two at least. How many payees are of the first kind is learned from the household itself, by expectation
and maximisation: among the steady three of three is sure, among the unsteady it is not.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from functools import lru_cache
from math import exp, lgamma, log

MISTAKEN = 0.005  # of the decisions on a payee for one thing
TOGETHER = 3.0  # decisions that what is known of payees for several things counts as
CHOOSABLE = 25  # categories that a mistake may have hit
USUALLY = 0.55  # how many payees are for one thing, before anything is known of the household
PAYEES = 10  # that this counts as
ROUNDS = 8  # of learning; after them the share moves by less than a hundredth
_MOST_LIKELY = 50.0  # of a logarithm of odds: beyond it there is no doubt


@lru_cache(5_000)
def _term(each: float, times: int) -> float:
    return lgamma(each + times) - lgamma(each)


def _several(ways: Mapping[int, int]) -> float:
    """The logarithm of how likely a past is for a payee for several things, whichever of CHOOSABLE these are. Of a past, here and
    below, is told how many categories came so many times."""
    seen = sum(ways.values())
    things = max(2, seen)
    each = TOGETHER / things
    terms = sum(many * _term(each, times) for times, many in ways.items())
    return lgamma(things + 1) - _term(TOGETHER, _cases(ways)) - (seen - 1) * log(CHOOSABLE) + terms


def _single(ways: Mapping[int, int], times: int) -> float:
    """The same for a payee for the one thing that came so many times, by mistake filed otherwise in the rest."""
    return times * log(1 - MISTAKEN) + (_cases(ways) - times) * log(MISTAKEN / CHOOSABLE)


def _cases(ways: Mapping[int, int]) -> int:
    return sum(times * many for times, many in ways.items())


def find_shares(counts: Mapping[int, int], steady: float) -> dict[int, float]:
    """How likely each category is to be the next, by category, given how often each was the one (all above 0) and the share of
    payees, above 0 and below 1, that are for one thing. What is missing from 1 is for categories that never were.

    >>> {id_: round(share, 3) for id_, share in find_shares({7: 3}, 0.5).items()}
    {7: 0.92}
    >>> {id_: round(share, 2) for id_, share in find_shares({7: 4, 8: 4}, 0.5).items()}
    {7: 0.5, 8: 0.5}
    """
    ways = Counter(counts.values())
    cases, each = _cases(ways), TOGETHER / max(2, len(counts))
    several = _several(ways) + log(1 - steady)
    single = {times: _single(ways, times) + log(steady) for times in ways}
    likeliest = max(several, *single.values())
    odds = {times: exp(one - likeliest) for times, one in single.items()}
    rest = exp(several - likeliest)
    whole = rest + sum(odds[times] * many for times, many in ways.items())
    share = {times: (odds[times] * (1 - MISTAKEN) + rest * (times + each) / (cases + TOGETHER)) / whole for times in ways}
    return {id_: share[times] for id_, times in counts.items()}


def learn_steadiness(pasts: Iterable[Iterable[int]]) -> float:
    """The share of a household's payees that are for one thing, given for each how often each of its categories was the one.

    >>> round(learn_steadiness([]), 2), learn_steadiness([[9]] * 50) > 0.9, learn_steadiness([[6, 4]] * 50) < 0.1
    (0.55, True, True)
    """
    found = [ways for ways in map(Counter, pasts) if _cases(ways) > 1]
    odds = [exp(min(_MOST_LIKELY, _single(ways, max(ways)) - _several(ways))) for ways in found]
    share = USUALLY
    for _ in range(ROUNDS):
        share = (PAYEES * USUALLY + sum(share * one / (share * one + 1 - share) for one in odds)) / (PAYEES + len(odds))
    return share
