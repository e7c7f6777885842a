"""The rule that a correction could become, and how many past entries would follow it."""

import sqlite3
from dataclasses import dataclass

from bolsa.core.sorting.rules import Action, Condition, Rule
from bolsa.services.sorting.rule_previewing import preview
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories, rules
from bolsa.store.sorting.categories import UNSORTED

NEW = 0


@dataclass(frozen=True)
class Offer:
    """A rule that would file the payee's entries where one was put by hand: how many past ones would follow."""

    entry_id: int
    payee: str
    category: str
    would_follow: int


def rule_like(db: sqlite3.Connection, entry_id: int) -> Rule:
    """The rule an entry suggests: its payee goes where this one was filed; where nothing is filed yet, the category is open."""
    entry = entries.get_entry(db, entry_id)
    line = next(iter(entry.category_lines), None)
    filed = line.category_id if line and len(entry.category_lines) == 1 and line.category_id != UNSORTED else None
    return Rule(NEW, (Condition("payee", "is", (entry.payee,)),), (Action("file", filed),))


def offer_after(db: sqlite3.Connection, entry_id: int) -> Offer | None:
    """The offer after an entry was filed by hand; None where it is no single category of the household's own, or where a rule
    says so already."""
    rule = rule_like(db, entry_id)
    filed = rule.actions[0].id
    if filed is None or categories.get_category(db, filed).role or _is_said(db, rule):
        return None
    found = preview(db, rule)
    payee = rule.conditions[0].texts[0]
    return Offer(entry_id, payee, categories.get_category(db, filed).name, found.change_count)


def _is_said(db: sqlite3.Connection, rule: Rule) -> bool:
    return any((one.conditions, one.actions) == (rule.conditions, rule.actions) for one in rules.list_rules(db))
