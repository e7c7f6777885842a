"""The lines that brought rows may be, are merged into, and are parted from; and taking a batch's entries out again."""

import json
import sqlite3
from datetime import date, timedelta

from bolsa.core.bringing.batch import Candidate, StoredRow
from bolsa.core.bringing.bookings import OpenLine
from bolsa.core.known import known
from bolsa.store.connection import new_id

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


def find_amount(db: sqlite3.Connection, line_id: int) -> int | None:
    """The amount of a line, None if it is not there any more."""
    row = db.execute("SELECT amount_minor FROM line WHERE id = :id", {"id": line_id}).fetchone()
    return row["amount_minor"] if row else None


WORDS_OF_LINE = """
    SELECT l.state, l.bank_ref, l.raw_text, l.value_day,
        EXISTS (SELECT 1 FROM payday d WHERE d.entry_id = l.entry_id) AS is_payday
    FROM line l WHERE l.id = :id"""
PUT_WORDS = """
    UPDATE line SET state = :state, bank_ref = :bank_ref, raw_text = :raw_text, value_day = :value_day
    WHERE id = :id AND state <> 'reconciled'"""
UNTOLD = {"state": "pending", "bank_ref": "", "raw_text": "", "value_day": None}


def take_words_off(db: sqlite3.Connection, line_id: int, *, typed: str | None) -> dict[str, str | None] | None:
    """Takes an announcement off a line that stands without it: it was typed before (`typed` is how it was then), or is a
    payday's. Gives what it held; None for a line that stands for the announcement alone."""
    row = db.execute(WORDS_OF_LINE, {"id": line_id}).fetchone()
    if typed is None and not row["is_payday"]:
        return None
    was = {name: row[name] for name in UNTOLD}
    as_typed = {name: json.loads(typed)[name] for name in UNTOLD} if typed else UNTOLD
    db.execute(PUT_WORDS, as_typed | {"id": line_id})
    return was


def put_words_back(db: sqlite3.Connection, line_id: int, words: dict[str, str | None]) -> None:
    """Gives a line the words again that were taken off it."""
    db.execute(PUT_WORDS, words | {"id": line_id})


LIST_OPEN_LINES = """
    SELECT l.id AS line_id, l.day, l.amount_minor, p.name AS payee,
        EXISTS (SELECT 1 FROM line o WHERE o.entry_id = e.id AND o.account_id <> l.account_id) AS is_far_side,
        EXISTS (SELECT 1 FROM payday d WHERE d.entry_id = e.id)
            AND NOT EXISTS (SELECT 1 FROM payday_line x WHERE x.line_id = l.id) AS is_payday
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
        OpenLine(
            row["line_id"],
            date.fromisoformat(row["day"]),
            row["amount_minor"],
            row["payee"],
            row["is_far_side"] == 1,
            is_payday=row["is_payday"] == 1,
        )
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


# A line that a bank told of, or that a statement holds: only that bank, or a person who sees it, changes it.
TOLD = """(l.account_id IS NOT NULL AND (l.state = 'reconciled' OR l.raw_text <> '' OR l.bank_ref <> ''
        OR EXISTS (SELECT 1 FROM brought_row t JOIN batch u ON u.id = t.batch_id AND u.state = 'brought'
                   WHERE t.line_id = l.id AND t.take = 1)))"""
LIST_TOLD = f"SELECT l.id FROM line l WHERE l.entry_id = :id AND {TOLD}"


def list_told_lines(db: sqlite3.Connection, entry_id: int) -> set[int]:
    """The lines of an entry that banks told of, or statements hold."""
    return {row["id"] for row in db.execute(LIST_TOLD, {"id": entry_id})}


# The line that takes up a changed amount: the largest category, else the one other account's line that no bank told of. What a
# payslip told stays: the difference waits beside it.
LINE_BEFORE = f"""
    SELECT l.state, l.bank_ref, l.raw_text, l.value_day, l.amount_minor, l.entry_id, l.currency, l.day, {FOLLOWS} AS follows,
        EXISTS (SELECT 1 FROM payday d WHERE d.entry_id = l.entry_id) AS is_payday, (
        SELECT o.id FROM line o WHERE o.entry_id = l.entry_id AND o.id <> l.id AND o.currency = l.currency
            AND NOT {TOLD.replace("l.", "o.")} AND NOT EXISTS (SELECT 1 FROM payday_line x WHERE x.line_id = o.id)
        ORDER BY o.account_id IS NOT NULL, abs(o.amount_minor) DESC, o.id LIMIT 1) AS other_id
    FROM line l WHERE l.id = :id"""
MERGE_INTO_LINE = """
    UPDATE line SET state = iif(state = 'pending' AND NOT :pending, 'cleared', state), bank_ref = :bank_ref,
        raw_text = :raw_text, value_day = :value_day, amount_minor = amount_minor + :shift
    WHERE id = :id"""
INSERT_DIFFERENCE = """
    INSERT INTO line (entry_id, category_id, currency, amount_minor, day, everyday)
    SELECT :entry_id, 1, :currency, 0, :day, (SELECT max(everyday) FROM line WHERE entry_id = :entry_id)"""
SHIFT_OTHER = "UPDATE line SET amount_minor = amount_minor - :shift WHERE id = :id"


def merge_into_line(db: sqlite3.Connection, row: StoredRow) -> str | None:
    """Gives the matched line the bank's words, state and amount; the typed payee, category and day stay.

    Gives the line as it was, as JSON; None if it is not there any more, or, where the amounts differ, it is locked, follows from
    something else, or nothing can take up the difference.
    """
    found = db.execute(LINE_BEFORE, {"id": row.match_line_id}).fetchone()
    if found is None:
        return None
    shift, other_id = row.amount_minor - found["amount_minor"], found["other_id"]
    if shift and (found["state"] == "reconciled" or found["follows"] or (other_id is None and not found["is_payday"])):
        return None
    added_id = None
    if shift and other_id is None:
        added_id = other_id = new_id(
            db.execute(INSERT_DIFFERENCE, {name: found[name] for name in ("entry_id", "currency", "day")})
        )
    value_day = (row.value_day or row.day).isoformat()
    values = {"id": row.match_line_id, "bank_ref": row.bank_ref, "raw_text": row.raw_text, "value_day": value_day}
    db.execute(MERGE_INTO_LINE, values | {"shift": shift, "pending": int(row.pending)})
    if shift:
        db.execute(SHIFT_OTHER, {"id": other_id, "shift": shift})
    words = {name: found[name] for name in ("state", "bank_ref", "raw_text", "value_day")} | {"other_id": other_id}
    return json.dumps(words | {"shift": shift, "added_id": added_id}, ensure_ascii=False)


INSERT_PART = """
    INSERT INTO line (entry_id, account_id, currency, amount_minor, day, state, bank_ref, raw_text, value_day, everyday)
    SELECT entry_id, account_id, currency, 0, day, 'cleared', :bank_ref, :raw_text, :value_day, everyday
    FROM line WHERE id = :id"""


def merge_parts(db: sqlite3.Connection, whole: StoredRow, part: StoredRow) -> tuple[str, int] | None:
    """Makes two lines of one that two rows make up: it takes the words and the amount of the first row, the second gets a line
    beside it. Gives the line as it was, as JSON, and the new line's id; None if it is not there any more, or locked."""
    line_id = known(whole.match_line_id)
    found = db.execute(LINE_BEFORE, {"id": line_id}).fetchone()
    if found is None or found["state"] == "reconciled" or found["amount_minor"] != whole.amount_minor + part.amount_minor:
        return None
    words = {"bank_ref": part.bank_ref, "raw_text": part.raw_text, "value_day": (part.value_day or part.day).isoformat()}
    added_id = new_id(db.execute(INSERT_PART, words | {"id": line_id}))
    shift = -part.amount_minor
    words = {"bank_ref": whole.bank_ref, "raw_text": whole.raw_text, "value_day": (whole.value_day or whole.day).isoformat()}
    db.execute(MERGE_INTO_LINE, words | {"id": line_id, "shift": shift, "pending": 0})
    db.execute(SHIFT_OTHER, {"id": added_id, "shift": shift})
    before = {name: found[name] for name in ("state", "bank_ref", "raw_text", "value_day")}
    return json.dumps(before | {"other_id": added_id, "shift": shift, "added_id": added_id}, ensure_ascii=False), added_id


def _is_free(db: sqlite3.Connection, line_id: int | None) -> bool:
    row = db.execute("SELECT state FROM line WHERE id = :id", {"id": line_id}).fetchone()
    return row is not None and row["state"] != "reconciled"


UNMERGE = """
    UPDATE line SET state = iif(state = 'reconciled', state, :state), bank_ref = :bank_ref, raw_text = :raw_text,
        value_day = :value_day, amount_minor = amount_minor - :shift WHERE id = :id"""


def unmerge_line(db: sqlite3.Connection, line_id: int, before: str) -> None:
    """Takes the bank's words off a line again, and its amount, if the lines that took it up are there and not locked."""
    was = {"shift": 0, "other_id": None, "added_id": None, **json.loads(before)}
    is_free = all(_is_free(db, id_) for id_ in (line_id, was["other_id"]))
    was["shift"] *= is_free
    db.execute(UNMERGE, {"id": line_id, **was})
    if was["shift"]:
        db.execute(SHIFT_OTHER, {"id": was["other_id"], "shift": -was["shift"]})
        db.execute("DELETE FROM line WHERE id = :id AND amount_minor = 0", {"id": was["added_id"]})


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


LIST_JOINED_WITH_OTHERS = f"""
    SELECT e.id AS entry_id, m.id AS line_id FROM brought_row r JOIN line m ON m.id = r.line_id JOIN entry e ON e.id = m.entry_id
    WHERE r.batch_id = :id AND r.take = 1 AND r.line_before IS NULL AND NOT ({WORKED_ON})
        AND EXISTS (SELECT 1 FROM line o JOIN brought_row t ON t.line_id = o.id AND t.take = 1 AND t.batch_id <> :id
                    JOIN batch b ON b.id = t.batch_id AND b.state = 'brought' WHERE o.entry_id = e.id AND o.id <> m.id)
    ORDER BY m.id"""


def list_joined_with_others(db: sqlite3.Connection, batch_id: int) -> list[tuple[int, int]]:
    """The lines a batch made that stand in one entry with what another batch told, and nobody worked on: (entry, line)."""
    return [(row["entry_id"], row["line_id"]) for row in db.execute(LIST_JOINED_WITH_OTHERS, {"id": batch_id})]


REMOVE_LINES = "DELETE FROM line WHERE entry_id IN (SELECT value FROM json_each(:ids))"
REMOVE_ENTRIES = "DELETE FROM entry WHERE id IN (SELECT value FROM json_each(:ids))"


def remove_entries(db: sqlite3.Connection, entry_ids: list[int]) -> None:
    """Takes many entries out of the ledger at once, as the undo of a batch does."""
    values = {"ids": json.dumps(entry_ids)}
    db.execute(REMOVE_LINES, values)
    db.execute(REMOVE_ENTRIES, values)
