"""Batches and the rows they brought, as the bank sent them."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.bringing.batch import LEFT_BEFORE, OVERRULED, ChangedHere, Claim, StoredRow
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.due.series import without_number
from bolsa.core.ledger.payees import payee_key, tidy_payee
from bolsa.errors import NotFound
from bolsa.store.bringing.merging import FOLLOWS

NOT_JUDGED = Verdict("new", True)


def list_accounts_of_batch(db: sqlite3.Connection, batch_id: int) -> list[int]:
    """The accounts a batch has rows for."""
    rows = db.execute("SELECT DISTINCT account_id FROM brought_row WHERE batch_id = :id", {"id": batch_id})
    return [row["account_id"] for row in rows]


INSERT_ROW = """
    INSERT INTO brought_row (batch_id, account_id, day, amount_minor, payee, payee_key, memo, bank_ref, value_day,
                             file_line, pending, verdict, take, reason, match_line_id)
    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"""


def insert_rows(
    db: sqlite3.Connection, batch_id: int, account_id: int, rows: Iterable[BroughtRow], verdict: Verdict = NOT_JUDGED
) -> None:
    """Keeps rows in the file's order; they count as new until they are judged."""
    judged = (verdict.kind, int(verdict.take), verdict.reason, verdict.line_id)
    db.executemany(
        INSERT_ROW,
        (
            (
                batch_id, account_id, row.day.isoformat(), row.amount_minor, row.payee, payee_key(row.payee), row.memo,
                row.bank_ref, row.value_day.isoformat() if row.value_day else None, row.file_line, int(row.pending), *judged,
            )
            for row in rows
        ),
    )  # fmt: skip


def remove_rows(db: sqlite3.Connection, batch_id: int) -> None:
    db.execute("DELETE FROM brought_row WHERE batch_id = :id", {"id": batch_id})


ROW_COLUMNS = """
    id, batch_id, account_id, day, amount_minor, payee, memo, bank_ref, value_day, file_line, pending, verdict, take,
    reason, match_line_id, line_id, line_before"""


def _row(row: sqlite3.Row) -> StoredRow:
    """A row of ROW_COLUMNS, whose order is that of StoredRow; a hundred thousand pass here."""
    id_, batch_id, account_id, day, amount, payee, memo, bank_ref, value_day, file_line, pending, verdict, take, *became = row
    return StoredRow(
        id_, batch_id, account_id, date.fromisoformat(day), amount, payee, memo, bank_ref,
        date.fromisoformat(value_day) if value_day else None, file_line, pending == 1, verdict, take == 1, *became,
    )  # fmt: skip


def count_left_out(db: sqlite3.Connection, batch_id: int) -> int:
    """How many rows of a batch the user decided to leave out."""
    sql = "SELECT count(*) FROM brought_row WHERE batch_id = :id AND take = 0 AND reason IN (:now, :before)"
    return db.execute(sql, {"id": batch_id, "now": OVERRULED, "before": LEFT_BEFORE}).fetchone()[0]


COUNT_ASKED = """
    SELECT count(*) FILTER (WHERE match_line_id IS NULL) AS checked, count(*) FILTER (WHERE match_line_id IS NOT NULL) AS here
    FROM brought_row WHERE batch_id = :id AND take = 0 AND verdict IN ('suspicious', 'vanished')"""


def count_asked(db: sqlite3.Connection, batch_id: int) -> tuple[int, int]:
    """How many rows of a batch wait for someone to say that they belong into days that are checked already, and how many that
    they are no booking that is here."""
    row = db.execute(COUNT_ASKED, {"id": batch_id}).fetchone()
    return row["checked"], row["here"]


DECIDE_ASKED = """
    UPDATE brought_row SET verdict = :kind, take = :take, reason = :reason
    WHERE batch_id = :id AND take = 0 AND verdict = 'suspicious' AND (match_line_id IS NULL) = :checked"""


def decide_asked(db: sqlite3.Connection, batch_id: int, verdict: Verdict, *, checked: bool) -> None:
    """Decides about all of those rows whose days are checked, or that may be here."""
    values = {"kind": verdict.kind, "take": int(verdict.take), "reason": verdict.reason, "checked": int(checked)}
    db.execute(DECIDE_ASKED, values | {"id": batch_id})


def list_rows_to_show(db: sqlite3.Connection, batch_id: int, most: int) -> list[StoredRow]:
    """The first rows of a batch, those it would bring before those that are here already."""
    sql = (
        f"SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :id ORDER BY take DESC, verdict <> 'suspicious', id LIMIT :most"
    )
    return [_row(row) for row in db.execute(sql, {"id": batch_id, "most": most})]


COUNT_BY_DAY = """
    SELECT day, count(*) AS rows FROM brought_row INDEXED BY brought_row_of_batch
    WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0 AND verdict <> 'vanished'
    GROUP BY day ORDER BY day"""


def count_by_day(db: sqlite3.Connection, batch_id: int, account_id: int) -> list[tuple[date, int]]:
    """How many booked rows of an account a batch holds on each day, in order."""
    rows = db.execute(COUNT_BY_DAY, {"batch_id": batch_id, "account_id": account_id})
    return [(date.fromisoformat(row["day"]), row["rows"]) for row in rows]


LIST_OF_DAYS = f"""
    SELECT {ROW_COLUMNS} FROM brought_row INDEXED BY brought_row_of_account
    WHERE account_id = :account_id AND day BETWEEN :first AND :last AND batch_id = :batch_id
        AND pending = 0 AND verdict <> 'vanished' ORDER BY id"""


def list_rows_of_days(db: sqlite3.Connection, batch_id: int, account_id: int, first: date, last: date) -> list[StoredRow]:
    """The booked rows of a batch for an account on these days, in the file's order."""
    values = {"batch_id": batch_id, "account_id": account_id, "first": first.isoformat(), "last": last.isoformat()}
    return [_row(row) for row in db.execute(LIST_OF_DAYS, values)]


LIST_PENDING_ROWS = f"""
    SELECT {ROW_COLUMNS} FROM brought_row
    WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 1 AND verdict <> 'vanished' ORDER BY id"""


def list_pending_rows(db: sqlite3.Connection, batch_id: int, account_id: int) -> list[StoredRow]:
    """The rows of a batch that a bank announces for an account, in the file's order."""
    return [_row(row) for row in db.execute(LIST_PENDING_ROWS, {"batch_id": batch_id, "account_id": account_id})]


# A matched line that waits, or is dated later, adds all of its amount to what the bank counts until the day; any other what it
# moves.
SUM_TO_CLEAR = """
    SELECT coalesce(sum(CASE WHEN r.verdict IN ('new', 'suspicious') THEN iif(r.day <= :day, r.amount_minor, 0)
        WHEN l.state = 'pending' THEN iif(l.day <= :day, r.amount_minor, 0)
        ELSE iif(l.day <= :day, r.amount_minor - l.amount_minor, 0) END), 0)
    FROM brought_row r LEFT JOIN line l ON l.id = r.match_line_id
    WHERE r.batch_id = :batch_id AND r.account_id = :account_id AND r.pending = 0 AND r.take = 1 AND r.verdict <> 'vanished'"""


def sum_to_clear_minor(db: sqlite3.Connection, batch_id: int, account_id: int, day: date) -> int:
    """What a waiting batch will add to what is not pending on an account until the end of a day."""
    values = {"batch_id": batch_id, "account_id": account_id, "day": day.isoformat()}
    return db.execute(SUM_TO_CLEAR, values).fetchone()[0]


LIST_ASKED = f"""
    SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0 AND take = 0
        AND verdict = 'suspicious' AND match_line_id IS NOT NULL AND day <= :day ORDER BY id"""


def list_asked_rows(db: sqlite3.Connection, batch_id: int, account_id: int, day: date) -> list[StoredRow]:
    """The booked rows of a batch for an account that may be bookings here, and are asked about, dated until a day, in the
    file's order."""
    values = {"batch_id": batch_id, "account_id": account_id, "day": day.isoformat()}
    return [_row(row) for row in db.execute(LIST_ASKED, values)]


LIST_FRESH = f"""
    SELECT {ROW_COLUMNS} FROM brought_row
    WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0 AND verdict NOT IN ('known', 'vanished')
        AND amount_minor IN (:one, :other) ORDER BY id"""


def list_fresh_rows(db: sqlite3.Connection, batch_id: int, account_id: int, one: int, other: int) -> list[StoredRow]:
    """The booked rows of a batch for an account that were not here before, with one of two amounts, in the file's order."""
    values = {"batch_id": batch_id, "account_id": account_id, "one": one, "other": other}
    return [_row(row) for row in db.execute(LIST_FRESH, values)]


LIST_EXPLAINING = f"""
    SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0
        AND verdict <> 'vanished' AND NOT (verdict = 'known' AND match_line_id IS NOT NULL)
        AND (take = 0 OR verdict = 'suspicious' OR amount_minor IN (SELECT value FROM json_each(:amounts)))
    ORDER BY id LIMIT :most"""


def list_explaining(db: sqlite3.Connection, batch_id: int, account_id: int, amounts: Iterable[int], most: int) -> list[StoredRow]:
    """The booked rows of a batch for an account that are out, or doubtful, or have one of some amounts; not those that are a line
    here."""
    values = {"batch_id": batch_id, "account_id": account_id, "amounts": json.dumps(list(amounts)), "most": most}
    return [_row(row) for row in db.execute(LIST_EXPLAINING, values)]


LIST_KNOWN_ALIKE = f"""
    SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0
        AND verdict IN ('known', 'matched') AND amount_minor = :amount ORDER BY id"""


def list_known_alike(db: sqlite3.Connection, batch_id: int, account_id: int, amount_minor: int) -> list[StoredRow]:
    """The booked rows of a batch for an account with one amount that were here before."""
    values = {"batch_id": batch_id, "account_id": account_id, "amount": amount_minor}
    return [_row(row) for row in db.execute(LIST_KNOWN_ALIKE, values)]


def list_rows(db: sqlite3.Connection, batch_id: int, *, after_id: int = 0, most: int = -1) -> list[StoredRow]:
    """The rows of a batch in the file's order."""
    sql = f"SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :id AND id > :after ORDER BY id LIMIT :most"
    return [_row(row) for row in db.execute(sql, {"id": batch_id, "after": after_id, "most": most})]


LIST_OVERRULED = f"SELECT {ROW_COLUMNS} FROM brought_row WHERE batch_id = :id AND reason = :overruled ORDER BY id"


def list_overruled(db: sqlite3.Connection, batch_id: int) -> list[StoredRow]:
    """The rows of a batch the user decided about."""
    return [_row(row) for row in db.execute(LIST_OVERRULED, {"id": batch_id, "overruled": OVERRULED})]


def get_row(db: sqlite3.Connection, row_id: int) -> StoredRow:
    row = db.execute(f"SELECT {ROW_COLUMNS} FROM brought_row WHERE id = :id", {"id": row_id}).fetchone()
    if row is None:
        raise NotFound("That row is not here any more.")
    return _row(row)


FIND_ROW_OF_LINE = f"""
    SELECT {ROW_COLUMNS} FROM brought_row WHERE line_id = :line_id
        AND batch_id IN (SELECT id FROM batch WHERE state = 'brought') ORDER BY pending, id DESC LIMIT 1"""


def find_row_of_line(db: sqlite3.Connection, line_id: int) -> StoredRow | None:
    """The bank's row a line came from or was matched with, the booked one before an announced one."""
    row = db.execute(FIND_ROW_OF_LINE, {"line_id": line_id}).fetchone()
    return _row(row) if row else None


LIST_CHANGED_HERE = f"""
    SELECT r.id, r.day, r.amount_minor, r.account_id, l.id, e.id, p.name, l.day, l.amount_minor,
        l.state = 'reconciled' OR {FOLLOWS}
    FROM brought_row r JOIN line l ON l.id = r.match_line_id AND l.account_id = r.account_id
    JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE r.batch_id = :id AND r.verdict = 'known' AND r.take = 0 AND r.pending = 0
        AND (l.amount_minor <> r.amount_minor OR (abs(julianday(l.day) - julianday(r.day)) > :days
            AND NOT EXISTS (SELECT 1 FROM brought_row o
                            WHERE o.line_id = l.id AND abs(julianday(l.day) - julianday(o.day)) <= :days)))
    ORDER BY r.id"""


def list_changed_here(db: sqlite3.Connection, batch_id: int, days: int) -> list[ChangedHere]:
    """The rows of a batch that are here already with another amount, or more than so many days away: the entry was changed."""
    return [
        ChangedHere(
            id_,
            date.fromisoformat(day),
            amount,
            account_id,
            line_id,
            entry_id,
            payee,
            date.fromisoformat(here),
            minor,
            locked == 1,
        )
        for id_, day, amount, account_id, line_id, entry_id, payee, here, minor, locked in db.execute(
            LIST_CHANGED_HERE, {"id": batch_id, "days": days}
        )
    ]


COUNT_VERDICTS = """
    SELECT verdict, take, count(*) AS rows FROM brought_row WHERE batch_id = :id GROUP BY verdict, take"""


def count_verdicts(db: sqlite3.Connection, batch_id: int) -> dict[str, int]:
    """How many rows are "new" (doubtful ones that are taken count), "matched", "known" (or left out), and of pending ones
    "changed" and "vanished"."""
    counts = {"new": 0, "matched": 0, "known": 0, "changed": 0, "vanished": 0}
    for row in db.execute(COUNT_VERDICTS, {"id": batch_id}):
        kind = {"suspicious": "new"}.get(row["verdict"], row["verdict"]) if row["take"] else "known"
        counts[kind] += row["rows"]
    return counts


# What was asked, or offered, with a batch that was brought in is not asked for its own sake again.
IS_NEWLY_ASKED = """
    SELECT 1 FROM brought_row r LEFT JOIN line l ON l.id = r.match_line_id
    WHERE r.batch_id = :id AND r.take = 0 AND r.pending = 0 AND r.reason NOT IN (:overruled, :left_before)
        AND CASE WHEN r.verdict IN ('suspicious', 'vanished') THEN NOT EXISTS (
                SELECT 1 FROM brought_row o JOIN batch b ON b.id = o.batch_id AND b.state = 'brought'
                WHERE o.account_id = r.account_id AND o.day = r.day AND o.amount_minor = r.amount_minor
                    AND o.bank_ref = r.bank_ref AND o.payee = r.payee AND o.verdict = r.verdict)
            WHEN r.verdict = 'known' AND l.amount_minor <> r.amount_minor AND r.bank_ref <> '' THEN r.amount_minor <> (
                SELECT o.amount_minor FROM brought_row o JOIN batch b ON b.id = o.batch_id AND b.state = 'brought'
                WHERE o.account_id = r.account_id AND o.day = r.day AND o.bank_ref = r.bank_ref ORDER BY o.id DESC LIMIT 1) END
    LIMIT 1"""


def is_newly_asked(db: sqlite3.Connection, batch_id: int) -> bool:
    """Whether a batch asks what no batch before did: about rows that may be here or are told no more, or about an entry here
    whose amount its bank corrected."""
    values = {"id": batch_id, "overruled": OVERRULED, "left_before": LEFT_BEFORE}
    return db.execute(IS_NEWLY_ASKED, values).fetchone() is not None


LIST_LEARNED = """
    SELECT k.value AS payee_key, (
        SELECT p.name FROM brought_row r JOIN line l ON l.id = r.line_id JOIN entry e ON e.id = l.entry_id
        JOIN payee p ON p.id = e.payee_id
        WHERE r.payee_key = k.value AND r.line_id IS NOT NULL ORDER BY r.id DESC LIMIT 1) AS payee
    FROM json_each(:keys) k"""


def list_learned_payees(db: sqlite3.Connection, raw_payees: set[str]) -> dict[str, str]:
    """For each payee as the bank writes it, what the household calls it: the payee of the entry it became last time."""
    keys = {raw: payee_key(raw) for raw in raw_payees}
    rows = db.execute(LIST_LEARNED, {"keys": json.dumps(sorted(set(keys.values())))})
    known = {row["payee_key"]: row["payee"] for row in rows if row["payee"] and row["payee_key"]}
    learned = {raw: known[key] for raw, key in keys.items() if key in known}
    return learned | _without_numbers(db, {raw for raw in raw_payees if raw not in learned})


LIST_OF_SERIES = "SELECT p.name FROM payee p WHERE p.id IN (SELECT payee_id FROM series)"


def _without_numbers(db: sqlite3.Connection, raw_payees: set[str]) -> dict[str, str]:
    """For texts that end with a number, what is kept as coming again under that name without it."""
    numbered = {raw: named[0] for raw in raw_payees if (named := without_number(tidy_payee(raw)))}
    if not numbered:
        return {}
    names = {payee_key(row["name"]): row["name"] for row in db.execute(LIST_OF_SERIES)}
    return {raw: names[payee_key(name)] for raw, name in numbered.items() if payee_key(name) in names}


CHANGE_ROW = "UPDATE brought_row SET verdict = ?, take = ?, reason = ?, match_line_id = ? WHERE id = ?"


def change_verdicts(db: sqlite3.Connection, judged: Iterable[tuple[int, Verdict]]) -> None:
    """Notes what rows are: (row id, verdict)."""
    db.executemany(CHANGE_ROW, ((v.kind, int(v.take), v.reason, v.line_id, row_id) for row_id, v in judged))


def change_row_verdict(db: sqlite3.Connection, row_id: int, verdict: Verdict) -> None:
    change_verdicts(db, [(row_id, verdict)])


LIST_CLAIMS = """
    SELECT id, match_line_id AS line_id, verdict, reason FROM brought_row
    WHERE batch_id = ? AND take = 1 AND verdict IN ('matched', 'changed', 'vanished') AND match_line_id IS NOT NULL"""


def list_claims(db: sqlite3.Connection, batch_id: int) -> list[Claim]:
    """The rows of a batch that take a line for their own."""
    found = db.execute(LIST_CLAIMS, (batch_id,))
    return [Claim(row["line_id"], row["id"], row["verdict"], row["reason"] == OVERRULED) for row in found]


SET_LINES = "UPDATE brought_row SET line_id = ?, line_before = ? WHERE id = ?"


def set_lines_of_rows(db: sqlite3.Connection, made: list[tuple[int | None, str | None, int]]) -> None:
    """Notes what rows became: (line id, the line before a merge as JSON, row id)."""
    db.executemany(SET_LINES, made)


LIST_MADE = f"""
    SELECT {ROW_COLUMNS} FROM brought_row r WHERE batch_id = :batch_id AND account_id = :account_id AND pending = 0 AND take = 1
        AND verdict IN ('new', 'suspicious') AND EXISTS (SELECT 1 FROM line l WHERE l.id = r.line_id) ORDER BY id"""


def list_rows_made(db: sqlite3.Connection, batch_id: int, account_id: int) -> list[StoredRow]:
    """The booked rows of a batch that made lines which are here."""
    return [_row(row) for row in db.execute(LIST_MADE, {"batch_id": batch_id, "account_id": account_id})]
