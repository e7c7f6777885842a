"""Payees by their tidied names."""

import json
import sqlite3
from collections.abc import Iterable

from bolsa.core.ledger.belongings import Payee
from bolsa.core.ledger.payees import tidy_payee
from bolsa.errors import NotFound

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


RAW_NAMES = """
    SELECT DISTINCT e.payee_id, l.raw_text FROM line l JOIN entry e ON e.id = l.entry_id
    WHERE l.raw_text <> '' AND e.batch_id IS NOT NULL"""


def list_every_name(db: sqlite3.Connection) -> list[tuple[int, str]]:
    """Every payee with what it is called, and with what banks call it, tidied, once each."""
    found = {(id_, name): None for name, id_ in list_payee_names(db).items()}
    found |= {(row["payee_id"], tidy_payee(row["raw_text"])): None for row in db.execute(RAW_NAMES)}
    return list(found)


def list_payees(db: sqlite3.Connection) -> list[Payee]:
    """Every payee, in the order in which they came."""
    rows = db.execute("SELECT id, name, category_id, apart FROM payee ORDER BY id")
    return [Payee(row["id"], row["name"], row["category_id"], bool(row["apart"])) for row in rows]


def get_payee(db: sqlite3.Connection, payee_id: int) -> Payee:
    """The payee. Raises: NotFound."""
    row = db.execute("SELECT id, name, category_id, apart FROM payee WHERE id = :id", {"id": payee_id}).fetchone()
    if row is None:
        raise NotFound("There is no such payee any more.")
    return Payee(row["id"], row["name"], row["category_id"], bool(row["apart"]))


def find_payee_named(db: sqlite3.Connection, name: str) -> int | None:
    """The id of the payee of that name; None if there is none."""
    row = db.execute("SELECT id FROM payee WHERE name = :name COLLATE NOCASE", {"name": name}).fetchone()
    return row["id"] if row else None


def tidy_of(raw_text: str) -> str:
    """A payee's name from what its bank sent."""
    return tidy_payee(raw_text)


def set_apart(db: sqlite3.Connection, payee_id: int, *, apart: bool) -> None:
    db.execute("UPDATE payee SET apart = :apart WHERE id = :id", {"id": payee_id, "apart": int(apart)})


def set_usual(db: sqlite3.Connection, payee_id: int, category_id: int | None) -> None:
    """Says where the payee's entries usually go."""
    db.execute("UPDATE payee SET category_id = :category_id WHERE id = :id", {"id": payee_id, "category_id": category_id})


def rename_payee(db: sqlite3.Connection, payee_id: int, name: str) -> None:
    db.execute("UPDATE payee SET name = :name WHERE id = :id", {"id": payee_id, "name": name})


REFUSED_OF_ACCOUNTS = """
    DELETE FROM series_refused WHERE payee_id = :other AND account_id IN (
        SELECT account_id FROM series_refused WHERE payee_id = :kept)"""


def merge_payee(db: sqlite3.Connection, kept_id: int, other_id: int) -> None:
    """Gives everything of one payee to another, and takes it out."""
    ids = {"kept": kept_id, "other": other_id}
    db.execute("UPDATE entry SET payee_id = :kept WHERE payee_id = :other", ids)
    db.execute("UPDATE series SET payee_id = :kept WHERE payee_id = :other", ids)
    db.execute(REFUSED_OF_ACCOUNTS, ids)
    db.execute("UPDATE series_refused SET payee_id = :kept WHERE payee_id = :other", ids)
    db.execute("DELETE FROM proposal_refused WHERE kind = 'payees' AND :other IN (one, other)", ids)
    db.execute("DELETE FROM payee WHERE id = :other", ids)


PUT_REFUSED = """
    INSERT INTO proposal_refused (kind, one, other) VALUES (:kind, min(:one, :other), max(:one, :other)) ON CONFLICT DO NOTHING"""


def put_refused(db: sqlite3.Connection, kind: str, pairs: Iterable[tuple[int, int]]) -> None:
    """Notes pairs of ids that are not to be proposed again."""
    db.executemany(PUT_REFUSED, [{"kind": kind, "one": one, "other": other} for one, other in pairs])


def list_refused(db: sqlite3.Connection, kind: str) -> set[tuple[int, int]]:
    """The pairs of ids that are not to be proposed again, the smaller id first."""
    rows = db.execute("SELECT one, other FROM proposal_refused WHERE kind = :kind", {"kind": kind})
    return {(row["one"], row["other"]) for row in rows}
