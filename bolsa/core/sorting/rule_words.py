"""Rules as sentences: “When the payee contains “heron” and the amount is above 100, file under School and tag #heron.”"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from bolsa.core.known import known
from bolsa.core.money import decimal_text
from bolsa.core.sorting.category import UNSORTED
from bolsa.core.sorting.rules import Action, Condition, Rule, SharePart, Told

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_PER_CENT = 10_000  # millionths
GONE = "what is no more"
SUBJECTS = {"payee": "the payee", "text": "the text of the bank"}
HOW_WORDS = {"contains": "contains", "is": "is", "starts": "starts with"}


@dataclass(frozen=True)
class Piece:
    """A piece of a sentence; a value is what could be another."""

    words: str
    is_value: bool = False


@dataclass(frozen=True)
class Names:
    """The names behind ids, and how amounts of a currency are written."""

    categories: Mapping[int, str] = field(default_factory=dict)
    accounts: Mapping[int, str] = field(default_factory=dict)
    members: Mapping[int, str] = field(default_factory=dict)
    series: Mapping[int, str] = field(default_factory=dict)
    write: Callable[[int, str], str] = decimal_text
    currency: str = "EUR"


def sentence_of(rule: Rule, names: Names) -> str:
    """The rule as one sentence."""
    return "".join(piece.words for piece in pieces_of(rule, names))


def pieces_of(rule: Rule, names: Names) -> list[Piece]:
    """The rule's sentence in pieces, to be joined as they are."""
    found = [Piece("When ")]
    for i, condition in enumerate(rule.conditions):
        found += [Piece(" and ")] if i else []
        found += condition_pieces(condition, names)
    found.append(Piece(", "))
    for i, action in enumerate(rule.actions):
        last = i == len(rule.actions) - 1
        found += [Piece(" and " if last else ", ")] if i else []
        found += action_pieces(action, names)
    return [*found, Piece(".")]


def condition_pieces(one: Condition, names: Names) -> list[Piece]:
    """A condition in words."""
    match one.kind:
        case "payee" | "text":
            return [Piece(f"{SUBJECTS[one.kind]} {HOW_WORDS[one.how]} "), *_any(f"“{text}”" for text in one.texts)]
        case "amount":
            return _amount(one, names)
        case "direction":
            return [Piece("money "), Piece("comes in" if one.how == "in" else "goes out", is_value=True)]
        case "account":
            return [Piece("the account is "), *_any(names.accounts.get(id_, GONE) for id_ in one.ids)]
        case "member":
            return [Piece("it is for "), *_any(names.members.get(id_, GONE) for id_ in one.ids)]
        case "category":
            return [Piece("the category is "), *_any(names.categories.get(id_, GONE) for id_ in one.ids)]
        case "weekday":
            return [Piece("it is a "), *_any(WEEKDAYS[id_] for id_ in one.ids)]
    if one.least == one.most:
        return [Piece("it is day "), Piece(str(one.least), is_value=True), Piece(" of the month")]
    return [
        Piece("the day of the month is from "),
        Piece(str(one.least), is_value=True),
        Piece(" to "),
        Piece(str(one.most), is_value=True),
    ]


def _amount(one: Condition, names: Names) -> list[Piece]:
    least, most = (names.write(amount or 0, one.currency) for amount in (one.least, one.most))
    unit = [] if one.currency == names.currency else [Piece(f" {one.currency}")]
    if one.how == "between":
        return [
            Piece("the amount is between "),
            Piece(least, is_value=True),
            Piece(" and "),
            Piece(most, is_value=True),
            *unit,
        ]
    how = {"equal": "", "above": "above ", "below": "below "}[one.how]
    return [Piece(f"the amount is {how}"), Piece(least, is_value=True), *unit]


def action_pieces(one: Action, names: Names) -> list[Piece]:
    """An action in words."""
    match one.kind:
        case "file":
            return [Piece("file under "), _value(names.categories.get(one.id or 0, GONE))]
        case "rename":
            return [Piece("call the payee "), _value(one.text)]
        case "tag":
            return [Piece("tag "), _value(f"#{one.text}")]
        case "member":
            return [Piece("say it is for "), _value(names.members.get(one.id or 0, GONE))]
        case "ask":
            note = [Piece(", asking "), _value(f"“{one.text}”")] if one.text else []
            return [Piece("put it to "), _value(names.members.get(one.id or 0, GONE)), *note]
        case "transfer":
            set_by = [Piece(", set by from "), _value(names.categories.get(one.set_by_id, GONE))] if one.set_by_id else []
            return [Piece("make it a transfer with "), _value(names.accounts.get(one.id or 0, GONE)), *set_by]
        case "split":
            return [Piece("split it: "), *_joined([_part(part, names) for part in one.parts])]
        case "series":
            return [Piece("link it to "), _value(names.series.get(one.id or 0, GONE))]
    return [Piece("keep it out of the answers")]


def _part(part: SharePart, names: Names) -> list[Piece]:
    if part.amount_minor is not None:
        size = names.write(part.amount_minor, names.currency)
    elif part.share_e6 is not None:
        size = f"{per_cent(part.share_e6)} %"
    else:
        size = "the rest"
    return [_value(size), Piece(" to "), _value(names.categories.get(part.category_id, GONE))]


def per_cent(share_e6: int) -> str:
    """A share in millionths as per cent, without zeros at its end.

    >>> per_cent(500_000), per_cent(333_333)
    ('50', '33.3333')
    """
    return f"{(Decimal(share_e6) / _PER_CENT).normalize():f}"


def _value(words: str) -> Piece:
    return Piece(words, is_value=True)


def _any(words: Iterable[str]) -> list[Piece]:
    """Values of which any will do: one, one or another."""
    found: list[Piece] = []
    for text in words:
        found += [Piece(" or ")] if found else []
        found.append(_value(text))
    return found


def _joined(parts: list[list[Piece]]) -> list[Piece]:
    found: list[Piece] = []
    for i, part in enumerate(parts):
        found += [Piece(" and " if i == len(parts) - 1 else ", ")] if i else []
        found += part
    return found


def told_words(told: Told, before: Told, names: Names) -> str:
    """Where an entry is filed and what else is said of it, in words; what is as before is said by the category alone."""
    filed = told.filed
    match filed.how:
        case "file":
            words = "not sorted" if filed.id == UNSORTED else names.categories.get(known(filed.id), GONE)
        case "transfer":
            words = f"transfer with {names.accounts.get(known(filed.id), GONE)}"
        case "split":
            words = "split: " + ", ".join(names.categories.get(part.category_id, GONE) for part in filed.parts)
        case _:
            words = "as it is"
    more = [f"#{tag}" for tag in sorted(told.tags)]
    if told.payee != before.payee:
        more.append(f"called {told.payee}")
    if told.member_id and told.member_id != before.member_id:
        more.append(f"for {names.members.get(told.member_id, GONE)}")
    if told.ask:
        more.append(f"put to {names.members.get(told.ask[0], GONE)}")
    if told.series_id:
        more.append(f"linked to {names.series.get(told.series_id, GONE)}")
    if told.kept_out and not before.kept_out:
        more.append("out of the answers")
    return " ".join((words, *more))
