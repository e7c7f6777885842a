"""Commands about sorting: suggest, sort, rules."""

import argparse
import sqlite3
from pathlib import Path
from typing import Any

from bolsa.cli.common import Commands, household, say, show
from bolsa.core.sorting.rule_words import sentence_of
from bolsa.core.sorting.suggestions import Suggestion
from bolsa.errors import InvalidInput
from bolsa.services.accounts import accounts
from bolsa.services.changes import Done
from bolsa.services.sorting import categories, rule_files, rule_previewing, rules, sorting

SURE = 0.9


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    suggest = commands.add("suggest", run_suggest, as_json=True)
    suggest.add_argument("entry", type=int, metavar="ENTRY")
    sort = commands.add("sort", run_sort, as_json=True)
    sort.add_argument(
        "--certain", type=_certainty, default=SURE, metavar="SHARE", help="how certain a suggestion must be, 0.5 to 1"
    )
    sort.add_argument("--dry-run", action="store_true", help="print what would be filed, and file nothing")
    kept = commands.group("rules")
    kept.add("list", run_list, "print the rules in their order", as_json=True)
    out = kept.add("export", run_export, "write them as JSON")
    out.add_argument("path", metavar="FILE")
    into = kept.add("import", run_import, "add those of a JSON file", as_json=True)
    into.add_argument("path", metavar="FILE")
    kept.add("run", run_rules, "let them sort what waits", as_json=True)


def _certainty(text: str) -> float:
    share = float(text)
    if not 0.5 <= share <= 1:
        raise argparse.ArgumentTypeError("a share from 0.5 to 1")
    return share


def _names(db: sqlite3.Connection) -> dict[int, str]:
    """Names of categories, and of transfers under the account's number below 0."""
    return categories.names_of(db) | {-a.id: f"transfer with {a.name}" for a in accounts.list_accounts(db)}


def run_suggest(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        names = _names(db)
        found = sorting.suggest_for_entry(db, options.entry)
        said = _said(options.entry, found, names)
    words = said["reason"] or "nothing like it was filed before"
    lines = (f"{one['certainty']:4.0%}  {one['category']}  ({one['times']} of {one['cases']})" for one in said["choices"])
    show(options, said, iter([words, *lines]))


def _said(entry_id: int, found: Suggestion | None, names: dict[int, str]) -> dict[str, Any]:
    choices = [
        {"category": names[one.category_id], "times": one.times, "cases": one.cases, "certainty": round(one.certainty, 4)}
        for one in (found.choices if found else ())
    ]
    guess = bool(found and found.is_guess)
    return {"entry": entry_id, "is_guess": guess, "reason": found.reason if found else "", "choices": choices}


def run_sort(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        names = _names(db)
        certain = sorting.what_to_sort(db).certain_at(options.certain)
        rows = [{"category": names[one.category_id], "entries": [id_ for _, ids in one.piles for id_ in ids]} for one in certain]
        done = Done() if options.dry_run else sorting.file_sure(db, by, options.certain)
    count = sum(len(row["entries"]) for row in rows)
    verb = "would be filed" if options.dry_run else "filed"
    value = {"step": done.step_id, "filed": 0 if options.dry_run else count, "would_file": count, "categories": rows}
    show(options, value, iter([f"{count} entries {verb}", *(f"{len(row['entries']):>5}  {row['category']}" for row in rows)]))


def run_list(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        names = rules.names_of(db)
        found = [
            {
                "id": row.rule.id, "on": row.rule.is_on, "rule": sentence_of(row.rule, names), "met": row.times,
                "last": row.last.isoformat() if row.last else None, "odd": row.odd,
            }
            for row in rules.list_rows(db, by.today)
        ]  # fmt: skip
    show(
        options, found, (f"{i:>3}  {one['rule']}{'' if one['on'] else '  (off)'}  {one['odd']}" for i, one in enumerate(found, 1))
    )


def run_export(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        Path(options.path).write_text(rule_files.export_rules(db), encoding="utf-8")
    print(f"Wrote the rules to {options.path}")


def run_import(options: argparse.Namespace) -> None:
    path = Path(options.path)
    if not path.is_file():
        raise InvalidInput(f"There is no file {path}.")
    with household(options) as (db, by):
        done = rule_files.import_rules(db, by, path.read_bytes())
    say(options, done, added=done.made)


def run_rules(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = rule_previewing.apply_all(db, by)
    say(options, done, filed=done.made.filed, changed=done.made.changed)
