"""The quick line: one typed line understood as an entry, such as "grebe 23.40 groceries yesterday #studio".

    payee  amount  [category [part] ...]  [day]  [to ACCOUNT]  [from ACCOUNT]  [#tag ...]  [@member]  [// memo]

The amount is spent unless it starts with "+". Words before the amount are the payee; words after it are looked up among the
categories, and what fits none becomes the memo. An amount after a category makes a split: "grebe 23.40 groceries 15 household"
is 15.00 for groceries and the rest for the household.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from bolsa.core.amounts import parse_amount
from bolsa.core.ledger.day_words import read_day_words
from bolsa.core.ledger.entries import Part, fill_open_part
from bolsa.core.reader import USUAL, Reader
from bolsa.errors import InvalidInput

_AMOUNT = re.compile(r"[+−-]?[€$£]?\d[\d.,]*")
Names = Sequence[tuple[int, str]]


@dataclass(frozen=True)
class Vocabulary:
    """The names a quick line may use: (id, name) of categories, accounts and members, and payees and tags by name, the
    usual ones first."""

    categories: Names
    accounts: Names
    payees: Sequence[str]
    members: Names = ()
    tags: Sequence[str] = ()
    reader: Reader = USUAL


@dataclass(frozen=True)
class Understood:
    """What a quick line says. `amount_minor` is signed from the account's side; `missing` says what is not there yet,
    `unread` which words fit nothing and so are kept as the memo, `filled` names what was taken from the payee's last entry."""

    day: date
    payee: str = ""
    amount_minor: int | None = None
    parts: tuple[Part, ...] = ()
    to_account_id: int | None = None
    from_account_id: int | None = None
    tags: tuple[str, ...] = ()
    member_id: int | None = None
    memo: str = ""
    unread: tuple[str, ...] = ()
    missing: tuple[str, ...] = field(default=())
    filled: tuple[str, ...] = field(default=())

    @property
    def is_complete(self) -> bool:
        return not self.missing

    @property
    def category_id(self) -> int | None:
        """The category, when there is just one."""
        return self.parts[0].category_id if len(self.parts) == 1 else None

    def filled_parts(self) -> tuple[Part, ...]:
        """The parts with their amounts, positive when spent, for the member and under the tags named; none if none is named.

        Raises: InvalidInput if they do not meet the amount.
        """
        if not self.parts or self.amount_minor is None:
            return ()
        filled = fill_open_part(self.parts, self.amount_minor)
        if sum(abs(part.amount_minor or 0) for part in filled) != abs(self.amount_minor):
            raise InvalidInput("The parts do not add up to the amount. Leave the last one without an amount.", field="quick")
        return tuple(replace(part, member_id=self.member_id, tags=self.tags) for part in filled)


@dataclass(frozen=True)
class LastEntry:
    """What the payee's last entry on the account was, by which a short line is filled."""

    amount_minor: int
    parts: tuple[Part, ...]
    tags: tuple[str, ...]
    member_id: int | None


def understand(text: str, vocabulary: Vocabulary, currency: str, today: date) -> Understood:
    """The entry a typed line describes. Never raises: what cannot be understood is named in `missing`."""
    line, _, memo = text.partition("//")
    words = line.split()
    tags, words = _take_marked(words, "#")
    members, words = _take_marked(words, "@")
    day, words = _take_day(words, today, vocabulary)
    to_id, words = _take_account(words, vocabulary, ("to", "into", ">"))
    from_id, words = _take_account(words, vocabulary, ("from", "with"))
    amount, before, after = _take_amount(words, currency, vocabulary.reader)
    parts, rest = _take_parts(after, vocabulary, currency)
    if not parts and amount is not None and not before:
        before, rest = rest, []
    said = Understood(
        day,
        _known_payee(" ".join(before), vocabulary),
        amount,
        parts,
        to_id,
        from_id,
        tuple(_full_name(tag, vocabulary.tags) for tag in tags),
        next((id_ for name in members for id_, full in vocabulary.members if full.lower().startswith(name.lower())), None),
        " ".join([*rest, *memo.split()]),
        tuple(rest),
    )
    return replace(said, missing=_missing(said))


def fill_from_last(said: Understood, last: LastEntry | None) -> Understood:
    """The line with what it leaves open taken from the payee's last entry: the amount, the parts, tags, the member."""
    if last is None or said.to_account_id is not None:
        return said
    filled = []
    if said.amount_minor is None:
        said = replace(said, amount_minor=last.amount_minor)
        filled.append("amount")
    if not said.parts and last.parts:
        # Parts of another amount keep their proportion only when there is one; a split is repeated with its amount alone.
        whole = said.amount_minor == last.amount_minor or len(last.parts) == 1
        parts = last.parts if said.amount_minor == last.amount_minor else (Part(last.parts[0].category_id),)
        if whole:
            said = replace(said, parts=parts)
            filled.append("category")
    if not said.tags and last.tags:
        said = replace(said, tags=last.tags)
        filled.append("tags")
    if said.member_id is None and last.member_id is not None:
        said = replace(said, member_id=last.member_id)
        filled.append("member")
    return replace(said, missing=_missing(said), filled=tuple(filled))


def complete(text: str, vocabulary: Vocabulary) -> str:
    """The line with its last word completed to the name it most likely begins, or "" when there is nothing to complete.

    Before an amount the payees are looked at, after it the categories; after "to", "from" the accounts; "#" and "@" say what
    they are themselves.
    """
    if not text or text[-1].isspace() or "//" in text:
        return ""
    words = text.split()
    last = words[-1]
    lead = text[: len(text) - len(last)]
    if last[0] == "#":
        return _completed(lead + "#", last[1:], vocabulary.tags)
    if last[0] == "@":
        return _completed(lead + "@", last[1:], [name for _, name in vocabulary.members])
    if len(words) > 1 and words[-2].lower() in ("to", "into", "from", "with"):
        return _completed(lead, last, [name for _, name in vocabulary.accounts])
    if any(_AMOUNT.fullmatch(word) for word in words[:-1]):
        return _completed(lead, last, [name for _, name in vocabulary.categories])
    if not _AMOUNT.fullmatch(last):
        return _completed("", text.strip(), vocabulary.payees)
    return ""


def _completed(lead: str, begun: str, names: Sequence[str]) -> str:
    found = next(
        (name for name in names if begun and name.lower().startswith(begun.lower()) and name.lower() != begun.lower()), ""
    )
    return lead + found if found else ""


def _missing(said: Understood) -> tuple[str, ...]:
    missing = []
    if not said.payee and said.to_account_id is None:
        missing.append("a payee")
    if said.amount_minor is None:
        missing.append("an amount")
    return tuple(missing)


def _take_marked(words: list[str], mark: str) -> tuple[list[str], list[str]]:
    marked = [word[1:] for word in words if word[0] == mark and len(word) > 1]
    return marked, [word for word in words if not (word[0] == mark and len(word) > 1)]


def _full_name(begun: str, names: Sequence[str]) -> str:
    """The known name the word begins, or the word itself: a new tag."""
    exact = next((name for name in names if name.lower() == begun.lower()), None)
    return exact or next((name for name in names if len(begun) > 1 and name.lower().startswith(begun.lower())), begun)


def _take_day(words: list[str], today: date, vocabulary: Vocabulary) -> tuple[date, list[str]]:
    """The day named last, and the other words. A first word that begins a payee ("saturday" and the Saturday Market) is the
    payee, unless other words stand before the amount."""
    for i in reversed(range(len(words))):
        for length in (2, 1):
            day = (
                read_day_words(words[i : i + length], today, day_first=vocabulary.reader.day_first)
                if i + length <= len(words)
                else None
            )
            if day and not (i == 0 and _names_payee(words, length, vocabulary)):
                return day, words[:i] + words[i + length :]
    return today, words


def _names_payee(words: list[str], length: int, vocabulary: Vocabulary) -> bool:
    """Whether the first words, read as a payee, are the only ones that could be it."""
    followed_by_amount = len(words) == length or _AMOUNT.fullmatch(words[length]) is not None
    begun = " ".join(words[:length]).lower()
    return followed_by_amount and any(name.lower().startswith(begun) for name in vocabulary.payees)


def _take_account(words: list[str], vocabulary: Vocabulary, leads: tuple[str, ...]) -> tuple[int | None, list[str]]:
    for i, word in enumerate(words[:-1]):
        if word.lower() in leads:
            found, used = _longest_name(words[i + 1 :], vocabulary.accounts, anywhere=True)
            if found is not None:
                return found, words[:i] + words[i + 1 + used :]
    return None, words


def _take_amount(words: list[str], currency: str, reader: Reader) -> tuple[int | None, list[str], list[str]]:
    """The amount, the words before it and the words after it: the first word that shows a decimal mark, else the first number."""
    for i in sorted(range(len(words)), key=lambda i: ("." not in words[i] and "," not in words[i], i)):
        typed = _amount(words[i], currency, reader)
        if typed is not None:
            return (abs(typed) if words[i].startswith("+") else -abs(typed)), words[:i], words[i + 1 :]
    return None, words, []


def _amount(word: str, currency: str, reader: Reader) -> int | None:
    if not _AMOUNT.fullmatch(word):
        return None
    try:
        return parse_amount(word.lstrip("+"), currency, decimal_mark=reader.decimal_mark)
    except InvalidInput:
        return None


def _take_parts(words: list[str], vocabulary: Vocabulary, currency: str) -> tuple[tuple[Part, ...], list[str]]:
    """The categories named, each with the amount that follows it, and the words that name none."""
    parts: list[Part] = []
    reader = vocabulary.reader
    rest: list[str] = []
    i = 0
    while i < len(words):
        found, used = _longest_name(
            words[i:], vocabulary.categories, stop=lambda word: _amount(word, currency, reader) is not None
        )
        # Without amounts between them only the first is the category: further words are what it was for.
        if found is None or (parts and parts[-1].amount_minor is None):
            rest.append(words[i])
            i += 1
            continue
        i += used
        typed = _amount(words[i], currency, reader) if i < len(words) else None
        amount = abs(typed) if typed is not None else None
        parts.append(Part(found, amount))
        i += amount is not None
    return tuple(parts), rest


def _longest_name(
    words: list[str], names: Names, stop: Callable[[str], bool] = lambda word: False, *, anywhere: bool = False
) -> tuple[int | None, int]:
    """The id of the name that most of the first words begin, and how many words it took.

    "house" finds "Household", "fuel gas" finds "Fuel and gas"; two letters are the least. The first word begins the name's
    first, or with `anywhere` any of its words ("card" finds "Corvane card").
    """
    most = next((i for i, word in enumerate(words) if stop(word)), len(words))
    for length in range(min(most, 4), 0, -1):
        typed = [w.lower() for w in words[:length]]
        if len("".join(typed)) < 2:
            continue
        exact = [i for i, name in names if name.lower() == " ".join(typed)]
        begun = [i for i, name in names if _begins(typed, name.lower().split())]
        begun += [i for i, name in names if anywhere and _begins(typed, name.lower().split(), anywhere=True)]
        if exact or begun:
            return (exact or begun)[0], length
    return None, 0


def _begins(typed: list[str], name: list[str], *, anywhere: bool = False) -> bool:
    """Whether each typed word begins a word of the name, in order, the first one the first unless it may stand anywhere."""
    if not anywhere and not name[0].startswith(typed[0]):
        return False
    at = 0
    for word in typed:
        while at < len(name) and not name[at].startswith(word):
            at += 1
        if at == len(name):
            return False
        at += 1
    return True


def _known_payee(typed: str, vocabulary: Vocabulary) -> str:
    """The known payee the typed words begin, the usual ones first; else the words themselves, capitalised."""
    if not typed:
        return ""
    lower = typed.lower()
    for name in vocabulary.payees:
        if name.lower() == lower:
            return name
    for name in vocabulary.payees:
        if name.lower().startswith(lower):
            return name
    return typed[0].upper() + typed[1:]
