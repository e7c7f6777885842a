"""Entries and their lines."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.ledger.belongings import Deleted
from bolsa.core.ledger.entries import Entry, Line, StoredEntry
from bolsa.errors import NotFound
from bolsa.store.connection import new_id, without_triggers
from bolsa.store.ledger import payees, tags

INSERT_ENTRY = """
    INSERT INTO entry (id, day, payee_id, memo, note, batch_id, origin) VALUES (?, ?, ?, ?, ?, ?, ?)"""
INSERT_LINE = """
    INSERT INTO line (id, entry_id, account_id, category_id, currency, amount_minor, day, state, bank_ref, value_day,
                      raw_text, statement_id, everyday, member_id)
    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"""
INDEX_WORDS = """
    INSERT INTO line_text (rowid, words) SELECT l.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || l.raw_text
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.id BETWEEN :first AND :last AND l.account_id IS NOT NULL"""
ADD_TO_ACCOUNTS = """
    INSERT INTO account_month (account_id, month, amount_minor)
    SELECT account_id, substr(day, 1, 7), sum(amount_minor) FROM line
    WHERE id BETWEEN :first AND :last AND account_id IS NOT NULL GROUP BY 1, 2
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor"""
ADD_TO_CATEGORIES = """
    INSERT INTO category_month (category_id, month, currency, report_minor, budget_minor)
    SELECT category_id, substr(day, 1, 7), currency, sum(iif(account_id IS NULL, amount_minor, 0)), sum(everyday * amount_minor)
    FROM line WHERE id BETWEEN :first AND :last AND category_id IS NOT NULL GROUP BY 1, 2, 3
    ON CONFLICT DO UPDATE SET report_minor = report_minor + excluded.report_minor,
                              budget_minor = budget_minor + excluded.budget_minor"""
ADD_TO_ANSWERS = """
    INSERT INTO answer_month (category_id, month, payee_id, member_id, account_id, currency, amount_minor)
    SELECT category_id, month, payee_id, member_id, account_id, currency, sum(amount_minor)
    FROM answer_line WHERE line_id BETWEEN :first AND :last GROUP BY 1, 2, 3, 4, 5, 6
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor"""
AT_INSERT = ("line_added", "answer_added", "answer_before_account_added", "answer_after_account_added")
MANY = 500  # entries from which on setting triggers aside pays
EVERYDAY_ACCOUNTS = "SELECT id FROM account WHERE everyday = 1"


def insert_entries(db: sqlite3.Connection, entries: list[Entry]) -> list[tuple[int, list[int]]]:
    """Writes balanced entries; gives each one's id and its lines' ids, in the order given.

    One or a hundred thousand: the same two statements run for all of them. What triggers do for each of a few lines, four
    statements do for many at once. It is part of the caller's transaction.
    """
    if not entries:
        return []
    payee_ids = payees.put_payees(db, (entry.payee for entry in entries))
    everyday_ids = {row["id"] for row in db.execute(EVERYDAY_ACCOUNTS)}
    entry_id, line_id = _last_id(db, "entry"), _last_id(db, "line")
    entry_rows, line_rows, tagged, made = [], [], [], []
    for entry in entries:
        entry_id += 1
        day = entry.day.isoformat()
        payee_id = payee_ids[entry.payee.casefold()]
        entry_rows.append((entry_id, day, payee_id, entry.memo, entry.note, entry.batch_id, entry.origin))
        everyday = _is_everyday(entry, everyday_ids)
        first_line = line_id + 1
        for line in entry.lines:
            line_id += 1
            line_rows.append(_line_row(line_id, entry_id, line, day, everyday))
            if line.tags:
                tagged.append((line_id, line.tags))
        made.append((entry_id, list(range(first_line, line_id + 1))))
    if len(entries) < MANY:
        db.executemany(INSERT_ENTRY, entry_rows)
        db.executemany(INSERT_LINE, line_rows)
    else:
        with without_triggers(db, AT_INSERT):
            db.executemany(INSERT_ENTRY, entry_rows)
            db.executemany(INSERT_LINE, line_rows)
        for afterwards in (INDEX_WORDS, ADD_TO_ACCOUNTS, ADD_TO_CATEGORIES, ADD_TO_ANSWERS):
            db.execute(afterwards, {"first": made[0][1][0], "last": line_id})
    for id_, names in tagged:
        tags.put_line_tags(db, id_, names)
    return made


def insert_entry(db: sqlite3.Connection, entry: Entry) -> int:
    return insert_entries(db, [entry])[0][0]


def _is_everyday(entry: Entry, everyday_ids: set[int]) -> int:
    """1 if any line touches an everyday account, else 0."""
    for line in entry.lines:  # no generator: a hundred thousand entries pass here
        if line.account_id in everyday_ids:
            return 1
    return 0


def _line_row(line_id: int | None, entry_id: int, line: Line, entry_day: str, everyday: int) -> tuple:
    state = (line.state or "pending") if line.account_id is not None else None
    return (
        line_id, entry_id, line.account_id, line.category_id, line.currency, line.amount_minor,
        line.day.isoformat() if line.day else entry_day, state, line.bank_ref,
        line.value_day.isoformat() if line.value_day else None, line.raw_text, line.statement_id, everyday,
        line.member_id,
    )  # fmt: skip


def _last_id(db: sqlite3.Connection, table: str) -> int:
    row = db.execute("SELECT seq FROM sqlite_sequence WHERE name = :name", {"name": table}).fetchone()
    return row["seq"] if row else 0


CHANGE_ENTRY = """
    UPDATE entry SET day = :day, payee_id = :payee_id, memo = :memo, note = :note WHERE id = :id"""
CHANGE_LINE = """
    UPDATE line SET account_id = ?, category_id = ?, currency = ?, amount_minor = ?, day = ?, state = ?, bank_ref = ?,
        value_day = ?, raw_text = ?, statement_id = ?, everyday = ?, member_id = ?
    WHERE id = ? AND entry_id = ?"""


def change_entry(db: sqlite3.Connection, entry: StoredEntry) -> None:
    """Writes an entry that is there: lines with an id are changed, those without are added, missing ones removed."""
    payee_id = payees.put_payees(db, [entry.payee])[entry.payee.casefold()]
    words = {"payee_id": payee_id, "memo": entry.memo, "note": entry.note}
    db.execute(CHANGE_ENTRY, {"id": entry.id, "day": entry.day.isoformat(), **words})
    everyday_ids = {row["id"] for row in db.execute(EVERYDAY_ACCOUNTS)}
    everyday = _is_everyday(entry, everyday_ids)
    kept = {"id": entry.id, "kept": json.dumps([line.id for line in entry.lines if line.id])}
    gone = "SELECT id FROM line WHERE entry_id = :id AND id NOT IN (SELECT value FROM json_each(:kept))"
    db.execute(f"DELETE FROM line_tag WHERE line_id IN ({gone})", kept)
    db.execute(f"DELETE FROM line WHERE id IN ({gone})", kept)
    for line in entry.lines:
        row = _line_row(line.id, entry.id, line, entry.day.isoformat(), everyday)
        if line.id:
            db.execute(CHANGE_LINE, (*row[2:], line.id, entry.id))
            tags.put_line_tags(db, line.id, line.tags)
        else:
            tags.put_line_tags(db, new_id(db.execute(INSERT_LINE, row)), line.tags)


def change_batch(db: sqlite3.Connection, entry_id: int, batch_id: int | None) -> None:
    """Says which batch an entry came with."""
    db.execute("UPDATE entry SET batch_id = :batch_id WHERE id = :id", {"id": entry_id, "batch_id": batch_id})


REMOVE_TAGS = "DELETE FROM line_tag WHERE line_id IN (SELECT id FROM line WHERE entry_id = :id)"


def remove_entry(db: sqlite3.Connection, entry_id: int) -> None:
    """Takes the entry, its lines and what hangs on them out of the ledger."""
    db.execute(REMOVE_TAGS, {"id": entry_id})
    db.execute("DELETE FROM attachment WHERE entry_id = :id", {"id": entry_id})
    db.execute("DELETE FROM line WHERE entry_id = :id", {"id": entry_id})
    db.execute("DELETE FROM entry WHERE id = :id", {"id": entry_id})


def move_line(db: sqlite3.Connection, line_id: int, entry_id: int) -> None:
    """Makes a line part of another entry; the caller sees to it that both balance in the end."""
    db.execute("UPDATE line SET entry_id = :entry_id WHERE id = :id", {"id": line_id, "entry_id": entry_id})


SELECT_ENTRIES = """
    SELECT e.id, e.day, e.payee_id, p.name AS payee, e.memo, e.note, e.batch_id, e.origin
    FROM entry e JOIN payee p ON p.id = e.payee_id WHERE e.id IN (SELECT value FROM json_each(:ids))"""
SELECT_LINES = """
    SELECT id, entry_id, account_id, category_id, currency, amount_minor, day, state, bank_ref, value_day, raw_text,
           statement_id, member_id,
           (SELECT group_concat(t.name, char(31)) FROM line_tag x JOIN tag t ON t.id = x.tag_id WHERE x.line_id = line.id) AS tags
    FROM line WHERE entry_id IN (SELECT value FROM json_each(:ids)) ORDER BY entry_id, account_id IS NULL, id"""


def list_entries(db: sqlite3.Connection, entry_ids: Iterable[int]) -> list[StoredEntry]:
    """The entries with these ids, whole, in the order of the ids; ids that are not there are left out."""
    ids = list(entry_ids)
    values = {"ids": json.dumps(ids)}
    lines: dict[int, list[Line]] = {}
    for row in db.execute(SELECT_LINES, values):
        lines.setdefault(row["entry_id"], []).append(_line(row))
    found = {}
    for row in db.execute(SELECT_ENTRIES, values):
        day = date.fromisoformat(row["day"])
        found[row["id"]] = StoredEntry(**{**dict(row), "day": day}, lines=tuple(lines.get(row["id"], ())))
    return [found[i] for i in ids if i in found]


def get_entry(db: sqlite3.Connection, entry_id: int) -> StoredEntry:
    found = list_entries(db, [entry_id])
    if not found:
        raise NotFound("That entry is not here; perhaps it is in the trash.")
    return found[0]


def list_there(db: sqlite3.Connection, entry_ids: Iterable[int]) -> set[int]:
    """Those of these entries that are here."""
    rows = db.execute(
        "SELECT id FROM entry WHERE id IN (SELECT value FROM json_each(:ids))", {"ids": json.dumps(list(entry_ids))}
    )
    return {row["id"] for row in rows}


LIST_LAST_SORTED = """
    SELECT e.id FROM entry e WHERE e.payee_id = :payee_id AND EXISTS (
        SELECT 1 FROM line l WHERE l.entry_id = e.id AND l.account_id IS NOT NULL AND l.currency = :currency)
        AND (SELECT count(*) FROM line l WHERE l.entry_id = e.id AND l.account_id IS NOT NULL) = 1
        AND NOT EXISTS (SELECT 1 FROM line c JOIN category k ON k.id = c.category_id
                        WHERE c.entry_id = e.id AND k.role IS NOT NULL)
    ORDER BY e.day DESC, e.id DESC LIMIT :most"""


def find_last_sorted(db: sqlite3.Connection, payee_id: int, currency: str) -> int | None:
    """The payee's latest entry on one account in the currency that has its categories; None if there is none."""
    return next(iter(list_last_sorted(db, payee_id, currency, 1)), None)


def list_last_sorted(db: sqlite3.Connection, payee_id: int, currency: str, most: int) -> list[int]:
    """The payee's latest entries on one account in the currency that have their categories."""
    rows = db.execute(LIST_LAST_SORTED, {"payee_id": payee_id, "currency": currency, "most": most})
    return [row["id"] for row in rows]


def _line(row: sqlite3.Row) -> Line:
    values = {name: row[name] for name in row.keys() if name != "entry_id"}  # noqa: SIM118 (Row iterates over values)
    value_day = date.fromisoformat(row["value_day"]) if row["value_day"] else None
    named = tuple(sorted(row["tags"].split("\x1f"))) if row["tags"] else ()
    return Line(**{**values, "day": date.fromisoformat(row["day"]), "value_day": value_day, "tags": named})


SELECT_LINE_ENTRY = "SELECT entry_id FROM line WHERE id = :id"


def get_entry_of_line(db: sqlite3.Connection, line_id: int) -> StoredEntry:
    row = db.execute(SELECT_LINE_ENTRY, {"id": line_id}).fetchone()
    if row is None:
        raise NotFound("That line is not here any more.")
    return get_entry(db, row["entry_id"])


CHANGE_LINE_STATE = "UPDATE line SET state = :state, statement_id = :statement_id WHERE id = :id"


def change_line_state(db: sqlite3.Connection, line_id: int, state: str, statement_id: int | None = None) -> None:
    db.execute(CHANGE_LINE_STATE, {"id": line_id, "state": state, "statement_id": statement_id})


def change_line_day(db: sqlite3.Connection, line_id: int, day: date) -> None:
    """Sets the day a line counts on its account; the entry's own day stays."""
    db.execute("UPDATE line SET day = :day WHERE id = :id", {"id": line_id, "day": day.isoformat()})


SNAPSHOT = """
    SELECT json_object('entry', json_object('id', e.id, 'day', e.day, 'payee_id', e.payee_id, 'memo', e.memo,
                                            'note', e.note, 'batch_id', e.batch_id, 'origin', e.origin),
        'line', (SELECT json_group_array(json_object('id', l.id, 'entry_id', l.entry_id, 'account_id', l.account_id,
            'category_id', l.category_id, 'currency', l.currency, 'amount_minor', l.amount_minor, 'day', l.day,
            'state', l.state, 'bank_ref', l.bank_ref, 'value_day', l.value_day, 'raw_text', l.raw_text,
            'statement_id', l.statement_id, 'everyday', l.everyday, 'member_id', l.member_id))
            FROM line l WHERE l.entry_id = e.id),
        'line_tag', (SELECT json_group_array(json_object('id', t.id, 'line_id', t.line_id, 'tag_id', t.tag_id))
            FROM line l JOIN line_tag t ON t.line_id = l.id WHERE l.entry_id = e.id),
        'attachment', (SELECT json_group_array(json_object('id', a.id, 'entry_id', a.entry_id, 'name', a.name, 'media_type',
            a.media_type, 'bytes', a.bytes, 'sha256', a.sha256, 'added_at', a.added_at))
            FROM attachment a WHERE a.entry_id = e.id),
        'kept_out', (SELECT json_group_array(json_object('id', k.id)) FROM kept_out k WHERE k.id = e.id),
        'question', (SELECT json_group_array(json_object('id', q.id, 'entry_id', q.entry_id, 'member_id', q.member_id,
            'asked_by', q.asked_by, 'asked_on', q.asked_on, 'note', q.note, 'answered_on', q.answered_on, 'answer', q.answer))
            FROM question q WHERE q.entry_id = e.id))
    FROM entry e WHERE e.id = :id"""
SNAPSHOT_TABLES = ("line", "line_tag", "attachment", "kept_out", "question")
INSERT_TRASH = """
    INSERT INTO trash (entry_id, deleted_at, title, snapshot) VALUES (:entry_id, :at, :title, :snapshot)"""


def snapshot_of(db: sqlite3.Connection, entry_id: int) -> str:
    """An entry's row and all that hangs on it, as JSON."""
    return db.execute(SNAPSHOT, {"id": entry_id}).fetchone()[0]


def move_to_trash(db: sqlite3.Connection, entry_id: int, title: str, at: str) -> int:
    """Takes the entry out of the ledger and keeps it whole in the trash; gives the trash's id of it."""
    values = {"entry_id": entry_id, "at": at, "title": title, "snapshot": snapshot_of(db, entry_id)}
    trash_id = new_id(db.execute(INSERT_TRASH, values))
    remove_entry(db, entry_id)
    return trash_id


def restore_from_trash(db: sqlite3.Connection, trash_id: int) -> int:
    """Puts a deleted entry back as it was; gives its id."""
    row = db.execute("SELECT entry_id, snapshot FROM trash WHERE id = :id", {"id": trash_id}).fetchone()
    if row is None:
        raise NotFound("That is not in the trash any more.")
    insert_snapshot(db, json.loads(row["snapshot"]))
    db.execute("DELETE FROM trash WHERE id = :id", {"id": trash_id})
    return row["entry_id"]


def insert_snapshot(db: sqlite3.Connection, snapshot: dict) -> None:
    """Puts an entry back as a snapshot holds it."""
    snapshot.setdefault("line", snapshot.pop("lines", []))  # as a snapshot of the first schema calls them
    everyday_ids = {r["id"] for r in db.execute(EVERYDAY_ACCOUNTS)}  # accounts may have been turned while it lay there
    everyday = int(any(image["account_id"] in everyday_ids for image in snapshot["line"]))
    snapshot["line"] = [image | {"everyday": everyday} for image in snapshot["line"]]
    kept = {r["sha256"] for r in db.execute("SELECT sha256 FROM attachment_file")} if snapshot.get("attachment") else set()
    snapshot["attachment"] = [image for image in snapshot.get("attachment", ()) if image["sha256"] in kept]
    images = [("entry", snapshot["entry"])] + [(t, image) for t in SNAPSHOT_TABLES for image in snapshot.get(t, ())]
    for table, image in images:
        names = ", ".join(image)
        db.execute(f"INSERT INTO {table} ({names}) VALUES ({', '.join(':' + name for name in image)})", image)


def is_in_trash(db: sqlite3.Connection, trash_id: int) -> bool:
    return db.execute("SELECT 1 FROM trash WHERE id = :id", {"id": trash_id}).fetchone() is not None


def list_trash(db: sqlite3.Connection) -> list[Deleted]:
    """What is in the trash, the latest first."""
    sql = "SELECT id, entry_id, deleted_at, title FROM trash ORDER BY id DESC"
    return [Deleted(**row) for row in db.execute(sql)]


FIND_TRASH_OF_LINE = """
    SELECT t.id FROM trash t, json_each(t.snapshot, '$.line') l WHERE json_extract(l.value, '$.id') = :line_id"""


def find_trash_of_line(db: sqlite3.Connection, line_id: int) -> int | None:
    """The trash's id of the deleted entry a line belonged to, None if it is not there."""
    row = db.execute(FIND_TRASH_OF_LINE, {"line_id": line_id}).fetchone()
    return row["id"] if row else None


def empty_trash(db: sqlite3.Connection) -> int:
    """Removes for good what is in the trash; gives how many entries that were."""
    return db.execute("DELETE FROM trash").rowcount
