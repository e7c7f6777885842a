"""Batches: the bringings-in as such, what each still asks, the accounts and the file it came with, and how CSV files are read."""

import json
import sqlite3
from dataclasses import asdict
from datetime import date

from bolsa.core.bringing.batch import Batch, BatchAccount, BatchCount
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

BATCH_COLUMNS = "id, source, name, sha256, state, made_at, brought_at, account_id, mapping, warnings, problem, asks"

INSERT_BATCH = """
    INSERT INTO batch (source, name, sha256, state, made_at, account_id, format)
    VALUES (:source, :name, :sha256, 'waiting', :at, :account_id, :format)"""


def insert_batch(
    db: sqlite3.Connection,
    source: str,
    name: str,
    at: str,
    *,
    format_: str = "ofx",
    sha256: str = "",
    account_id: int | None = None,
) -> int:
    values = {"source": source, "name": name, "sha256": sha256, "at": at, "account_id": account_id}
    return new_id(db.execute(INSERT_BATCH, values | {"format": format_}))


def get_batch(db: sqlite3.Connection, batch_id: int) -> Batch:
    row = db.execute(f"SELECT {BATCH_COLUMNS} FROM batch WHERE id = :id", {"id": batch_id}).fetchone()
    if row is None:
        raise NotFound("That bringing-in is not here any more.")
    return _batch(row)


def _batch(row: sqlite3.Row) -> Batch:
    return Batch(**{**dict(row), "warnings": tuple(json.loads(row["warnings"]))})


FIND_OF = """
    SELECT sha256, id, state FROM batch WHERE sha256 IN (SELECT value FROM json_each(:digests))
    ORDER BY state = 'undone' DESC, id"""


def find_batches_of(db: sqlite3.Connection, digests: list[str]) -> dict[str, tuple[int, str]]:
    """By a file's hash: the id and the state of the batch it became, one that was taken out only where there is no other."""
    return {row["sha256"]: (row["id"], row["state"]) for row in db.execute(FIND_OF, {"digests": json.dumps(digests)})}


def get_format(db: sqlite3.Connection, batch_id: int) -> str:
    """The format a batch's rows were read from."""
    return db.execute("SELECT format FROM batch WHERE id = :id", {"id": batch_id}).fetchone()["format"]


def list_batches(db: sqlite3.Connection, state: str, most: int = 20) -> list[Batch]:
    """The latest batches in a state, newest first."""
    sql = f"SELECT {BATCH_COLUMNS} FROM batch WHERE state = :state ORDER BY id DESC LIMIT :most"
    return [_batch(row) for row in db.execute(sql, {"state": state, "most": most})]


def find_waiting_download(db: sqlite3.Connection, institution: str) -> int | None:
    """The id of the batch an institution sent that is still in preview."""
    sql = "SELECT max(id) FROM batch WHERE state = 'waiting' AND source = 'connection' AND name = :name"
    return db.execute(sql, {"name": institution}).fetchone()[0]


LIST_HISTORY = f"""
    SELECT {BATCH_COLUMNS}, format FROM batch WHERE state IN ('brought', 'undone') ORDER BY id DESC LIMIT :most"""

COUNT_HISTORY = """
    SELECT r.batch_id, sum(r.take = 1 AND r.verdict IN ('new', 'suspicious')) AS new,
        sum(r.take = 1 AND r.verdict IN ('matched', 'changed', 'vanished')) AS matched, sum(r.take = 0) AS known,
        group_concat(DISTINCT a.name) AS accounts
    FROM brought_row r JOIN account a ON a.id = r.account_id
    WHERE r.batch_id IN (SELECT value FROM json_each(:ids)) GROUP BY r.batch_id"""

COUNT_SHARES = """
    SELECT batch_id, sum(is_move) AS moves, group_concat(DISTINCT a.name) AS accounts FROM (
        SELECT batch_id, account_id, 1 AS is_move FROM trade WHERE batch_id IN (SELECT value FROM json_each(:ids))
        UNION ALL SELECT batch_id, account_id, 0 FROM position_note WHERE batch_id IN (SELECT value FROM json_each(:ids))) s
    JOIN account a ON a.id = s.account_id GROUP BY batch_id"""


def list_history(db: sqlite3.Connection, most: int = 40) -> list[BatchCount]:
    """The batches that were brought in or taken out again, newest first, with what each brought."""
    found = {row["id"]: row for row in db.execute(LIST_HISTORY, {"most": most})}
    counts = {row["batch_id"]: row for row in db.execute(COUNT_HISTORY, {"ids": json.dumps(list(found))})}
    shares = {row["batch_id"]: row for row in db.execute(COUNT_SHARES, {"ids": json.dumps(list(found))})}
    listed = []
    for id_, row in found.items():
        words = {name: row[name] for name in row.keys() if name != "format"}  # noqa: SIM118 (Row iterates over values)
        batch = Batch(**{**words, "warnings": tuple(json.loads(row["warnings"]))})
        c = counts.get(id_)
        new, matched, here = (c["new"], c["matched"], c["known"]) if c else (0, 0, 0)
        held = [part["accounts"] for part in (c, shares.get(id_)) if part and part["accounts"]]
        names = ", ".join(dict.fromkeys(",".join(held).split(",")))
        moves = shares[id_]["moves"] if id_ in shares else 0
        listed.append(BatchCount(batch, row["format"], new, matched, here, names, moves))
    return listed


LIST_DECLARED = "SELECT DISTINCT account_id FROM bank_balance WHERE batch_id = :id ORDER BY account_id"


def list_declared_accounts(db: sqlite3.Connection, batch_id: int) -> list[int]:
    """The accounts whose balance a batch declares."""
    return [row["account_id"] for row in db.execute(LIST_DECLARED, {"id": batch_id})]


LIST_DECLARED_BALANCES = """
    SELECT day, amount_minor FROM bank_balance WHERE batch_id = :id AND account_id = :account_id ORDER BY day, id"""


def list_declared_balances(db: sqlite3.Connection, batch_id: int, account_id: int) -> list[tuple[date, int]]:
    """The balances a batch declares for an account at the end of days, in order: the opening one, where it does, to the closing
    one."""
    rows = db.execute(LIST_DECLARED_BALANCES, {"id": batch_id, "account_id": account_id})
    return [(date.fromisoformat(row["day"]), row["amount_minor"]) for row in rows]


def change_batch_state(db: sqlite3.Connection, batch_id: int, state: str, at: str | None = None) -> None:
    sql = "UPDATE batch SET state = :state, brought_at = coalesce(:at, brought_at) WHERE id = :id"
    db.execute(sql, {"id": batch_id, "state": state, "at": at})


def put_mapping_of_batch(db: sqlite3.Connection, batch_id: int, mapping: str, account_id: int | None) -> None:
    """Notes how a waiting CSV is read, and the account it goes to."""
    sql = "UPDATE batch SET mapping = :mapping, account_id = :account_id WHERE id = :id"
    db.execute(sql, {"id": batch_id, "mapping": mapping, "account_id": account_id})


def put_question(db: sqlite3.Connection, batch_id: int, asks: str, problem: str) -> None:
    """Notes what a waiting file still asks, "" if nothing, and why."""
    db.execute(
        "UPDATE batch SET asks = :asks, problem = :problem WHERE id = :id", {"id": batch_id, "asks": asks, "problem": problem}
    )


INSERT_BATCH_ACCOUNT = """
    INSERT INTO batch_account (batch_id, number, kind, currency, rows, first_day, account_id)
    VALUES (:batch_id, :number, :kind, :currency, :rows, :first_day, :account_id)"""


def put_batch_accounts(db: sqlite3.Connection, batch_id: int, found: list[BatchAccount]) -> None:
    """Keeps the accounts a file speaks of in place of those kept before."""
    db.execute("DELETE FROM batch_account WHERE batch_id = :id", {"id": batch_id})
    for one in found:
        first_day = one.first_day.isoformat() if one.first_day else None
        db.execute(INSERT_BATCH_ACCOUNT, {**asdict(one), "batch_id": batch_id, "first_day": first_day})


LIST_BATCH_ACCOUNTS = """
    SELECT number, kind, currency, rows, first_day, account_id FROM batch_account WHERE batch_id = :id ORDER BY id"""


def list_batch_accounts(db: sqlite3.Connection, batch_id: int) -> list[BatchAccount]:
    """The accounts a batch's file speaks of, in its order."""
    return [
        BatchAccount(**{**row, "first_day": date.fromisoformat(row["first_day"]) if row["first_day"] else None})
        for row in map(dict, db.execute(LIST_BATCH_ACCOUNTS, {"id": batch_id}))
    ]


def put_warnings(db: sqlite3.Connection, batch_id: int, warnings: list[str]) -> None:
    """Keeps the sentences about what was odd in a batch's file."""
    values = {"id": batch_id, "warnings": json.dumps(warnings, ensure_ascii=False)}
    db.execute("UPDATE batch SET warnings = :warnings WHERE id = :id", values)


BROUGHT_SINCE = """
    SELECT 1 FROM batch WHERE state = 'brought' AND id <> :id
    AND brought_at >= (SELECT made_at FROM batch WHERE id = :id) LIMIT 1"""


def is_overtaken(db: sqlite3.Connection, batch_id: int) -> bool:
    """Whether another batch was brought in since this one was put into preview."""
    return db.execute(BROUGHT_SINCE, {"id": batch_id}).fetchone() is not None


def remove_batch(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a batch and its rows."""
    db.execute("DELETE FROM batch WHERE id = :id", {"id": batch_id})


def put_upload(db: sqlite3.Connection, batch_id: int, content: bytes) -> None:
    db.execute("INSERT INTO upload (batch_id, content) VALUES (:id, :content)", {"id": batch_id, "content": content})


def find_upload(db: sqlite3.Connection, batch_id: int) -> bytes | None:
    """A batch's file, None if it is not kept."""
    row = db.execute("SELECT content FROM upload WHERE batch_id = :id", {"id": batch_id}).fetchone()
    return row["content"] if row else None


def get_upload(db: sqlite3.Connection, batch_id: int) -> bytes:
    content = find_upload(db, batch_id)
    if content is None:
        raise NotFound("The file is not kept any more. Choose it again.")
    return content


def remove_upload(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a batch's file."""
    db.execute("DELETE FROM upload WHERE batch_id = :id", {"id": batch_id})


def remove_bank_balances(db: sqlite3.Connection, batch_id: int) -> None:
    db.execute("DELETE FROM bank_balance WHERE batch_id = :id", {"id": batch_id})


def find_mapping(db: sqlite3.Connection, shape: str) -> str | None:
    row = db.execute("SELECT mapping FROM csv_mapping WHERE shape = :shape", {"shape": shape}).fetchone()
    return row["mapping"] if row else None


PUT_MAPPING = """
    INSERT INTO csv_mapping (shape, mapping) VALUES (:shape, :mapping)
    ON CONFLICT DO UPDATE SET mapping = excluded.mapping"""


def put_mapping(db: sqlite3.Connection, shape: str, mapping: str) -> None:
    """Remembers how a CSV of this shape is read."""
    db.execute(PUT_MAPPING, {"shape": shape, "mapping": mapping})
