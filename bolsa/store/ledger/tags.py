"""Tags, and the category lines that carry them."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.ledger.belongings import Tag
from bolsa.errors import NotFound


def list_tags(db: sqlite3.Connection) -> list[Tag]:
    """All tags by name, the retired ones last."""
    rows = db.execute("SELECT id, name, note, retired, tax_line, tax_copy FROM tag ORDER BY retired, name")
    return [Tag(**{**dict(row), "retired": bool(row["retired"])}) for row in rows]


def get_tag(db: sqlite3.Connection, tag_id: int) -> Tag:
    """The tag. Raises: NotFound."""
    found = next((tag for tag in list_tags(db) if tag.id == tag_id), None)
    if found is None:
        raise NotFound("There is no such tag any more.")
    return found


COUNT_USE = """
    SELECT t.tag_id, count(*) AS lines, max(l.day) AS last FROM line_tag t JOIN line l ON l.id = t.line_id GROUP BY t.tag_id"""


def count_use(db: sqlite3.Connection) -> dict[int, tuple[int, date]]:
    """By tag: how many lines carry it, and the last day of one."""
    return {row["tag_id"]: (row["lines"], date.fromisoformat(row["last"])) for row in db.execute(COUNT_USE)}


CHANGE_TAG = """
    UPDATE tag SET name = :name, note = :note, retired = :retired, tax_line = :tax_line, tax_copy = :tax_copy WHERE id = :id"""


def change_tag(db: sqlite3.Connection, tag: Tag) -> None:
    db.execute(CHANGE_TAG, {**tag.__dict__, "retired": int(tag.retired)})


def merge_tag(db: sqlite3.Connection, kept_id: int, other_id: int) -> None:
    """Gives all that carries one tag another, and takes it out."""
    ids = {"kept": kept_id, "other": other_id}
    both = "SELECT line_id FROM line_tag WHERE tag_id = :kept"
    db.execute(f"DELETE FROM line_tag WHERE tag_id = :other AND line_id IN ({both})", ids)
    db.execute("UPDATE line_tag SET tag_id = :kept WHERE tag_id = :other", ids)
    db.execute("UPDATE rule_action SET tag_id = :kept WHERE tag_id = :other", ids)
    db.execute("DELETE FROM tag WHERE id = :other", ids)


RULES_WITHOUT = """
    DELETE FROM rule WHERE id IN (SELECT rule_id FROM rule_action WHERE tag_id = :id)
        AND NOT EXISTS (SELECT 1 FROM rule_action o WHERE o.rule_id = rule.id AND o.tag_id IS NOT :id)"""


def remove_tag(db: sqlite3.Connection, tag_id: int) -> None:
    """Takes a tag off everything; a rule that does nothing else goes with it."""
    db.execute(RULES_WITHOUT, {"id": tag_id})
    db.execute("DELETE FROM rule_action WHERE tag_id = :id", {"id": tag_id})
    db.execute("DELETE FROM line_tag WHERE tag_id = :id", {"id": tag_id})
    db.execute("DELETE FROM tag WHERE id = :id", {"id": tag_id})


PUT_TAGS = "INSERT INTO tag (name) SELECT value FROM json_each(:names) WHERE true ON CONFLICT DO NOTHING"
REMOVE_OTHERS = """
    DELETE FROM line_tag WHERE line_id = :line_id AND tag_id NOT IN (
        SELECT id FROM tag WHERE name IN (SELECT value FROM json_each(:names)))"""
PUT_LINE_TAGS = """
    INSERT INTO line_tag (line_id, tag_id)
    SELECT :line_id, t.id FROM json_each(:names) n JOIN tag t ON t.name = n.value WHERE true ON CONFLICT DO NOTHING"""


def put_line_tags(db: sqlite3.Connection, line_id: int, names: Iterable[str]) -> None:
    """Gives a line these tags and no others; names that are new become tags."""
    values = {"line_id": line_id, "names": json.dumps(sorted(set(names)))}
    db.execute(REMOVE_OTHERS, values)
    if values["names"] != "[]":
        db.execute(PUT_TAGS, values)
        db.execute(PUT_LINE_TAGS, values)
