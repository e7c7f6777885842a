"""Whether a rule says something that can be."""

from bolsa.core.sorting.rules import (
    ACTION_KINDS,
    CONDITION_KINDS,
    HOWS,
    MOST_TEXT,
    WORD_CONDITIONS,
    Action,
    Condition,
    Rule,
    folded,
    what_of,
)
from bolsa.core.sorting.splits import problem_of_parts
from bolsa.errors import InvalidInput


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
        return problem_of_parts(one.parts)
    return ""
