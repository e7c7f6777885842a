"""The quick line: one typed line understood as an entry, such as "grebe 23.40 groceries yesterday".

    payee  amount  [category words]  [day]  [to ACCOUNT]  [// memo]      in any sensible order

The amount is spent unless it starts with "+". Words before the amount are the payee; words after it are looked up among the
categories, and what fits none becomes the memo.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

from bolsa.core.amounts import parse_amount
from bolsa.errors import InvalidInput

_WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_MONTHS = [
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
]
_AMOUNT = re.compile(r"[+−-]?[€$£]?\d[\d.,]*")


@dataclass(frozen=True)
class Vocabulary:
    """The names a quick line may use: (id, name) of categories and accounts, and payees by name, the usual ones first."""

    categories: Sequence[tuple[int, str]]
    accounts: Sequence[tuple[int, str]]
    payees: Sequence[str]


@dataclass(frozen=True)
class Understood:
    """What a quick line says. `amount_minor` is signed from the account's side; `missing` says what is not there yet."""

    day: date
    payee: str = ""
    amount_minor: int | None = None
    category_id: int | None = None
    to_account_id: int | None = None
    memo: str = ""
    missing: tuple[str, ...] = field(default=())

    @property
    def is_complete(self) -> bool:
        return not self.missing


def understand(text: str, vocabulary: Vocabulary, currency: str, today: date) -> Understood:
    """The entry a typed line describes. Never raises: what cannot be understood is named in `missing`."""
    line, _, memo = text.partition("//")
    words = line.split()
    day, words = _take_day(words, today)
    to_account_id, words = _take_account(words, vocabulary)
    amount, words, after = _take_amount(words, currency)
    category_id, rest = _take_category(after, vocabulary)
    if category_id is None and amount is not None and not words:
        words, rest = rest, []
    payee = _known_payee(" ".join(words), vocabulary)
    memo = " ".join([*rest, *memo.split()])
    missing = []
    if not payee and to_account_id is None:
        missing.append("a payee")
    if amount is None:
        missing.append("an amount")
    return Understood(day, payee, amount, category_id, to_account_id, memo, tuple(missing))


def _take_day(words: list[str], today: date) -> tuple[date, list[str]]:
    for i in range(len(words)):
        for length in (2, 1):
            day = _day_in(words[i : i + length], today) if i + length <= len(words) else None
            if day:
                return day, words[:i] + words[i + length :]
    return today, words


def _day_in(words: list[str], today: date) -> date | None:
    """The day the words name, the latest one not after today for words without a year; None if they name none."""
    text = " ".join(words).lower().rstrip(",")
    if text in ("today", "yesterday"):
        return today - timedelta(days=text == "yesterday")
    if len(words) == 1 and len(text) >= 3:
        for number, name in enumerate(_WEEKDAYS):
            if name == text or (len(text) == 3 and name.startswith(text)):
                return today - timedelta(days=(today.weekday() - number) % 7 or 7)
    iso = re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text)
    if iso:
        return _date(int(iso[1]), int(iso[2]), int(iso[3]))
    numbers = re.fullmatch(r"(\d{1,2})(?:/(\d{1,2})|\.(\d{1,2})\.)", text)
    named = re.fullmatch(r"(\d{1,2})\.? ([a-z]{3,9})", text)
    if numbers:
        month = int(numbers[2] or numbers[3])
    elif named and any(m.startswith(named[2]) for m in _MONTHS):
        month = next(n for n, m in enumerate(_MONTHS, 1) if m.startswith(named[2]))
    else:
        return None
    number = int((numbers or named)[1])
    this_year = _date(today.year, month, number)
    return this_year if this_year and this_year <= today else _date(today.year - 1, month, number)


def _date(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None


def _take_account(words: list[str], vocabulary: Vocabulary) -> tuple[int | None, list[str]]:
    for i, word in enumerate(words[:-1]):
        if word.lower() in ("to", "into", ">"):
            found, used = _longest_name(words[i + 1 :], vocabulary.accounts)
            if found is not None:
                return found, words[:i] + words[i + 1 + used :]
    return None, words


def _take_amount(words: list[str], currency: str) -> tuple[int | None, list[str], list[str]]:
    """The amount, the words before it and the words after it."""
    for i in sorted(range(len(words)), key=lambda i: ("." not in words[i] and "," not in words[i], i)):
        if _AMOUNT.fullmatch(words[i]):
            try:
                typed = parse_amount(words[i].lstrip("+"), currency)
            except InvalidInput:
                continue
            amount = abs(typed) if words[i].startswith("+") else -abs(typed)
            return amount, words[:i], words[i + 1 :]
    return None, words, []


def _take_category(words: list[str], vocabulary: Vocabulary) -> tuple[int | None, list[str]]:
    for i in range(len(words)):
        found, used = _longest_name(words[i:], vocabulary.categories)
        if found is not None:
            return found, words[:i] + words[i + used :]
    return None, words


def _longest_name(words: list[str], names: Sequence[tuple[int, str]]) -> tuple[int | None, int]:
    """The id of the name that most of the first words begin, and how many words it took.

    "house" finds "Household", "fuel gas" finds "Fuel and gas"; two letters are the least.
    """
    for length in range(min(len(words), 4), 0, -1):
        typed = [w.lower() for w in words[:length]]
        if len("".join(typed)) < 2:
            continue
        exact = [i for i, name in names if name.lower() == " ".join(typed)]
        begun = [i for i, name in names if _begins(typed, name.lower().split())]
        if exact or begun:
            return (exact or begun)[0], length
    return None, 0


def _begins(typed: list[str], name: list[str]) -> bool:
    """Whether each typed word begins a word of the name, in order, the first one the first."""
    if not name[0].startswith(typed[0]):
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
