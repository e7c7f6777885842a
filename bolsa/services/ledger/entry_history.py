"""What was done to an entry: who, when, from what to what, each step with its undo."""

import json
import sqlite3
from dataclasses import dataclass

from bolsa.core.house.kept import Step
from bolsa.core.units import Money
from bolsa.store import journal
from bolsa.store.accounts import accounts
from bolsa.store.house import household
from bolsa.store.ledger import payees
from bolsa.store.sorting import categories

_WORDS = {"memo": "memo", "note": "note", "raw_text": "bank’s words", "bank_ref": "bank’s id"}
_DAYS = {"day": "day", "value_day": "value date"}


@dataclass(frozen=True)
class EntryStep:
    """One step of an entry's history and what it changed on it, in words."""

    step: Step
    changes: tuple[str, ...]


@dataclass(frozen=True)
class _Names:
    """The names behind the ids in the row images."""

    accounts: dict[int, str]
    categories: dict[int, str]
    payees: dict[int, str]
    members: dict[int, str]


def list_history(db: sqlite3.Connection, entry_id: int) -> list[EntryStep]:
    """What was done to an entry, the latest first."""
    names = _Names(
        {a.id: a.name for a in accounts.list_accounts(db)},
        {c.id: c.name for c in categories.list_categories(db, with_kept=True)},
        {id_: name for name, id_ in payees.list_payee_names(db).items()},
        {m.id: m.name for m in household.list_members(db)},
    )
    steps = journal.list_steps_of_entry(db, entry_id)
    changes = journal.list_changes_of_entry(db, entry_id, [step.id for step in steps])
    return [EntryStep(step, tuple(_in_words(changes.get(step.id, []), names))) for step in steps]


def _in_words(changes: list[tuple[str, str | None, str | None]], names: _Names) -> list[str]:
    said: list[str] = []
    for table, before_json, after_json in changes:
        before, after = (json.loads(image) if image else None for image in (before_json, after_json))
        if table == "entry" and before and after:
            said += _entry_words(before, after, names)
        elif table == "line":
            said += _line_words(before, after, names)
        elif table == "attachment":
            said.append(f"{(after or before or {})['name']} {'attached' if after else 'taken off'}")
    return list(dict.fromkeys(said))


def _entry_words(before: dict, after: dict, names: _Names) -> list[str]:
    words = _WORDS | _DAYS
    said = [_from_to(words[key], before[key], after[key]) for key in words if before.get(key) != after.get(key)]
    if before["payee_id"] != after["payee_id"]:
        said.append(_from_to("payee", names.payees.get(before["payee_id"]), names.payees.get(after["payee_id"])))
    return said


def _line_words(before: dict | None, after: dict | None, names: _Names) -> list[str]:
    if before is None or after is None:
        line = after or before or {}
        return [f"{_side(line, names)} {_amount(line)} {'added' if after else 'taken away'}"]
    side = _side(after, names)
    said = []
    if _side(before, names) != side:
        said.append(_from_to("filed", _side(before, names), side))
    if before["amount_minor"] != after["amount_minor"]:
        said.append(_from_to(side, _amount(before), _amount(after)))
    if before["state"] != after["state"]:
        said.append(_from_to(f"state in {side}", before["state"], after["state"]))
    if before.get("member_id") != after.get("member_id"):
        said.append(_from_to("for", names.members.get(before["member_id"] or 0), names.members.get(after["member_id"] or 0)))
    if after["account_id"]:
        said += [_from_to(words, before[key], after[key]) for key, words in _DAYS.items() if before[key] != after[key]]
        said += [_from_to(_WORDS[key], before[key], after[key]) for key in ("raw_text", "bank_ref") if before[key] != after[key]]
    return said


def _side(line: dict, names: _Names) -> str:
    if line["account_id"]:
        return names.accounts.get(line["account_id"], "a deleted account")
    return names.categories.get(line["category_id"], "a deleted category")


def _amount(line: dict) -> str:
    return str(Money(line["amount_minor"], line["currency"]))


def _from_to(what: str, before: object, after: object) -> str:
    return f"{what}: {before or 'nothing'} → {after or 'nothing'}"
