"""Whether a rule says something that can be, and how a split by rule comes out."""

from collections.abc import Sequence

from bolsa.core.money import split_minor
from bolsa.core.sorting.rules import (
    ACTION_KINDS,
    CONDITION_KINDS,
    HOWS,
    MOST_TEXT,
    WHOLE_SHARE,
    WORD_CONDITIONS,
    Action,
    Condition,
    Rule,
    SharePart,
    folded,
    what_of,
)
from bolsa.errors import InvalidInput


def split_parts(parts: Sequence[SharePart], total_minor: int) -> list[tuple[int, int]] | None:
    """By part: its category and amount, which add up to the total, in minor units of either sign.

    Fixed amounts are taken as they are; shares are of the whole, rounded by largest remainder together with what they leave; the
    part with neither takes the rest. None where that cannot add up.

    >>> split_parts([SharePart(1, share_e6=333_333), SharePart(2)], 1000), split_parts([SharePart(1, 700), SharePart(2)], -1000)
    ([(1, 333), (2, 667)], [(1, -700), (2, -300)])
    """
    size, sign = abs(total_minor), 1 if total_minor >= 0 else -1
    shares = [part.share_e6 or 0 for part in parts]
    of_share = split_minor(size, [*shares, WHOLE_SHARE - sum(shares)])
    found = [of_share[i] if part.amount_minor is None else part.amount_minor for i, part in enumerate(parts)]
    opened = [i for i, part in enumerate(parts) if part.amount_minor is None and part.share_e6 is None]
    rest = size - sum(found)
    if rest < 0 or (rest and not opened):
        return None
    if opened:
        found[opened[0]] = rest
    return [(part.category_id, sign * amount) for part, amount in zip(parts, found, strict=True) if amount]


def check_rule(rule: Rule) -> Rule:
    """The rule, if it says something that can be. Raises: InvalidInput naming the field, as `when-1` or `then-2`."""
    if not rule.conditions:
        raise InvalidInput("Say when: a rule without a condition would meet every entry.", field="when")
    if not rule.actions:
        raise InvalidInput("Say what is to be done with the entries it meets.", field="then")
    for i, condition in enumerate(rule.conditions):
        sentence = _problem_of_condition(condition)
        if sentence:
            raise InvalidInput(sentence, field=f"when-{i}")
    said: set[str] = set()
    for i, action in enumerate(rule.actions):
        sentence = _problem_of_action(action)
        if not sentence and what_of(action) in said:
            sentence = "That is said already in this rule."
        if sentence:
            raise InvalidInput(sentence, field=f"then-{i}")
        said.add(what_of(action))
    return rule


def _problem_of_condition(one: Condition) -> str:
    if one.kind not in CONDITION_KINDS or (one.kind in HOWS and one.how not in HOWS[one.kind]):
        return "There is no such condition."
    if one.kind in WORD_CONDITIONS:
        if not one.texts or not all(folded(text) for text in one.texts):
            return "Write the letters to look for."
        if any(len(text) > MOST_TEXT for text in one.texts):
            return f"{MOST_TEXT} letters are enough."
    if one.kind == "amount":
        if one.least is None or (one.how == "between" and one.most is None):
            return "Write an amount."
        if one.least < 0 or (one.most or 0) < 0:
            return "Write the amount without a sign; say “money comes in” or “goes out” beside it."
        if one.how == "between" and (one.most or 0) < one.least:
            return "The first amount is the smaller one."
    if one.kind in ("account", "member", "category", "weekday") and not one.ids:
        return "Choose at least one."
    if one.kind == "day" and not all(1 <= (day or 0) <= 31 for day in (one.least, one.most)):
        return "Days of the month go from 1 to 31."
    return ""


def _problem_of_action(one: Action) -> str:
    if one.kind not in ACTION_KINDS:
        return "There is no such thing to do."
    if one.kind in ("file", "transfer", "member", "ask", "series") and one.id is None:
        return "Choose one."
    if one.kind in ("rename", "tag") and not one.text.strip():
        return "Write a name."
    if one.kind == "rename" and len(one.text) > MOST_TEXT:
        return f"{MOST_TEXT} letters are enough."
    if one.kind == "split":
        return _problem_of_parts(one.parts)
    return ""


def _problem_of_parts(parts: Sequence[SharePart]) -> str:
    if len(parts) < 2:
        return "A split has at least two parts."
    opened = sum(part.amount_minor is None and part.share_e6 is None for part in parts)
    shares = sum(part.share_e6 or 0 for part in parts)
    if opened > 1:
        return "Only one part may be left open; it takes what remains."
    if any((part.amount_minor or 0) < 0 or (part.share_e6 or 0) < 0 for part in parts):
        return "A part is not less than nothing."
    if shares > WHOLE_SHARE:
        return "The shares are more than 100 %."
    if not opened and (shares != WHOLE_SHARE or any(part.amount_minor is not None for part in parts)):
        return "Leave one part open, so that it takes what remains; or give shares that make 100 %."
    return ""
