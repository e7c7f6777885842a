"""A rule as it is typed: a sentence whose parts are fields, read into a rule, and a rule written into the fields.

Condition 0 sends `when-0-kind`, `when-0-how`, and its values as `when-0-value`, once for each; action 0 likewise with `then-0`. A
part of a split sends its size and its category. `add-when`, `add-then`, `more` and `drop` change what there is to fill in.
"""

from dataclasses import dataclass, field, replace
from decimal import Decimal

from werkzeug.datastructures import MultiDict

from bolsa.core.percents import parse_percent
from bolsa.core.sorting.rule_checks import check_rule
from bolsa.core.sorting.rule_words import per_cent
from bolsa.core.sorting.rules import ACTION_KINDS, CONDITION_KINDS, HOWS, Action, Condition, Rule, SharePart
from bolsa.core.whole_numbers import is_number, number_of
from bolsa.errors import InvalidInput
from bolsa.services.ledger.registers import clean_tag
from bolsa.web.filters import in_field
from bolsa.web.forms import parse_money

MOST_PARTS = 12
_SHARE = 10_000  # millionths of a per cent


@dataclass(frozen=True)
class Typed:
    """One condition or action as typed: its values, and beside them what only some kinds have."""

    kind: str
    how: str = ""
    values: tuple[str, ...] = ("",)
    sizes: tuple[str, ...] = ()
    currency: str = ""
    note: str = ""


@dataclass(frozen=True)
class Draft:
    """A rule as typed; `rule_id` is 0 for a new one."""

    rule_id: int
    when: tuple[Typed, ...] = ()
    then: tuple[Typed, ...] = ()
    unticked: frozenset[int] = field(default_factory=frozenset)


def read_draft(form: MultiDict, home: str) -> Draft:
    """What a form holds, with what its buttons ask to be added or taken away."""
    when, then = (_read_parts(form, name, home) for name in ("when", "then"))
    drop, more = form.get("drop", ""), form.get("more", "")
    when = [one for i, one in enumerate(when) if drop != f"when-{i}"]
    then = [one for i, one in enumerate(then) if drop != f"then-{i}"]
    when = [_with_one_more(one) if more == f"when-{i}" else one for i, one in enumerate(when)]
    then = [_with_one_more(one) if more == f"then-{i}" else one for i, one in enumerate(then)]
    if form.get("add-when") in CONDITION_KINDS:
        when.append(new_condition(form["add-when"], home))
    if form.get("add-then") in ACTION_KINDS:
        then.append(new_action(form["add-then"]))
    shown, taken = (set(map(number_of, form.getlist(name))) for name in ("shown", "take"))
    unticked = frozenset(id_ for id_ in shown - taken if id_ is not None)
    return Draft(number_of(form.get("rule_id", "")) or 0, tuple(when[:MOST_PARTS]), tuple(then[:MOST_PARTS]), unticked)


def new_condition(kind: str, home: str) -> Typed:
    """A condition still to be filled in."""
    return Typed(kind, HOWS.get(kind, ("",))[0], ("", "") if kind in ("amount", "day") else ("",), currency=home)


def new_action(kind: str) -> Typed:
    """An action still to be filled in."""
    return Typed(kind, values=("", ""), sizes=("", "")) if kind == "split" else Typed(kind)


def _with_one_more(one: Typed) -> Typed:
    return replace(one, values=(*one.values, ""), sizes=(*one.sizes, "") if one.sizes else ())


def _read_parts(form: MultiDict, name: str, home: str) -> list[Typed]:
    found = []
    for i in range(MOST_PARTS):
        kind = form.get(f"{name}-{i}-kind", "")
        if kind not in (CONDITION_KINDS if name == "when" else ACTION_KINDS):
            break
        values = tuple(form.getlist(f"{name}-{i}-value")) or ("",)
        if kind in ("amount", "day"):
            values = (*values, "", "")[:2]
        found.append(
            Typed(
                kind, form.get(f"{name}-{i}-how", HOWS.get(kind, ("",))[0]), values, tuple(form.getlist(f"{name}-{i}-size")),
                form.get(f"{name}-{i}-currency", "") or home, form.get(f"{name}-{i}-note", ""),
            )
        )  # fmt: skip
    return found


def rule_of(draft: Draft) -> Rule:
    """The rule that is typed. Raises: InvalidInput naming the part, as `when-1`."""
    conditions = tuple(_condition(one, f"when-{i}") for i, one in enumerate(draft.when))
    actions = tuple(_action(one, f"then-{i}") for i, one in enumerate(draft.then))
    return check_rule(Rule(draft.rule_id, conditions, actions))


def _condition(one: Typed, name: str) -> Condition:
    values = [text.strip() for text in one.values if text.strip()]
    if one.kind in ("payee", "text"):
        return Condition(one.kind, one.how, tuple(dict.fromkeys(" ".join(text.split()) for text in values)))
    if one.kind == "amount":
        least, most = (_money(text, one.currency, name) for text in one.values[:2])
        return Condition(one.kind, one.how, least=least, most=most if one.how == "between" else None, currency=one.currency)
    if one.kind == "direction":
        return Condition(one.kind, one.how)
    if one.kind == "day":
        least, most = (number_of(text.strip()) for text in one.values[:2])
        return Condition(one.kind, least=least, most=least if most is None else most)
    return Condition(one.kind, ids=_ids(values, name))


def _ids(values: list[str], name: str) -> tuple[int, ...]:
    if not all(is_number(text) for text in values):
        raise InvalidInput("Choose one that is there.", field=name)
    return tuple(dict.fromkeys(int(text) for text in values))


def _money(text: str, currency: str, name: str) -> int | None:
    return parse_money(MultiDict({name: text}), name, currency) if text.strip() else None


def _action(one: Typed, name: str) -> Action:
    value = one.values[0].strip()
    if one.kind == "rename":
        return Action(one.kind, text=" ".join(value.split()))
    if one.kind == "tag":
        return Action(one.kind, text=clean_tag(value) if value else "")
    if one.kind == "keep_out":
        return Action(one.kind)
    if one.kind == "split":
        return Action(
            one.kind, parts=tuple(read_part(*pair, one.currency, name) for pair in zip(one.values, one.sizes, strict=False))
        )
    ids = _ids([value] if value else [], name)
    set_by = _ids([one.note], name)[0] if one.kind == "transfer" and one.note.strip() else None
    return Action(one.kind, ids[0] if ids else None, one.note.strip() if one.kind == "ask" else "", set_by)


def read_part(category: str, size: str, currency: str, name: str) -> SharePart:
    """A part of a split as typed: an amount, per cent, or nothing for what remains. Raises: InvalidInput of that field."""
    if not is_number(category.strip()):
        raise InvalidInput("Say which category each part goes to.", field=name)
    category_id, size = int(category), size.strip()
    if not size:
        return SharePart(category_id)
    if size.endswith("%"):
        return SharePart(category_id, share_e6=int(parse_percent(size, name) * Decimal(_SHARE)))
    return SharePart(category_id, amount_minor=_money(size, currency, name))


def draft_of(rule: Rule, home: str) -> Draft:
    """A rule as it would have been typed."""
    return Draft(
        rule.id,
        tuple(_typed_condition(one, home) for one in rule.conditions),
        tuple(_typed_action(one, home) for one in rule.actions),
    )


def _typed_condition(one: Condition, home: str) -> Typed:
    if one.kind == "amount":
        values = tuple("" if amount is None else in_field(amount, one.currency) for amount in (one.least, one.most))
    elif one.kind == "day":
        values = str(one.least), "" if one.most == one.least else str(one.most)
    elif one.ids:
        values = tuple(map(str, one.ids))
    else:
        values = one.texts or ("",)
    return Typed(one.kind, one.how, values, currency=one.currency or home)


def _typed_action(one: Action, home: str) -> Typed:
    if one.kind == "split":
        sizes = tuple(size_of(part, home) for part in one.parts)
        return Typed(one.kind, values=tuple(str(part.category_id) for part in one.parts), sizes=sizes, currency=home)
    if one.kind in ("rename", "tag"):
        return Typed(one.kind, values=(one.text,))
    note = str(one.set_by_id or "") if one.kind == "transfer" else one.text
    return Typed(one.kind, values=(str(one.id or ""),), note=note)


def size_of(part: SharePart, currency: str) -> str:
    """A part's size as it would have been typed."""
    if part.share_e6 is not None:
        return f"{per_cent(part.share_e6)} %"
    return "" if part.amount_minor is None else in_field(part.amount_minor, currency)
