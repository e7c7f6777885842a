"""Keeping rules: made, changed, ordered, turned on and off, taken out; what they did and how they fare."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date, timedelta

from bolsa.core.sorting.rule_checks import check_rule
from bolsa.core.sorting.rule_words import Names, sentence_of
from bolsa.core.sorting.rules import Rule
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change, require_untouched, require_version
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.due import series
from bolsa.store.house import household
from bolsa.store.sorting import categories, filing, rules

IDLE_DAYS = 365  # a rule that met nothing for so long is pointed out
OFTEN_LATE = 3  # and so is one that met so many entries and came too late for each
MOST_RULES = 1_000
LATELY = 200


@dataclass(frozen=True)
class RuleRow:
    """A rule in its list: how it fared, and what is odd about it in words, "" if nothing is."""

    rule: Rule
    times: int
    last: date | None
    late: int
    before_id: int | None
    odd: str


def list_rows(db: sqlite3.Connection, today: date) -> list[RuleRow]:
    """The rules in their order, with how each fared."""
    kept, fared = rules.list_rules(db), rules.list_fared(db)
    places = {rule.id: i for i, rule in enumerate(kept, 1)}
    rows = []
    for rule in kept:
        one = fared[rule.id]
        odd = ""
        if one.times >= OFTEN_LATE and one.late == one.times and one.before_id in places:
            odd = f"rule {places[one.before_id]} comes first each time"
        elif one.made_on < today - timedelta(days=IDLE_DAYS) and (one.last or date.min) < today - timedelta(days=IDLE_DAYS):
            odd = "never met in a year" if one.last else "never met"
        rows.append(RuleRow(rule, one.times, one.last, one.late, one.before_id, odd if rule.is_on else ""))
    return rows


def count_filed_lately(db: sqlite3.Connection) -> tuple[int, int]:
    """Of the newest LATELY entries: how many there are, and how many of them rules filed."""
    return rules.count_filed_lately(db, LATELY)


def names_of(db: sqlite3.Connection) -> Names:
    """The names rules speak in."""
    return filing.names_of(db)


def list_rules(db: sqlite3.Connection) -> list[Rule]:
    """The rules in their order."""
    return rules.list_rules(db)


def get_rule(db: sqlite3.Connection, rule_id: int) -> Rule:
    """The rule. Raises: NotFound."""
    return rules.get_rule(db, rule_id)


def keep_rule(db: sqlite3.Connection, by: By, rule: Rule, *, seen: int | None = None) -> Done:
    """Keeps a rule that is new (id 0) or changed; gives its id. It changes no entry by itself. Raises: InvalidInput, Conflict."""
    with change(db, by) as done:
        kept = rules.list_rules(db)
        if rule.id:
            before = rules.get_rule(db, rule.id)
            require_version(db, "rule", rule.id, seen, f"“{sentence_of(rule, names_of(db))}”")
            rule = replace(rule, is_on=before.is_on)
        elif len(kept) >= MOST_RULES:
            raise InvalidInput(f"{MOST_RULES} rules are enough; take one out first.")
        check_rule(rule)
        _require_there(db, rule)
        if any((one.conditions, one.actions) == (rule.conditions, rule.actions) and one.id != rule.id for one in kept):
            raise InvalidInput("There is a rule that says just that already.", field="when")
        if rule.id:
            rules.change_rule(db, rule, by.today)
            done.made = rule.id
        else:
            done.made = rules.insert_rule(db, rule, by.today)
        done.sentence = f"Kept the rule: {sentence_of(rules.get_rule(db, done.made), names_of(db))}"
    return done


def _require_there(db: sqlite3.Connection, rule: Rule) -> None:
    """Raises: InvalidInput if a rule names what is not there, or files where nobody files by hand."""
    own = {c.id: c for c in categories.list_categories(db, with_kept=True)}
    there = {
        "account": {a.id for a in accounts.list_accounts(db)},
        "member": {m.id for m in household.list_members(db)},
        "category": {id_ for id_, c in own.items() if c.role in (None, "unsorted")},
        "weekday": set(range(7)),
    }
    for i, one in enumerate(rule.conditions):
        if one.kind in there and not set(one.ids) <= there[one.kind]:
            raise InvalidInput("Choose one that is there.", field=f"when-{i}")
    filed = {id_ for id_, c in own.items() if c.role is None}
    allowed = {"file": filed, "transfer": there["account"], "member": there["member"], "ask": there["member"]}
    allowed["series"] = {one.id for one in series.list_series(db)}
    for i, action in enumerate(rule.actions):
        named = {action.id} if action.kind in allowed else set()
        parts = {part.category_id for part in action.parts} | ({action.set_by_id} - {None})
        if not named <= allowed.get(action.kind, set()) or not parts <= filed:
            raise InvalidInput("Choose one that is there.", field=f"then-{i}")


def turn_rule(db: sqlite3.Connection, by: By, rule_id: int, *, is_on: bool) -> Done:
    """Turns a rule on or off."""
    with change(db, by) as done:
        rule = rules.get_rule(db, rule_id)
        rules.change_is_on(db, rule_id, is_on=is_on)
        done.sentence = f"Turned {'on' if is_on else 'off'} the rule: {sentence_of(rule, names_of(db))}"
    return done


def remove_rule(db: sqlite3.Connection, by: By, rule_id: int) -> Done:
    """Takes a rule out; no entry changes."""
    with change(db, by) as done:
        rule = rules.get_rule(db, rule_id)
        done.sentence = f"Took out the rule: {sentence_of(rule, names_of(db))}"
        rules.remove_rule(db, rule_id)
    return done


def set_rule_order(db: sqlite3.Connection, by: By, rule_ids: list[int], *, seen: int | None = None) -> Done:
    """Gives the rules the order of the list; those it does not name follow. Raises: InvalidInput, Conflict."""
    with change(db, by) as done:
        there = [rule.id for rule in rules.list_rules(db)]
        require_untouched(db, "rule", {}, seen, "another order")
        if len(set(rule_ids)) != len(rule_ids) or not set(rule_ids) <= set(there):
            raise InvalidInput("The order names a rule that is not there.")
        done.sentence = "Put the rules in another order"
        rules.change_rule_order(db, [*rule_ids, *(id_ for id_ in there if id_ not in rule_ids)])
    return done
