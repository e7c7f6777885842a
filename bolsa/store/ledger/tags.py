"""Tags, and the category lines that carry them."""

import json
import sqlite3
from collections.abc import Iterable

from bolsa.core.ledger.belongings import Tag


def list_tags(db: sqlite3.Connection) -> list[Tag]:
    """All tags by name, the retired ones last."""
    rows = db.execute("SELECT id, name, note, retired FROM tag ORDER BY retired, name")
    return [Tag(row["id"], row["name"], row["note"], bool(row["retired"])) for row in rows]


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
