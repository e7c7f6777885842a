"""What rules and people write to many entries at once, and the names rules speak in."""

import json
import sqlite3
from collections.abc import Iterable, Sequence

from bolsa.core.sorting.rule_words import Names
from bolsa.store.ledger import payees

LIST_NAMES = """
    SELECT 'categories' AS kind, id, name FROM category UNION ALL SELECT 'accounts', id, name FROM account
    UNION ALL SELECT 'members', id, name FROM member
    UNION ALL SELECT 'series', s.id, p.name FROM series s JOIN payee p ON p.id = s.payee_id"""


def names_of(db: sqlite3.Connection) -> Names:
    """The names rules speak in, as they are now."""
    found: dict[str, dict[int, str]] = {"categories": {}, "accounts": {}, "members": {}, "series": {}}
    for row in db.execute(LIST_NAMES):
        found[row["kind"]][row["id"]] = row["name"]
    home = db.execute("SELECT home_currency FROM household").fetchone()["home_currency"]
    return Names(found["categories"], found["accounts"], found["members"], found["series"], currency=home)


def write_categories(db: sqlite3.Connection, pairs: Iterable[tuple[int, int]]) -> None:
    """Files category lines: the category and the line's id of each."""
    db.executemany("UPDATE line SET category_id = ? WHERE id = ? AND account_id IS NULL", pairs)


def write_members(db: sqlite3.Connection, pairs: Iterable[tuple[int | None, int]]) -> None:
    """Says for whom category lines are: the member and the line's id of each."""
    db.executemany("UPDATE line SET member_id = ? WHERE id = ?", pairs)


def write_payees(db: sqlite3.Connection, pairs: Sequence[tuple[str, int]]) -> None:
    """Gives entries payees by name: the name and the entry's id of each."""
    ids = payees.put_payees(db, {name for name, _ in pairs})
    db.executemany("UPDATE entry SET payee_id = ? WHERE id = ?", [(ids[name.casefold()], entry_id) for name, entry_id in pairs])


def add_tags(db: sqlite3.Connection, pairs: Sequence[tuple[int, str]]) -> None:
    """Adds a tag to category lines: the line's id and the tag's name of each."""
    db.executemany("INSERT INTO tag (name) VALUES (?) ON CONFLICT DO NOTHING", {(name,) for _, name in pairs})
    sql = "INSERT INTO line_tag (line_id, tag_id) SELECT ?, id FROM tag WHERE name = ? ON CONFLICT DO NOTHING"
    db.executemany(sql, pairs)


def keep_out(db: sqlite3.Connection, entry_ids: Iterable[int]) -> None:
    """Keeps entries out of the answers."""
    sql = "INSERT INTO kept_out (id) SELECT value FROM json_each(:ids) WHERE value NOT IN (SELECT id FROM kept_out)"
    db.execute(sql, {"ids": json.dumps(list(entry_ids))})


def take_back_in(db: sqlite3.Connection, entry_ids: Iterable[int]) -> None:
    """Lets the answers count entries again."""
    db.execute("DELETE FROM kept_out WHERE id IN (SELECT value FROM json_each(:ids))", {"ids": json.dumps(list(entry_ids))})


def is_kept_out(db: sqlite3.Connection, entry_id: int) -> bool:
    return db.execute("SELECT 1 FROM kept_out WHERE id = :id", {"id": entry_id}).fetchone() is not None


ADD_NOTES = """
    UPDATE entry SET note = iif(note = '', :note, note || ' · ' || :note) WHERE id IN (SELECT value FROM json_each(:ids))"""


def add_notes(db: sqlite3.Connection, entry_ids: Iterable[int], note: str) -> None:
    """Adds a note to entries."""
    db.execute(ADD_NOTES, {"ids": json.dumps(list(entry_ids)), "note": note})


def forget_filings(db: sqlite3.Connection, entry_ids: Iterable[int]) -> None:
    """Forgets what filed entries: a person decides now."""
    db.execute("DELETE FROM filing WHERE id IN (SELECT value FROM json_each(:ids))", {"ids": json.dumps(list(entry_ids))})
