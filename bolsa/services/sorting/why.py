"""Why an entry stands where it does: a rule, a suggestion, or a person, and what would mend that."""

import json
import sqlite3
from dataclasses import dataclass

from bolsa.core.ledger.entries import StoredEntry
from bolsa.services.sorting.sorting import suggest_for_entry
from bolsa.store import journal
from bolsa.store.accounts import accounts
from bolsa.store.sorting import categories, filing, rules
from bolsa.store.sorting.categories import UNSORTED


@dataclass(frozen=True)
class Why:
    """What put an entry where it is: `way` is "rule", "suggestion", "person", "entered" or "waits"; in words, since when, by
    whom, the rule that can be mended if it is still there, and the step that did it."""

    way: str
    words: str
    since: str = ""
    who: str = ""
    rule_id: int | None = None
    payee_id: int | None = None


def why(db: sqlite3.Connection, entry: StoredEntry) -> Why | None:
    """Why an entry is in its category; None for a transfer or a split, whose form says it."""
    if len(entry.category_lines) != 1 or entry.is_transfer:
        return None
    line = entry.category_lines[0]
    if line.category_id == UNSORTED:
        return _waits(db, entry)
    row = rules.find_filing(db, entry.id)
    if row is not None and row["category_id"] == line.category_id:
        there = row["rule_id"] is not None
        if row["way"] == "rule":
            words = row["words"] if there else f"A rule that is no more: {row['words']}"
            return Why("rule", words, row["filed_on"], rule_id=row["rule_id"])
        return Why("suggestion", row["words"], row["filed_on"], payee_id=entry.payee_id)
    return _by_person(db, entry, line.stored_id)


def _waits(db: sqlite3.Connection, entry: StoredEntry) -> Why:
    found = suggest_for_entry(db, entry.id)
    if found is None:
        return Why("waits", "It waits to be sorted.")
    id_ = found.choices[0].category_id
    name = categories.get_category(db, id_).name if id_ > 0 else f"a transfer with {accounts.get_account(db, -id_).name}"
    likely = "Likely" if found.is_guess else "Bolsa asks, since it is not certain enough; nearest is"
    return Why("waits", f"It waits to be sorted. {likely} {name}: {found.reason}.", payee_id=entry.payee_id)


def _by_person(db: sqlite3.Connection, entry: StoredEntry, line_id: int) -> Why:
    """The latest step that gave the line its category, or how the entry came."""
    steps = journal.list_steps_of_entry(db, entry.id)
    changes = journal.list_changes_of_entry(db, entry.id, [step.id for step in steps])
    for step in steps:
        for table, before_json, after_json in changes.get(step.id, []):
            if table != "line" or after_json is None:
                continue
            after = json.loads(after_json)
            before = json.loads(before_json) if before_json else {}
            if after["id"] == line_id and before.get("category_id") != after["category_id"]:
                return Why("person", step.sentence, step.at, step.member or "")
    return Why("entered", "It was entered so.")


def is_kept_out(db: sqlite3.Connection, entry_id: int) -> bool:
    """Whether no answer counts the entry."""
    return filing.is_kept_out(db, entry_id)
