"""The JSON Schema of whole.json, made from the schema of the file itself: `make schema` writes docs/whole.schema.json."""

import sqlite3
from typing import Any

from bolsa.core.house.kept import KeptColumn
from bolsa.store.house import whole

_TYPES = {"INTEGER": "integer", "TEXT": "string", "REAL": "number", "BLOB": "string"}


def schema_of(db: sqlite3.Connection) -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of what a household of this schema is written out as."""
    version = db.execute("PRAGMA user_version").fetchone()[0]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Bolsa household, whole",
        "description": (
            "What “bolsa export” writes as whole.json, and “bolsa init --from” brings in: the rows of every table that others do"
            " not follow from. Amounts (_minor) are whole minor units of the row's currency, or of the home currency where it"
            " names none; shares, prices and rates (_e8) are times 1e8; days are ISO 8601, moments UTC; bytes are base64."
        ),
        "type": "object",
        "required": ["bolsa", "highest_ids", "tables"],
        "additionalProperties": False,
        "properties": {
            "bolsa": _object({"schema": {"const": version}}),
            "highest_ids": {"type": "object", "additionalProperties": {"type": "integer", "minimum": 0}},
            "tables": _object({table: _table(db, table) for table in whole.WHOLE}),
        },
    }


def _object(properties: dict[str, Any]) -> dict[str, Any]:
    """An object with just these properties, all of them."""
    return {"type": "object", "required": list(properties), "additionalProperties": False, "properties": properties}


def _table(db: sqlite3.Connection, table: str) -> dict[str, Any]:
    columns = whole.list_columns(db, table)
    row = _object({column.name: _column(column) for column in columns})
    words = whole.words_of_table(db, table)
    return {"type": "array", "items": row} | ({"description": words} if words else {})


def _column(column: KeptColumn) -> dict[str, Any]:
    kind = _TYPES[column.type]
    told: dict[str, Any] = {"type": [kind, "null"] if column.may_be_empty else kind}
    if column.type == "BLOB":
        told["contentEncoding"] = "base64"
    return told | ({"description": column.words} if column.words else {})
