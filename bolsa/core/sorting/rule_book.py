"""Rules in their order, asked about many entries; what the order means: rules.py."""

from collections.abc import Iterable, Iterator
from typing import Any

from bolsa.core.sorting.rules import (
    FILING,
    WORD_CONDITIONS,
    Action,
    Filed,
    Outcome,
    Rule,
    Seen,
    Told,
    Words,
    folded,
    holds,
    what_of,
)

_REMEMBERED = 50_000  # payees and texts whose rules are known


class RuleBook:
    """Rules in their order, ready for many entries: which of them speak of a payee or a text is found once for each."""

    def __init__(self, rules: Iterable[Rule]):
        self.rules = [rule for rule in rules if rule.is_on]
        self._spoken = {kind: self._with(kind) for kind in WORD_CONDITIONS}
        self._says = [[(what_of(one), one.kind == "tag", _value(one)) for one in rule.actions] for rule in self.rules]
        self._rest = [[one for one in rule.conditions if one.kind not in WORD_CONDITIONS] for rule in self.rules]
        every = (1 << len(self.rules)) - 1
        self._silent = {kind: every ^ sum(bit for bit, _ in spoken) for kind, spoken in self._spoken.items()}
        self._fitting: dict[str, dict[str, int]] = {kind: {} for kind in WORD_CONDITIONS}
        self._looked_at = {one.kind for rule in self.rules for one in rule.conditions}

    def _with(self, kind: str) -> list[tuple[int, list[Words]]]:
        """What is asked of words of a kind, by the rule's bit."""
        found = [(1 << i, [Words(one) for one in rule.conditions if one.kind == kind]) for i, rule in enumerate(self.rules)]
        return [(bit, asked) for bit, asked in found if asked]

    def decide(self, seen: Seen) -> Outcome:
        """What the rules make of an entry."""
        told = seen.told
        states: list[Told] = []
        by: dict[str, int] = {}
        met: dict[int, None] = {}
        overruled: dict[int, int] = {}
        decided: list[dict[str, int]] = []
        while told not in states:
            states.append(told)
            after, now_by, now_met, now_overruled = self._look_through(seen, told)
            decided.append({what: id_ for what, id_ in now_by.items() if _said(after, what) != _said(told, what)})
            by |= decided[-1]
            met |= dict.fromkeys(now_met)
            overruled |= now_overruled
            if after == told or not self._sees_change(told, after):
                late = {id_: over for id_, over in overruled.items() if id_ not in by.values()}
                return Outcome(after, _changed(by, seen.told, after), tuple(met), late)
            told = after
        begins = states.index(told)
        end = min(states[begins:], key=_in_words)
        circle = dict.fromkeys(id_ for said in decided[begins:] for id_ in said.values())
        return Outcome(end, _changed(by, seen.told, end), tuple(met), circle=tuple(circle))

    def _look_through(self, seen: Seen, told: Told) -> tuple[Told, dict[str, int], list[int], dict[int, int]]:
        """One look from the top: what it decides, who decided what, who met the entry, and who came too late to say anything."""
        by: dict[str, int] = {}
        met: list[int] = []
        overruled: dict[int, int] = {}
        new: dict[str, Any] = {}
        tags = told.tags
        for at in self._fitting_words(seen, told):
            if self._rest[at] and not all(holds(one, seen, told) for one in self._rest[at]):
                continue
            id_, late, says = self.rules[at].id, 0, False
            met.append(id_)
            for what, is_tag, value in self._says[at]:
                if is_tag:
                    says |= what not in by
                    by.setdefault(what, id_)
                    tags |= {value}
                elif what in by:
                    late = by[what]
                elif _is_free(what, seen, told):
                    by[what], says = id_, True
                    new[what] = value
            if late and not says:
                overruled[id_] = late
        return told._replace(tags=tags, **new), by, met, overruled

    def _fitting_words(self, seen: Seen, told: Told) -> Iterator[int]:
        """The rules, by place, whose conditions on words hold of an entry."""
        fitting = self._speaking("payee", told.payee)
        if seen.bank_payee and seen.bank_payee != told.payee:
            fitting |= self._speaking("payee", seen.bank_payee)
        if self._spoken["text"]:
            fitting &= self._speaking("text", seen.raw_text)
        while fitting:
            lowest = fitting & -fitting
            yield lowest.bit_length() - 1
            fitting ^= lowest

    def _speaking(self, kind: str, words: str) -> int:
        """The rules whose conditions on payees, or on texts, hold of some words, and those without any: a bit for each place."""
        known = self._fitting[kind]
        found = known.get(words)
        if found is None:
            if len(known) > _REMEMBERED:
                known.clear()
            found, text = self._silent[kind], folded(words)
            for bit, asked in self._spoken[kind]:
                if len(asked) == 1:
                    found |= bit if asked[0].hold(text) else 0
                elif all(one.hold(text) for one in asked):
                    found |= bit
            known[words] = found
        return found

    def _sees_change(self, before: Told, after: Told) -> bool:
        """Whether any rule asks about something that changed."""
        return any(
            _said(before, what) != _said(after, what) and kind in self._looked_at
            for what, kind in (("payee", "payee"), ("filed", "category"), ("member_id", "member"))
        )


def _is_free(what: str, seen: Seen, told: Told) -> bool:
    """Whether a rule may say this of an entry: what is kept as it is stays, and nobody is asked twice."""
    return not (what == "filed" and told.filed.how == "kept") and not (what == "ask" and seen.was_asked)


def _value(action: Action) -> Any:
    if action.kind in FILING:
        return Filed(action.kind, action.id, action.set_by_id, action.parts)
    match action.kind:
        case "rename":
            return action.text
        case "ask":
            return (action.id, action.text)
        case "keep_out":
            return True
        case "tag":
            return action.text
    return action.id


def _said(told: Told, what: str) -> object:
    return what[1:] in told.tags if what.startswith("#") else getattr(told, what)


def _changed(by: dict[str, int], before: Told, after: Told) -> dict[str, int]:
    return {what: id_ for what, id_ in by.items() if _said(before, what) != _said(after, what)}


def _in_words(told: Told) -> str:
    return repr((told.payee, told.filed, told.member_id, sorted(told.tags), told.ask, told.series_id, told.kept_out))
