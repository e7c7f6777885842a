"""The lines that brought rows may be, are merged into, and are parted from; and taking a batch's entries out again."""

import json
import sqlite3
from datetime import date, timedelta

from bolsa.core.bringing.batch import Candidate, StoredRow
from bolsa.core.bringing.bookings import OpenLine

# What follows from something else keeps its amount: what led to a noted value, the cash of a trade, an opening balance.
FOLLOWS = """(EXISTS (SELECT 1 FROM entry f WHERE f.id = l.entry_id AND f.origin = 'value')
        OR EXISTS (SELECT 1 FROM trade t WHERE t.entry_id = l.entry_id)
        OR EXISTS (SELECT 1 FROM known_balance k WHERE k.entry_id = l.entry_id))"""
LIST_CANDIDATES = f"""
    SELECT l.id AS line_id, l.day, l.amount_minor, p.name AS payee
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.day BETWEEN :first AND :last
        AND (l.amount_minor = :amount OR (l.state <> 'reconciled' AND NOT {FOLLOWS}))
        AND NOT EXISTS (SELECT 1 FROM brought_row r JOIN batch b ON b.id = r.batch_id AND b.state = 'brought'
                        WHERE r.line_id = l.id AND r.pending = 0)
    ORDER BY abs(l.amount_minor - :amount), abs(julianday(l.day) - julianday(:day)) LIMIT 8"""


def list_candidates(db: sqlite3.Connection, row: StoredRow) -> list[Candidate]:
    """The lines near a row that no booked row has claimed, the likeliest first."""
    days = {"first": (row.day - timedelta(days=31)).isoformat(), "last": (row.day + timedelta(days=31)).isoformat()}
    values = days | {"account_id": row.account_id, "amount": row.amount_minor, "day": row.day.isoformat()}
    return [Candidate(**{**dict(r), "day": date.fromisoformat(r["day"])}) for r in db.execute(LIST_CANDIDATES, values)]


def find_line_state(db: sqlite3.Connection, line_id: int) -> str | None:
    """The state of a line, None if it is not there any more."""
    row = db.execute("SELECT state FROM line WHERE id = :id", {"id": line_id}).fetchone()
    return row["state"] if row else None


LIST_OPEN_LINES = """
    SELECT l.id AS line_id, l.day, l.amount_minor, p.name AS payee,
        EXISTS (SELECT 1 FROM line o WHERE o.entry_id = e.id AND o.account_id <> l.account_id) AS is_far_side
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.day BETWEEN :first AND :last
        AND NOT EXISTS (SELECT 1 FROM brought_row r JOIN batch b ON b.id = r.batch_id
                        WHERE r.line_id = l.id AND (b.state <> 'undone' OR r.line_before IS NULL))
        AND NOT EXISTS (SELECT 1 FROM line o WHERE o.entry_id = e.id AND o.category_id = 2)"""


def list_open_lines(db: sqlite3.Connection, account_id: int, first: date, last: date) -> list[OpenLine]:
    """The lines of these days that no brought row has claimed (typed entries, far sides of transfers), reconciled ones too."""
    values = {"account_id": account_id, "first": first.isoformat(), "last": last.isoformat()}
    rows = db.execute(LIST_OPEN_LINES, values)
    return [
        OpenLine(row["line_id"], date.fromisoformat(row["day"]), row["amount_minor"], row["payee"], row["is_far_side"] == 1)
        for row in rows
    ]


LIST_PENDING = """
    SELECT l.id, l.day, l.amount_minor, r.payee, r.memo, r.bank_ref
    FROM line l JOIN brought_row r ON r.id = (
        SELECT max(o.id) FROM brought_row o JOIN batch b ON b.id = o.batch_id AND b.state = 'brought'
        WHERE o.line_id = l.id AND o.take = 1)
    WHERE l.account_id = :account_id AND l.state = 'pending' AND l.state <> 'reconciled' AND r.pending = 1"""


def list_pending_lines(db: sqlite3.Connection, account_id: int) -> list[OpenLine]:
    """The lines of an account that a bank announced and has not booked."""
    return [
        OpenLine(r["id"], date.fromisoformat(r["day"]), r["amount_minor"], " · ".join(filter(None, (r["payee"], r["memo"]))),
                 is_announced=True, bank_ref=r["bank_ref"])
        for r in db.execute(LIST_PENDING, {"account_id": account_id})
    ]  # fmt: skip


# The line that takes up a changed amount: the largest category, else the one other account's line that is not locked.
LINE_BEFORE = f"""
    SELECT l.state, l.bank_ref, l.raw_text, l.value_day, l.amount_minor, {FOLLOWS} AS follows, (
        SELECT o.id FROM line o WHERE o.entry_id = l.entry_id AND o.id <> l.id AND o.currency = l.currency
            AND o.state IS NOT 'reconciled'
        ORDER BY o.account_id IS NOT NULL, abs(o.amount_minor) DESC, o.id LIMIT 1) AS other_id
    FROM line l WHERE l.id = :id"""
MERGE_INTO_LINE = """
    UPDATE line SET state = iif(state = 'pending' AND NOT :pending, 'cleared', state), bank_ref = :bank_ref,
        raw_text = :raw_text, value_day = :value_day, amount_minor = amount_minor + :shift
    WHERE id = :id"""
SHIFT_OTHER = "UPDATE line SET amount_minor = amount_minor - :shift WHERE id = :id"


def merge_into_line(db: sqlite3.Connection, row: StoredRow) -> str | None:
    """Gives the matched line the bank's words, state and amount; the typed payee, category and day stay.

    Gives the line as it was, as JSON; None if it is not there any more, or, where the amounts differ, it is locked, follows from
    something else, or nothing can take up the difference.
    """
    found = db.execute(LINE_BEFORE, {"id": row.match_line_id}).fetchone()
    shift = row.amount_minor - found["amount_minor"] if found else 0
    if found is None or (shift and (found["other_id"] is None or found["state"] == "reconciled" or found["follows"])):
        return None
    value_day = (row.value_day or row.day).isoformat()
    values = {"id": row.match_line_id, "bank_ref": row.bank_ref, "raw_text": row.raw_text, "value_day": value_day}
    db.execute(MERGE_INTO_LINE, values | {"shift": shift, "pending": int(row.pending)})
    if shift:
        db.execute(SHIFT_OTHER, {"id": found["other_id"], "shift": shift})
    words = {name: found[name] for name in ("state", "bank_ref", "raw_text", "value_day", "other_id")}
    return json.dumps(words | {"shift": shift}, ensure_ascii=False)


def _is_free(db: sqlite3.Connection, line_id: int | None) -> bool:
    row = db.execute("SELECT state FROM line WHERE id = :id", {"id": line_id}).fetchone()
    return row is not None and row["state"] != "reconciled"


UNMERGE = """
    UPDATE line SET state = iif(state = 'reconciled', state, :state), bank_ref = :bank_ref, raw_text = :raw_text,
        value_day = :value_day, amount_minor = amount_minor - :shift WHERE id = :id"""


def unmerge_line(db: sqlite3.Connection, line_id: int, before: str) -> None:
    """Takes the bank's words off a line again, and its amount, if the lines that took it up are there and not locked."""
    was = {"shift": 0, "other_id": None, **json.loads(before)}
    is_free = all(_is_free(db, id_) for id_ in (line_id, was["other_id"]))
    was["shift"] *= is_free
    db.execute(UNMERGE, {"id": line_id, **was})
    if was["shift"]:
        db.execute(SHIFT_OTHER, {"id": was["other_id"], "shift": -was["shift"]})


# What a person did to an entry, or hung on it: a bringing-in and its rules leave no such trace in the journal.
WORKED_ON = """
    EXISTS (SELECT 1 FROM line l WHERE l.entry_id = e.id AND l.state = 'reconciled')
    OR EXISTS (SELECT 1 FROM journal_change j WHERE j.table_name IN ('entry', 'kept_out') AND j.row_id = e.id)
    OR EXISTS (SELECT 1 FROM line l JOIN journal_change j ON j.table_name = 'line' AND j.row_id = l.id WHERE l.entry_id = e.id)
    OR EXISTS (SELECT 1 FROM line l JOIN line_tag t ON t.line_id = l.id
               JOIN journal_change j ON j.table_name = 'line_tag' AND j.row_id = t.id WHERE l.entry_id = e.id)
    OR EXISTS (SELECT 1 FROM attachment a WHERE a.entry_id = e.id)
    OR EXISTS (SELECT 1 FROM payday d WHERE d.entry_id = e.id)
    OR EXISTS (SELECT 1 FROM line l JOIN due_mark m ON m.line_id = l.id
               JOIN journal_change j ON j.table_name = 'due_mark' AND j.row_id = m.id WHERE l.entry_id = e.id)
    OR EXISTS (SELECT 1 FROM question q WHERE q.entry_id = e.id AND (q.rule_id IS NULL OR q.answered_on IS NOT NULL))"""
# An entry that another batch claimed since, as the booking of what was pending say, is no longer this one's to take out.
_TOUCHED = f"""{WORKED_ON}
    OR EXISTS (SELECT 1 FROM line l JOIN brought_row r ON r.line_id = l.id AND r.take = 1 AND r.batch_id <> :id
               JOIN batch b ON b.id = r.batch_id AND b.state = 'brought' WHERE l.entry_id = e.id)"""
LIST_ENTRIES_TO_TAKE_OUT = f"SELECT e.id, {_TOUCHED} AS touched FROM entry e WHERE e.batch_id = :id"
LIST_LEFT_BEHIND = f"""
    SELECT DISTINCT e.id FROM brought_row r JOIN line m ON m.id = r.line_id JOIN entry e ON e.id = m.entry_id
    JOIN batch o ON o.id = e.batch_id AND o.state = 'undone'
    WHERE r.batch_id = :id AND r.line_before IS NOT NULL AND e.batch_id <> :id AND NOT ({_TOUCHED})"""


def list_left_behind(db: sqlite3.Connection, batch_id: int) -> list[int]:
    """The entries that stayed only because this batch had claimed them: the batch that made them was taken out before."""
    return [row["id"] for row in db.execute(LIST_LEFT_BEHIND, {"id": batch_id})]


def list_entries_of_batch(db: sqlite3.Connection, batch_id: int) -> list[tuple[int, bool]]:
    """The entries a batch made, and whether each was changed, reconciled or claimed by another batch since."""
    return [(row["id"], bool(row["touched"])) for row in db.execute(LIST_ENTRIES_TO_TAKE_OUT, {"id": batch_id})]


def is_worked_on(db: sqlite3.Connection, entry_id: int) -> bool:
    """Whether a person changed an entry, checked it, or hung something on it."""
    row = db.execute(f"SELECT {WORKED_ON} AS worked FROM entry e WHERE e.id = :id", {"id": entry_id}).fetchone()
    return row is not None and row["worked"] == 1


REMOVE_LINES = "DELETE FROM line WHERE entry_id IN (SELECT value FROM json_each(:ids))"
REMOVE_ENTRIES = "DELETE FROM entry WHERE id IN (SELECT value FROM json_each(:ids))"


def remove_entries(db: sqlite3.Connection, entry_ids: list[int]) -> None:
    """Takes many entries out of the ledger at once, as the undo of a batch does."""
    values = {"ids": json.dumps(entry_ids)}
    db.execute(REMOVE_LINES, values)
    db.execute(REMOVE_ENTRIES, values)
