"""Rules taken out as a file, and brought in from one."""

import sqlite3
from dataclasses import replace

from bolsa.core.sorting.rule_words import Names
from bolsa.core.whole_numbers import counted
from bolsa.formats.rules_json import Ids, read_rules, write_rules
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.sorting.rules import keep_rule
from bolsa.store.sorting import filing, rules


def export_rules(db: sqlite3.Connection) -> str:
    """All rules in their order as JSON text."""
    return write_rules(rules.list_rules(db), filing.names_of(db))


def import_rules(db: sqlite3.Connection, by: By, content: bytes) -> Done:
    """Adds the rules of a file at the end, all or none; those that are here already are left out. Makes how many were added.
    Raises: UnreadableFile, InvalidInput."""
    with change(db, by) as done:
        names = filing.names_of(db)
        found = read_rules(content, _ids(names), names.currency)
        said = {(rule.conditions, rule.actions) for rule in rules.list_rules(db)}
        count = 0
        for rule in found:
            if (rule.conditions, rule.actions) in said:
                continue
            said.add((rule.conditions, rule.actions))
            rule_id = keep_rule(db, by, replace(rule, id=0)).made
            if not rule.is_on:
                rules.change_is_on(db, rule_id, is_on=False)
            count += 1
        done.sentence = f"Brought in {counted(count, 'rule')}"
        if count < len(found):
            done.sentence += f"; {len(found) - count} {'was' if len(found) - count == 1 else 'were'} here already"
        done.made = count
    return done


def _ids(names: Names) -> Ids:
    kinds = (names.categories, names.accounts, names.members, names.series)
    return Ids(*({name.casefold(): id_ for id_, name in kind.items()} for kind in kinds))
