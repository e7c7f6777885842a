"""Rules: what entries they meet, and what becomes of those. Whether one can be kept: rule_checks.py. Many at once: rule_book.py.

A rule meets an entry when all its conditions hold. Rules are looked through from the top; for each thing that can be said of an
entry (where it is filed, its payee, its member, whom it is put to, its series) the first rule that meets it decides, while tags
add up. Then they are looked through again with what was decided, until nothing changes any more. So a rule may build on what
another does, wherever it stands, and applying rules twice is the same as once: what they end in is what they would leave as it
is. Rules that undo each other's work in a circle end in the first state of the circle in the order of its words, and are named.
"""

import unicodedata
from dataclasses import dataclass, field
from datetime import date
from functools import lru_cache
from typing import NamedTuple

WORD_CONDITIONS = ("payee", "text")
CONDITION_KINDS = (*WORD_CONDITIONS, "amount", "direction", "account", "member", "category", "weekday", "day")
HOWS = {
    "payee": ("contains", "is", "starts"),
    "text": ("contains", "is", "starts"),
    "amount": ("equal", "above", "below", "between"),
    "direction": ("in", "out"),
}
FILING = ("file", "transfer", "split")  # one of these says where an entry is filed
ACTION_KINDS = (*FILING, "rename", "tag", "member", "ask", "series", "keep_out")
WHOLE_SHARE = 1_000_000  # a share of 1, in millionths: 100 per cent
MOST_TEXT = 120
_REMEMBERED = 50_000  # payees and texts whose rules are known


@dataclass(frozen=True)
class Condition:
    """One thing that must hold of an entry.

    Words hold if any of `texts` fits; amounts are sizes in minor units of `currency`, whatever the direction; `ids` are accounts,
    members, categories, or weekdays (Monday 0), any of which holds; a day of the month lies between `least` and `most`, round the
    month's end where `least` is later.
    """

    kind: str
    how: str = ""
    texts: tuple[str, ...] = ()
    least: int | None = None
    most: int | None = None
    currency: str = ""
    ids: tuple[int, ...] = ()


@dataclass(frozen=True)
class SharePart:
    """A part of a split: so many minor units, or a share in millionths, or, with neither, what remains."""

    category_id: int
    amount_minor: int | None = None
    share_e6: int | None = None


@dataclass(frozen=True)
class Action:
    """One thing done to an entry: `id` is the category filed under, the account of a transfer, the member or the series; `text`
    the new payee, the tag, or the note of a question; `set_by_id` the category a transfer to an apart account is set by from."""

    kind: str
    id: int | None = None
    text: str = ""
    set_by_id: int | None = None
    parts: tuple[SharePart, ...] = ()


@dataclass(frozen=True)
class Rule:
    """A sentence: when all its conditions hold, do its actions."""

    id: int
    conditions: tuple[Condition, ...]
    actions: tuple[Action, ...]
    is_on: bool = True


@dataclass(frozen=True)
class Fared:
    """How a rule fared: how many entries it met, the last day of one, how many it came too late for and before which rule."""

    rule_id: int
    made_on: date
    times: int
    last: date | None
    late: int
    before_id: int | None


class Filed(NamedTuple):
    """Where an entry is filed: under a category, as a transfer with an account, or in parts; `how` is one of FILING, or "kept"
    for what no rule may change (a transfer, a split, what follows from something else)."""

    how: str
    id: int | None = None
    set_by_id: int | None = None
    parts: tuple[SharePart, ...] = ()


class Told(NamedTuple):
    """What can be said of an entry, and what rules can change of it."""

    payee: str
    filed: Filed
    member_id: int | None = None
    tags: frozenset[str] = frozenset()
    ask: tuple[int, str] | None = None  # the member it is put to and the note
    series_id: int | None = None
    kept_out: bool = False


class Seen(NamedTuple):
    """An entry as rules see it: what stays (amount in minor units, signed from its account; `bank_payee` is the payee as its
    bank's words are tidied, whatever it is called since), and what they can change."""

    entry_id: int
    raw_text: str
    amount_minor: int
    currency: str
    account_id: int
    day: date
    told: Told
    owner_id: int | None = None  # of its account, if it has one alone
    was_asked: bool = False
    bank_payee: str = ""


class SeenRow(NamedTuple):
    """An entry as rules see it, and the rows they would write to."""

    seen: Seen
    payee_id: int
    line_id: int
    category_line_id: int


@dataclass(frozen=True)
class Outcome:
    """What rules make of an entry: how it ends, by which rule each thing was decided, the rules that met it, by rule that had
    nothing to say the one before it that had said it, and the rules that go round in a circle."""

    told: Told
    by: dict[str, int] = field(default_factory=dict)
    met: tuple[int, ...] = ()
    overruled: dict[int, int] = field(default_factory=dict)
    circle: tuple[int, ...] = ()


@lru_cache(_REMEMBERED)
def folded(text: str) -> str:
    """The form in which words are compared: composed, without case, blanks folded."""
    return " ".join(unicodedata.normalize("NFC", text).casefold().split())


def holds(condition: Condition, seen: Seen, told: Told) -> bool:
    """Whether a condition holds of an entry, as it is told now."""
    match condition.kind:
        case "payee":
            return any(Words(condition).hold(folded(name)) for name in (told.payee, seen.bank_payee) if name)
        case "text":
            return Words(condition).hold(folded(seen.raw_text))
        case "amount":
            return condition.currency == seen.currency and _amount_holds(condition, abs(seen.amount_minor))
        case "direction":
            return (seen.amount_minor > 0) == (condition.how == "in")
        case "account":
            return seen.account_id in condition.ids
        case "member":
            return (told.member_id or seen.owner_id) in condition.ids
        case "category":
            return told.filed.how == "file" and told.filed.id in condition.ids
        case "weekday":
            return seen.day.weekday() in condition.ids
        case "day":
            return _day_holds(condition, seen.day.day)
    raise ValueError(condition.kind)


class Words:
    """A condition on words, its letters folded once."""

    def __init__(self, condition: Condition):
        self.how = condition.how
        self.wanted = tuple(folded(text) for text in condition.texts)

    def hold(self, text: str) -> bool:
        """Whether it holds of a folded text."""
        if self.how == "contains":
            for wanted in self.wanted:  # noqa: SIM110 (no generator: hundreds of thousands of texts pass here)
                if wanted in text:
                    return True
            return False
        return text in self.wanted if self.how == "is" else text.startswith(self.wanted)


def _amount_holds(condition: Condition, size: int) -> bool:
    least, most = condition.least or 0, condition.most or 0
    match condition.how:
        case "equal":
            return size == least
        case "above":
            return size > least
        case "below":
            return size < least
    return least <= size <= most


def _day_holds(condition: Condition, day: int) -> bool:
    least, most = condition.least or 1, condition.most or 31
    return least <= day <= most if least <= most else day >= least or day <= most


_WHAT = {"rename": "payee", "member": "member_id", "ask": "ask", "series": "series_id", "keep_out": "kept_out"}


def what_of(action: Action) -> str:
    """What an action says of an entry: a field of `Told`, or a tag with its sign."""
    if action.kind == "tag":
        return f"#{action.text}"
    return "filed" if action.kind in FILING else _WHAT[action.kind]
