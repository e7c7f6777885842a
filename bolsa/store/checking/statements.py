"""Statements, the lines ticked on them, and reconciling."""

import sqlite3
from datetime import date, timedelta

from bolsa.core.checking.check import OpenItem
from bolsa.core.checking.statement import Statement, WrittenOff
from bolsa.core.checking.suspects import BankRow, ChangedLine, Usual
from bolsa.errors import NotFound
from bolsa.store.bringing.brought import OVERRULED
from bolsa.store.connection import new_id

COLUMNS = "id, account_id, closing_day, opening_minor, closing_minor, state, reconciled_at, opening_day"


def _statement(row: sqlite3.Row) -> Statement:
    opening_day = date.fromisoformat(row["opening_day"]) if row["opening_day"] else None
    return Statement(**{**dict(row), "closing_day": date.fromisoformat(row["closing_day"]), "opening_day": opening_day})


def get_statement(db: sqlite3.Connection, statement_id: int) -> Statement:
    row = db.execute(f"SELECT {COLUMNS} FROM statement WHERE id = :id", {"id": statement_id}).fetchone()
    if row is None:
        raise NotFound("There is no such statement.")
    return _statement(row)


def list_statements(db: sqlite3.Connection, account_id: int) -> list[Statement]:
    """An account's statements, the latest first."""
    sql = f"SELECT {COLUMNS} FROM statement WHERE account_id = :id ORDER BY closing_day DESC, id DESC"
    return [_statement(row) for row in db.execute(sql, {"id": account_id})]


def read_chains(db: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every account's statements, the oldest first, as they are kept: two readings compare fast."""
    return db.execute(f"SELECT {COLUMNS} FROM statement ORDER BY account_id, closing_day, id").fetchall()


def chains_of(rows: list[sqlite3.Row]) -> dict[int, list[Statement]]:
    """By account: the statements of a reading, the oldest first."""
    chains: dict[int, list[Statement]] = {}
    for row in rows:
        chains.setdefault(row["account_id"], []).append(_statement(row))
    return chains


INSERT_STATEMENT = """
    INSERT INTO statement (account_id, closing_day, opening_minor, closing_minor, state, opening_day)
    VALUES (:account_id, :closing_day, :opening_minor, :closing_minor, 'open', :opening_day)"""


def insert_statement(
    db: sqlite3.Connection,
    account_id: int,
    closing_day: date,
    opening_minor: int,
    closing_minor: int,
    opening_day: date | None = None,
) -> int:
    values = {"account_id": account_id, "closing_day": closing_day.isoformat()}
    values["opening_day"] = opening_day and opening_day.isoformat()
    return new_id(db.execute(INSERT_STATEMENT, values | {"opening_minor": opening_minor, "closing_minor": closing_minor}))


CHANGE_STATEMENT = """
    UPDATE statement SET closing_day = :closing_day, opening_minor = :opening_minor, closing_minor = :closing_minor,
        state = :state, reconciled_at = :reconciled_at, opening_day = :opening_day WHERE id = :id"""


def change_statement(db: sqlite3.Connection, statement: Statement) -> None:
    opening_day = statement.opening_day and statement.opening_day.isoformat()
    days = {"closing_day": statement.closing_day.isoformat(), "opening_day": opening_day}
    db.execute(CHANGE_STATEMENT, {**statement.__dict__, **days})


def remove_statement(db: sqlite3.Connection, statement_id: int) -> None:
    """Forgets a statement that was never reconciled, with its ticks."""
    db.execute("DELETE FROM statement_tick WHERE statement_id = :id", {"id": statement_id})
    db.execute("DELETE FROM statement WHERE id = :id", {"id": statement_id})


# What the bank sent for a line is asked of the latest row that became it. An amount can be corrected in one stroke where one
# other line stands against it: a category, or an account that is not reconciled.
SELECT_ITEMS = """
    SELECT l.id AS line_id, e.id AS entry_id, l.day, l.amount_minor, p.name AS payee,
        EXISTS (SELECT 1 FROM statement_tick t WHERE t.line_id = l.id AND t.statement_id = :statement_id) AS ticked,
        (SELECT r.amount_minor FROM brought_row r JOIN batch b ON b.id = r.batch_id AND b.state = 'brought'
         WHERE r.line_id = l.id AND r.pending = 0 ORDER BY r.id DESC LIMIT 1) AS bank_minor,
        l.category_id IS NULL AND (SELECT count(*) = 1 AND min(o.state IS NOT 'reconciled') AND min(o.currency) = l.currency
                                      AND min(o.account_id IS NULL OR o.category_id IS NULL)
                                   FROM line o WHERE o.entry_id = l.entry_id AND o.id <> l.id) AS can_change
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.state <> 'reconciled' AND l.day > :after AND l.day <= :until
    ORDER BY l.day, l.id"""


def list_items(db: sqlite3.Connection, statement: Statement) -> tuple[OpenItem, ...]:
    """The lines up to the closing day that no statement has reconciled, oldest first."""
    return _items(db, statement, "", statement.closing_day)


def list_items_after(db: sqlite3.Connection, statement: Statement, days: int) -> tuple[OpenItem, ...]:
    """The lines of the days just after the closing day."""
    return _items(db, statement, statement.closing_day.isoformat(), statement.closing_day + timedelta(days=days))


def _items(db: sqlite3.Connection, statement: Statement, after: str, until: date) -> tuple[OpenItem, ...]:
    values = {"statement_id": statement.id, "account_id": statement.account_id, "after": after, "until": until.isoformat()}
    return tuple(
        OpenItem(
            r["line_id"], r["entry_id"], date.fromisoformat(r["day"]), r["amount_minor"], r["payee"], bool(r["ticked"]),
            r["bank_minor"], bool(r["can_change"]),
        )
        for r in db.execute(SELECT_ITEMS, values)
    )  # fmt: skip


LIST_MISSING = """
    SELECT r.id AS row_id, r.day, r.amount_minor, r.payee FROM brought_row r JOIN batch b ON b.id = r.batch_id
    WHERE r.account_id = :account_id AND r.day > :after AND r.day <= :until AND b.state = 'brought' AND r.pending = 0
        AND ((r.take = 0 AND r.reason = :overruled)
             OR (r.take = 1 AND NOT EXISTS (SELECT 1 FROM line l WHERE l.id = r.line_id)))
    ORDER BY r.day, r.id LIMIT 50"""


def list_missing_rows(db: sqlite3.Connection, statement: Statement, after: date | None) -> tuple[BankRow, ...]:
    """What the bank sent in the period and is not here: left out by hand, or deleted since."""
    values = {"account_id": statement.account_id, "until": statement.closing_day.isoformat(), "overruled": OVERRULED}
    rows = db.execute(LIST_MISSING, values | {"after": after.isoformat() if after else ""})
    return tuple(BankRow(r["row_id"], date.fromisoformat(r["day"]), r["amount_minor"], r["payee"]) for r in rows)


LIST_CHANGED = """
    WITH was AS (
        SELECT row_id AS line_id, before, max(id) FROM journal_change
        WHERE table_name = 'line' AND before ->> 'statement_id' = :statement_id GROUP BY row_id)
    SELECT was.line_id, l.entry_id, coalesce(p.name, 'An entry') AS payee, was.before ->> 'day' AS day,
        was.before ->> 'amount_minor' AS before_minor,
        iif(l.account_id = was.before ->> 'account_id', l.amount_minor, 0) AS now_minor
    FROM was LEFT JOIN line l ON l.id = was.line_id LEFT JOIN entry e ON e.id = l.entry_id LEFT JOIN payee p ON p.id = e.payee_id
    WHERE l.id IS NULL OR l.account_id <> was.before ->> 'account_id' OR l.amount_minor <> was.before ->> 'amount_minor'"""


def list_changed_lines(db: sqlite3.Connection, statement_id: int) -> tuple[ChangedLine, ...]:
    """The lines a statement had reconciled before it was reopened, and that were changed or deleted since."""
    rows = db.execute(LIST_CHANGED, {"statement_id": statement_id})
    return tuple(
        ChangedLine(
            r["line_id"], r["entry_id"], r["payee"], date.fromisoformat(r["day"]), r["before_minor"],
            r["now_minor"] if r["entry_id"] else 0,
        )
        for r in rows
    )  # fmt: skip


LIST_USUAL = """
    SELECT p.name AS payee, max(l.day) AS day, count(DISTINCT substr(l.day, 1, 7)) AS months, count(*) AS times,
        l.amount_minor, (SELECT o.category_id FROM line o WHERE o.entry_id = l.entry_id AND o.account_id IS NULL) AS category_id
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.day > :first AND l.day <= :until
    GROUP BY e.payee_id HAVING months >= 3 AND times <= months + 1 AND max(l.day) <= :after"""


def list_usual(db: sqlite3.Connection, statement: Statement, after: date) -> tuple[Usual, ...]:
    """What came on the account in each of the last months, about once, and not since the statement before."""
    values = {"account_id": statement.account_id, "until": statement.closing_day.isoformat(), "after": after.isoformat()}
    rows = db.execute(LIST_USUAL, values | {"first": (after - timedelta(days=100)).isoformat()})
    return tuple(
        Usual(r["payee"], r["category_id"], date.fromisoformat(r["day"]), r["amount_minor"]) for r in rows if r["category_id"]
    )


TICK_CLEARED = """
    INSERT INTO statement_tick (statement_id, line_id)
    SELECT :statement_id, l.id FROM line l
    WHERE l.account_id = :account_id AND l.day <= :day
        AND (l.state = 'cleared' OR (l.state = 'pending' AND (SELECT kind FROM account WHERE id = :account_id) = 'cash'))
        AND NOT EXISTS (SELECT 1 FROM statement_tick t WHERE t.line_id = l.id)"""


def tick_cleared_lines(db: sqlite3.Connection, statement: Statement) -> None:
    """Ticks what the bank has said already: every cleared line up to the closing day. Of cash nobody but the household tells: a
    count knows every entry."""
    values = {"statement_id": statement.id, "account_id": statement.account_id}
    db.execute(TICK_CLEARED, values | {"day": statement.closing_day.isoformat()})


def put_tick(db: sqlite3.Connection, statement_id: int, line_id: int) -> None:
    sql = "INSERT INTO statement_tick (statement_id, line_id) VALUES (:statement_id, :line_id) ON CONFLICT DO NOTHING"
    db.execute(sql, {"statement_id": statement_id, "line_id": line_id})


def remove_tick(db: sqlite3.Connection, statement_id: int, line_id: int) -> None:
    sql = "DELETE FROM statement_tick WHERE statement_id = :statement_id AND line_id = :line_id"
    db.execute(sql, {"statement_id": statement_id, "line_id": line_id})


LOCK_LINES = """
    UPDATE line SET state = 'reconciled', statement_id = :id
    WHERE id IN (SELECT t.line_id FROM statement_tick t JOIN statement s ON s.id = t.statement_id JOIN line l ON l.id = t.line_id
                 WHERE t.statement_id = :id AND l.account_id = s.account_id AND l.day <= s.closing_day
                     AND l.state <> 'reconciled')"""
OPEN_LINES = """
    INSERT INTO statement_tick (statement_id, line_id) SELECT :id, id FROM line WHERE statement_id = :id"""
UNLOCK_LINES = "UPDATE line SET state = 'cleared', statement_id = NULL WHERE statement_id = :id"


def lock_ticked_lines(db: sqlite3.Connection, statement_id: int) -> None:
    """Reconciles the ticked lines with the statement, all but those that were moved out of it since; the ticks have done their
    work."""
    db.execute(LOCK_LINES, {"id": statement_id})
    db.execute("DELETE FROM statement_tick WHERE statement_id = :id", {"id": statement_id})


def unlock_lines(db: sqlite3.Connection, statement_id: int) -> None:
    """Opens the statement's lines again: cleared, and ticked on it."""
    db.execute(OPEN_LINES, {"id": statement_id})
    db.execute(UNLOCK_LINES, {"id": statement_id})


LIST_TICKED_TWICE = """
    SELECT s.closing_day FROM statement_tick t JOIN line l ON l.id = t.line_id AND l.state = 'reconciled'
    JOIN statement s ON s.id = l.statement_id LIMIT 1"""


def find_ticked_elsewhere(db: sqlite3.Connection) -> date | None:
    """The closing day of a statement that holds a line which an open check ticks as well; None if there is none."""
    row = db.execute(LIST_TICKED_TWICE).fetchone()
    return date.fromisoformat(row["closing_day"]) if row else None


SUM_WRITTEN_OFF = """
    SELECT substr(e.day, 1, 4) AS year, c.name AS category, l.currency, sum(-l.amount_minor) AS amount_minor, count(*) AS times
    FROM entry e INDEXED BY entry_by_origin CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id
    CROSS JOIN category c ON c.id = l.category_id
    WHERE e.origin = 'adjustment' AND e.origin <> '' AND l.account_id IS NULL
    GROUP BY 1, 2, 3 ORDER BY 1 DESC, abs(sum(l.amount_minor)) DESC"""


def list_written_off(db: sqlite3.Connection) -> list[WrittenOff]:
    """What could not be found at checks, by year, the latest first."""
    rows = db.execute(SUM_WRITTEN_OFF)
    return [WrittenOff(int(r["year"]), r["category"], r["currency"], r["amount_minor"], r["times"]) for r in rows]


# What was brought into its days since it was reconciled leaves a statement behind: the account is checked until the one before.
LAST_CHECKED = """
    SELECT max(s.closing_day) FROM statement s WHERE s.account_id = {} AND s.state = 'reconciled' AND NOT EXISTS (
        SELECT 1 FROM line l JOIN entry e ON e.id = l.entry_id JOIN batch b ON b.id = e.batch_id
        WHERE l.account_id = s.account_id AND l.state = 'cleared' AND l.state <> 'reconciled' AND l.day <= s.closing_day
            AND b.brought_at > s.reconciled_at)"""
CHECKED_UNTIL = f"""
    SELECT min(coalesce(({LAST_CHECKED.format("a.id")}), '')) FROM account a
    WHERE a.everyday = 1 AND a.kind <> 'cash' AND a.closed_on IS NULL"""


def find_account_checked_until(db: sqlite3.Connection, account_id: int) -> date | None:
    """The day until which an account is checked."""
    found = db.execute(LAST_CHECKED.format(":id"), {"id": account_id}).fetchone()[0]
    return date.fromisoformat(found) if found else None


def find_checked_until(db: sqlite3.Connection) -> date | None:
    """The day until which every everyday account but cash is checked, None while one never was."""
    found = db.execute(CHECKED_UNTIL).fetchone()[0]
    return date.fromisoformat(found) if found else None
