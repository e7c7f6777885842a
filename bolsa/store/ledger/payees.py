"""Payees by their tidied names."""

import json
import sqlite3
from collections.abc import Iterable

LIST_BY_NAMES = """
    SELECT payee.id, payee.name FROM json_each(:names) n JOIN payee ON payee.name = n.value COLLATE NOCASE"""


def put_payees(db: sqlite3.Connection, names: Iterable[str]) -> dict[str, int]:
    """The id of each payee by its name as given; payees not known yet are made."""
    wanted = {name.casefold(): name for name in names}
    known = _ids(db, wanted.values())
    db.executemany(
        "INSERT INTO payee (name) VALUES (:name) ON CONFLICT DO NOTHING",
        [{"name": name} for key, name in wanted.items() if key not in known],
    )
    return _ids(db, wanted.values())


def _ids(db: sqlite3.Connection, names: Iterable[str]) -> dict[str, int]:
    rows = db.execute(LIST_BY_NAMES, {"names": json.dumps(list(names))})
    return {row["name"].casefold(): row["id"] for row in rows}


LIST_USUAL = """
    SELECT p.name FROM payee p JOIN (
        SELECT payee_id, count(*) AS times FROM (SELECT payee_id FROM entry ORDER BY id DESC LIMIT 2000) GROUP BY payee_id
    ) recent ON recent.payee_id = p.id ORDER BY recent.times DESC, p.name"""


def list_usual_payees(db: sqlite3.Connection) -> list[str]:
    """The payees of the latest entries, the most frequent first."""
    return [row["name"] for row in db.execute(LIST_USUAL)]


def list_payee_names(db: sqlite3.Connection) -> dict[str, int]:
    """Every payee's id by its name."""
    return {row["name"]: row["id"] for row in db.execute("SELECT id, name FROM payee ORDER BY id")}
