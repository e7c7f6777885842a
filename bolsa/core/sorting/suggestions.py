"""What category an entry likely belongs to, learned from the household's own decisions, with the reason in words."""

from collections import Counter
from dataclasses import dataclass

SURE_ENOUGH = 0.6  # below this Bolsa asks instead of guessing
FEWEST_CASES = 3  # a narrower circumstance speaks only from this many cases on
MOST_CHOICES = 5


@dataclass(frozen=True)
class Decision:
    """One past entry of a payee and the category it was filed under. `weekday`: Monday is 0."""

    category_id: int
    amount_minor: int
    account_id: int
    weekday: int


@dataclass(frozen=True)
class Choice:
    """A category and in how many of the cases it was the one."""

    category_id: int
    times: int
    cases: int

    @property
    def certainty(self) -> float:
        """The chance that it is right. Formula: (times + 1) / (cases + 2), the rule of succession (Laplace, 1814)."""
        return (self.times + 1) / (self.cases + 2)


@dataclass(frozen=True)
class Suggestion:
    """The choices, likeliest first; `is_guess` says whether the first is sure enough to be offered by itself."""

    choices: tuple[Choice, ...]
    reason: str
    is_guess: bool


def suggest(decisions: list[Decision], *, amount_minor: int, account_id: int, weekday: int, like: str = "") -> Suggestion | None:
    """The suggestion for an entry, from the past decisions on its payee (or on a payee like it, named in `like`).

    The widest circumstance that is sure is taken; when the payee as a whole is mixed, the same amount, account and
    weekday are asked in this order, and a narrower one counts only if it is surer. None if there is no past.
    """
    if not decisions:
        return None
    circumstances = [
        ("times", decisions),
        ("times at this amount", [d for d in decisions if d.amount_minor == amount_minor]),
        ("times in this account", [d for d in decisions if d.account_id == account_id]),
        ("times on this weekday", [d for d in decisions if d.weekday == weekday]),
    ]
    best_words, best = circumstances[0][0], _choices(decisions)
    for words, cases in circumstances[1:]:
        if len(cases) >= FEWEST_CASES and (narrower := _choices(cases))[0].certainty > best[0].certainty:
            best_words, best = words, narrower
    top = best[0]
    reason = f"{top.times} of {top.cases} {best_words}"
    if top.cases == 1:
        reason = "once before"
    if like:
        reason += f", as for {like}"
    return Suggestion(_widened(best, decisions), reason, top.certainty >= SURE_ENOUGH)


def _choices(cases: list[Decision]) -> tuple[Choice, ...]:
    counts = Counter(d.category_id for d in cases)
    ordered = sorted(counts.items(), key=lambda item: (-item[1], item[0]))
    return tuple(Choice(category, times, len(cases)) for category, times in ordered)


def _widened(best: tuple[Choice, ...], decisions: list[Decision]) -> tuple[Choice, ...]:
    """The choices of the circumstance, then the payee's other ones, so that none is out of reach."""
    here = {choice.category_id for choice in best}
    others = tuple(c for c in _choices(decisions) if c.category_id not in here)
    return (best + others)[:MOST_CHOICES]
