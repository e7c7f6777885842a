"""What category an entry likely belongs to, learned from the household's own decisions, with the reason in words.

The past of a payee is split by the circumstance that tells its categories apart best (circumstances.py), again and again, as long
as that makes the past likelier. An entry falls on one side of every split; there its suggestion is counted, and steadiness.py
says how sure that makes it.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

from bolsa.core.sorting.circumstances import Case, Circumstance, Decision, find_split
from bolsa.core.sorting.steadiness import USUALLY, find_shares
from bolsa.core.whole_numbers import nth

SURE_ENOUGH = 0.7  # below this Bolsa asks instead of guessing
MOST_CHOICES = 5
TOLD_APART = 0.95  # how many sides of a split are for one thing: the evidence that chose it is hardly ever wrong
UNTRIED = 0.89  # what a category is worth at most in an account where the payee has not been
ONCE = 0.89  # the same where it was decided on once
LATELY = 0.895  # the same where nothing is split and the last case was another
LIKE = 0.1  # what a payee that is only like another is worth at most: its past gives choices, and no guess
FEWEST_EACH = 2  # cases a category has on average where a split is tried: a shop of all sorts has none that would help
DEEPEST = 3  # splits one after the other
STEADILY = 0.9  # the share from which on a shop is for one thing
AT_MOST = 3  # things a shop can be for and still be estimated
FEWEST_TO_MEND = 20  # cases without a split
MONTHS_OR_MORE = 4  # in a row make "every month"
ABOUT = 3  # days around that of the month


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
class Monthly:
    """An amount that comes every month about the same day."""

    amount_minor: int
    day_of_month: int

    def fits(self, one: Case | Decision) -> bool:
        return one.amount_minor == self.amount_minor and abs(one.day.day - self.day_of_month) <= ABOUT


@dataclass(frozen=True)
class Past:
    """The decisions on one payee: their counts, and how they are split further, if anything tells them apart."""

    counts: Counter[int]
    split: Circumstance | None = None
    yes: "Past | None" = None
    no: "Past | None" = None
    latest: int = 0  # the category of the last
    steady: float = TOLD_APART  # how likely a past like this is for one thing, before it is looked at
    # Of the whole past alone: the accounts in which there were any, and what comes every month.
    accounts: frozenset[int] = frozenset()
    monthly: "Monthly | None" = None

    @cached_property
    def cases(self) -> int:
        return self.counts.total()

    @cached_property
    def is_undecided(self) -> bool:
        """Whether nothing tells two or three things apart that it is for: how often each is meant is an estimate, which more of
        the past would mend."""
        if self.split is None or self.yes is None or self.no is None:
            most = sum(times for _, times in self.counts.most_common(AT_MOST))
            top = max(self.counts.values(), default=0)
            return self.cases >= FEWEST_TO_MEND and most >= STEADILY * self.cases > top
        return self.yes.is_undecided or self.no.is_undecided

    def suggest(self, entry: Case, currency: str = "", like: str = "") -> Suggestion | None:
        """The suggestion for an entry; `like` names the payee whose past it is, if it is another's. None if there is no past.

        Certainty of a category is its share by steadiness.find_shares, on the side of the splits where the entry falls. Between
        the two known values beside a cut, both sides count by how near they are; and the wider circumstance counts as far as a
        split may be none. It is at most LATELY where nothing is split and the last case was another, ONCE where there was but
        one, and UNTRIED in an account without a case. Of another payee's past it is LIKE × times / (cases + 1).
        """
        if not self.cases:
            return None
        shares = self._shares({}, entry)
        here: Past = self
        words: list[str] = []
        while here.split is not None and here.yes is not None and here.no is not None:
            holds = here.split.holds(entry)
            words.append(here.split.words(currency, holds=holds))
            here = here.yes if holds else here.no
        ordered = sorted(self.counts, key=lambda id_: (-shares[id_], -here.counts[id_], id_))
        top = ordered[0]
        shares[top] = min(shares[top], self._most(entry, top))
        told = [*words[-1:]] if here.counts[top] else []
        reason = f"{here.counts[top]} of {here.cases} times {' '.join(told)}".rstrip()
        if here.cases == 1 and not told:
            reason = "once before"
        if self.monthly and self.monthly.fits(entry):
            reason += f", this amount about the {nth(self.monthly.day_of_month)}, every month"
        if like:
            reason += f", as for {like}"
            shares = {id_: LIKE * here.counts[id_] / (here.cases + 1) for id_ in ordered}
        choices = tuple(Choice(id_, here.counts[id_], here.cases, shares[id_]) for id_ in ordered[:MOST_CHOICES])
        return Suggestion(choices, reason, shares[top] >= SURE_ENOUGH)

    def _most(self, entry: Case, category_id: int) -> float:
        """What the likeliest category is worth at most, whatever was decided how often."""
        if entry.account_id not in self.accounts:
            return UNTRIED
        if self.cases == 1:
            return ONCE
        return LATELY if self.split is None and self.latest != category_id else 1.0

    @cached_property
    def _seen(self) -> dict[int, float]:
        """How likely each category is that was ever the one."""
        return find_shares(self.counts, self.steady)

    def _shares(self, wider: dict[int, float], entry: Case) -> dict[int, float]:
        """How likely each category is here; those never seen share the rest as they do in the wider circumstance."""
        shares = dict(self._seen)
        rest, unseen = max(0.0, 1 - sum(shares.values())), {id_: share for id_, share in wider.items() if id_ not in shares}
        whole = sum(unseen.values())
        shares.update((id_, rest * share / whole if whole else 0.0) for id_, share in unseen.items())
        if self.split is None or self.yes is None or self.no is None:
            return shares
        part = self.split.share(entry)
        yes, no = (side._shares(shares, entry) if share else shares for side, share in ((self.yes, part), (self.no, 1 - part)))
        trust = self.split.trust
        return {id_: trust * (part * yes[id_] + (1 - part) * no[id_]) + (1 - trust) * shares[id_] for id_ in shares}


def learn(decisions: Sequence[Decision], steady: float = USUALLY) -> Past:
    """What the decisions on a payee tell, in whatever order, split by what tells them apart; `steady` is the share of the
    household's payees that are for one thing."""
    found = _learn(sorted(decisions, key=lambda one: one.day), len({one.category_id for one in decisions}) + 1, DEEPEST)
    accounts = frozenset(one.account_id for one in decisions)
    return replace(found, accounts=accounts, monthly=_monthly(decisions), steady=steady)


def _monthly(decisions: Sequence[Decision]) -> Monthly | None:
    """What comes every month: the latest MONTHS_OR_MORE cases of one amount, month after month, about the same day."""
    latest = sorted(decisions, key=lambda one: one.day)[-MONTHS_OR_MORE:]
    months = [12 * one.day.year + one.day.month for one in latest]
    found = Monthly(latest[-1].amount_minor, latest[-1].day.day) if len(latest) == MONTHS_OR_MORE else None
    is_row = all(later == before + 1 for before, later in pairwise(months))
    return found if found and is_row and all(found.fits(one) for one in latest) else None


def suggest(
    decisions: Sequence[Decision], entry: Case, currency: str = "", like: str = "", steady: float = USUALLY
) -> Suggestion | None:
    """The suggestion for one entry, from the past decisions on its payee."""
    return learn(decisions, steady).suggest(entry, currency, like)


def _learn(cases: list[Decision], categories: int, deeper: int) -> Past:
    counts = Counter(one.category_id for one in cases)
    latest = cases[-1].category_id if cases else 0
    if len(counts) < 2 or not deeper or len(cases) < FEWEST_EACH * len(counts):
        return Past(counts, latest=latest)
    found = find_split(cases, counts, categories)
    if found is None:
        return Past(counts, latest=latest)
    sides: tuple[list[Decision], list[Decision]] = ([], [])
    for one in cases:
        sides[not found.holds(one)].append(one)
    yes_side, no_side = (_learn(side, categories, deeper - 1) for side in sides)
    return Past(counts, found, yes_side, no_side, latest)
