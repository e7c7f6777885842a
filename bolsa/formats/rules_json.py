"""Rules as JSON, in names instead of ids: docs/rules.schema.json says which words there are.

{"bolsa_rules": 1, "rules": [{"on": true,
    "when": [{"payee": {"contains": ["heron"]}}, {"amount": {"between": ["100.00", "150.00"], "currency": "EUR"}}],
    "then": [{"file": "School"}, {"tag": "heron"}]}]}
"""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from bolsa.core.amounts import parse_amount
from bolsa.core.currencies import CODES
from bolsa.core.money import decimal_text
from bolsa.core.percents import parse_percent
from bolsa.core.sorting.rule_checks import check_rule
from bolsa.core.sorting.rule_words import GONE, WEEKDAYS, Names, per_cent
from bolsa.core.sorting.rules import HOWS, WORD_CONDITIONS, Action, Condition, Rule, SharePart
from bolsa.errors import InvalidInput, UnreadableFile

VERSION = 1
MOST_BYTES = 2_000_000
MOST_RULES = 1_000
_PER_CENT = 10_000  # millionths


@dataclass(frozen=True)
class Ids:
    """The ids behind names, folded, by kind: categories, accounts, members, series."""

    categories: Mapping[str, int] = field(default_factory=dict)
    accounts: Mapping[str, int] = field(default_factory=dict)
    members: Mapping[str, int] = field(default_factory=dict)
    series: Mapping[str, int] = field(default_factory=dict)


def write_rules(rules: Iterable[Rule], names: Names) -> str:
    """The rules as JSON text."""
    rows = [
        {
            "on": rule.is_on,
            "when": [_condition_out(one, names) for one in rule.conditions],
            "then": [_action_out(one, names) for one in rule.actions],
        }
        for rule in rules
    ]
    return json.dumps({"bolsa_rules": VERSION, "rules": rows}, ensure_ascii=False, indent=1) + "\n"


def _condition_out(one: Condition, names: Names) -> dict[str, Any]:
    match one.kind:
        case "payee" | "text":
            return {one.kind: {one.how: list(one.texts)}}
        case "amount":
            amounts = [decimal_text(amount, one.currency) for amount in (one.least, one.most) if amount is not None]
            return {"amount": {one.how: amounts if one.how == "between" else amounts[0], "currency": one.currency}}
        case "direction":
            return {"direction": one.how}
        case "day":
            return {"day": {"from": one.least, "to": one.most}}
        case "weekday":
            return {"weekday": [WEEKDAYS[id_] for id_ in one.ids]}
    known = {"account": names.accounts, "member": names.members, "category": names.categories}[one.kind]
    return {one.kind: [known.get(id_, GONE) for id_ in one.ids]}


def _action_out(one: Action, names: Names) -> dict[str, Any]:
    match one.kind:
        case "file":
            return {"file": names.categories.get(one.id or 0, GONE)}
        case "rename" | "tag":
            return {one.kind: one.text}
        case "member":
            return {"member": names.members.get(one.id or 0, GONE)}
        case "ask":
            return {"ask": {"member": names.members.get(one.id or 0, GONE), "note": one.text}}
        case "transfer":
            set_by = {"set_by": names.categories.get(one.set_by_id, GONE)} if one.set_by_id else {}
            return {"transfer": {"account": names.accounts.get(one.id or 0, GONE), **set_by}}
        case "split":
            return {"split": [_part_out(part, names) for part in one.parts]}
        case "series":
            return {"series": names.series.get(one.id or 0, GONE)}
    return {"keep_out": True}


def _part_out(part: SharePart, names: Names) -> dict[str, str]:
    size = {}
    if part.share_e6 is not None:
        size = {"percent": per_cent(part.share_e6)}
    elif part.amount_minor is not None:
        size = {"amount": decimal_text(part.amount_minor, names.currency)}
    return {"category": names.categories.get(part.category_id, GONE), **size}


def read_rules(content: bytes, ids: Ids, home: str) -> list[Rule]:
    """The rules a file holds, each checked; amounts of splits are in home currency. Raises: UnreadableFile naming the rule."""
    if len(content) > MOST_BYTES:
        raise UnreadableFile("A file of rules is at most two megabytes long.")
    try:
        whole = json.loads(content.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise UnreadableFile("This is no JSON file.") from error
    if not isinstance(whole, dict) or whole.get("bolsa_rules") != VERSION or not isinstance(whole.get("rules"), list):
        raise UnreadableFile("This is no file of rules: it should begin with “bolsa_rules”: 1 and hold a list “rules”.")
    if len(whole["rules"]) > MOST_RULES:
        raise UnreadableFile(f"The file holds more than {MOST_RULES} rules.")
    found = []
    for i, row in enumerate(whole["rules"], 1):
        try:
            found.append(_Reader(ids, home).rule(row))
        except (InvalidInput, UnreadableFile) as error:
            raise UnreadableFile(f"Rule {i}: {error.sentence}") from error
        except (TypeError, ValueError, KeyError, AttributeError, IndexError) as error:
            raise UnreadableFile(f"Rule {i} is not written as a rule is.") from error
    return found


class _Reader:
    """Reads one rule; what is not as it should be raises."""

    def __init__(self, ids: Ids, home: str):
        self.ids, self.home = ids, home

    def rule(self, row: dict[str, Any]) -> Rule:
        conditions = tuple(self._condition(*_only(one)) for one in row["when"])
        actions = tuple(self._action(*_only(one)) for one in row["then"])
        return check_rule(Rule(0, conditions, actions, row.get("on", True) is not False))

    def _condition(self, kind: str, said: Any) -> Condition:
        if kind in WORD_CONDITIONS:
            how, texts = _only(said)
            return Condition(kind, how, tuple(_text(text) for text in texts))
        if kind == "amount":
            currency = _text(said.get("currency", self.home))
            if currency not in CODES:
                raise UnreadableFile(f"“{currency[:10]}” is no currency.")
            how = next(word for word in HOWS["amount"] if word in said)
            amounts = [self._amount(text, currency) for text in (said[how] if how == "between" else [said[how]])]
            return Condition(kind, how, least=amounts[0], most=amounts[1] if how == "between" else None, currency=currency)
        if kind == "direction":
            return Condition(kind, _text(said))
        if kind == "day":
            return Condition(kind, least=int(said["from"]), most=int(said["to"]))
        if kind == "weekday":
            return Condition(kind, ids=tuple(WEEKDAYS.index(_text(name).capitalize()) for name in said))
        return Condition(kind, ids=tuple(self._id(kind, name) for name in said))

    def _action(self, kind: str, said: Any) -> Action:
        match kind:
            case "file":
                return Action(kind, self._id("category", said))
            case "rename":
                return Action(kind, text=" ".join(_text(said).split()))
            case "tag":
                return Action(kind, text=_text(said).strip().lstrip("#"))
            case "member" | "series":
                return Action(kind, self._id(kind, said))
            case "ask":
                return Action(kind, self._id("member", said["member"]), _text(said.get("note", "")))
            case "transfer":
                set_by = self._id("category", said["set_by"]) if said.get("set_by") else None
                return Action(kind, self._id("account", said["account"]), "", set_by)
            case "split":
                return Action(kind, parts=tuple(self._part(part) for part in said))
        return Action(kind)

    def _part(self, said: dict[str, Any]) -> SharePart:
        category_id = self._id("category", said["category"])
        if "percent" in said:
            return SharePart(category_id, share_e6=int(parse_percent(_text(said["percent"])) * Decimal(_PER_CENT)))
        return SharePart(category_id, self._amount(said["amount"], self.home) if "amount" in said else None)

    def _amount(self, said: Any, currency: str) -> int:
        return parse_amount(_text(said), currency, decimal_mark=".")

    def _id(self, kind: str, name: Any) -> int:
        known = {
            "category": self.ids.categories, "account": self.ids.accounts, "member": self.ids.members, "series": self.ids.series,
        }  # fmt: skip
        id_ = known[kind].get(_text(name).casefold())
        if id_ is None:
            raise UnreadableFile(f"There is no {kind} “{_text(name)[:60]}” here. Make it first, or change the file.")
        return id_


def _only(said: Any) -> tuple[str, Any]:
    """The one word something is said by, and what it says."""
    ((word, value),) = said.items()
    return _text(word), value


def _text(said: Any) -> str:
    if not isinstance(said, str):
        raise UnreadableFile("What should be words is none.")
    return said
