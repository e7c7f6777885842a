"""Closed months with how they stood."""

import sqlite3
from collections.abc import Mapping
from datetime import date

from bolsa.core.budget.closed import ClosedMonth, Stood
from bolsa.core.months import Month
from bolsa.store.connection import new_id

SELECT_CLOSED = """
    SELECT c.id, c.month, c.closed_on, coalesce(m.name, '') AS member, c.unplaced_minor, c.left_open
    FROM closed_month c LEFT JOIN member m ON m.id = c.member_id WHERE c.month = :month"""


def find_closed(db: sqlite3.Connection, month: Month) -> ClosedMonth | None:
    """The month as it stood when it was closed, None while it is open."""
    row = db.execute(SELECT_CLOSED, {"month": str(month)}).fetchone()
    if row is None:
        return None
    sql = "SELECT category_id, placed_minor, spent_minor, left_minor FROM closed_category WHERE closed_id = :id"
    stood = {id_: Stood(*figures) for id_, *figures in db.execute(sql, {"id": row["id"]})}
    return ClosedMonth(
        row["id"], month, date.fromisoformat(row["closed_on"]), row["member"], row["unplaced_minor"], row["left_open"], stood
    )


def list_closed(db: sqlite3.Connection) -> set[Month]:
    """The months that are closed."""
    return {Month.parse(row["month"]) for row in db.execute("SELECT month FROM closed_month")}


INSERT_CLOSED = """
    INSERT INTO closed_month (month, closed_on, member_id, unplaced_minor, left_open)
    VALUES (:month, :closed_on, :member_id, :unplaced_minor, :left_open)"""
INSERT_STOOD = """
    INSERT INTO closed_category (closed_id, category_id, placed_minor, spent_minor, left_minor)
    VALUES (:closed_id, :category_id, :placed_minor, :spent_minor, :left_minor)"""


def insert_closed(
    db: sqlite3.Connection, month: Month, closed_on: date, member_id: int | None, unplaced_minor: int, left_open: str,
    stood: Mapping[int, Stood],
) -> int:  # fmt: skip
    """Closes a month as it stands; gives the id."""
    values = {"month": str(month), "closed_on": closed_on.isoformat(), "member_id": member_id}
    closed_id = new_id(db.execute(INSERT_CLOSED, {**values, "unplaced_minor": unplaced_minor, "left_open": left_open}))
    db.executemany(INSERT_STOOD, [{"closed_id": closed_id, "category_id": id_, **vars(one)} for id_, one in stood.items()])
    return closed_id


def remove_closed(db: sqlite3.Connection, month: Month) -> None:
    """Opens a month again."""
    values = {"month": str(month)}
    db.execute("DELETE FROM closed_category WHERE closed_id IN (SELECT id FROM closed_month WHERE month = :month)", values)
    db.execute("DELETE FROM closed_month WHERE month = :month", values)


LIST_TOUCHED = """
    SELECT DISTINCT substr(coalesce(j.value ->> 'month', j.value ->> 'day'), 1, 7) AS month
    FROM (SELECT before AS value FROM journal_change WHERE step_id = :step AND table_name IN ('line', 'placing')
          UNION ALL SELECT after FROM journal_change WHERE step_id = :step AND table_name IN ('line', 'placing')) j
    JOIN closed_month c ON c.month = substr(coalesce(j.value ->> 'month', j.value ->> 'day'), 1, 7)
    WHERE j.value IS NOT NULL ORDER BY 1"""


def list_touched(db: sqlite3.Connection, step_id: int) -> list[Month]:
    """The closed months in which a step changed lines or placings."""
    return [Month.parse(row["month"]) for row in db.execute(LIST_TOUCHED, {"step": step_id})]


LIST_PLACINGS = """
    SELECT p.id, p.category_id, p.month, p.amount_minor, p.made_on, p.other_id, p.reason, c.step_id, s.at, s.sentence,
        coalesce(m.name, '') AS member
    FROM placing p LEFT JOIN journal_change c ON c.table_name = 'placing' AND c.row_id = p.id AND c.before IS NULL
    LEFT JOIN journal_step s ON s.id = c.step_id LEFT JOIN member m ON m.id = s.member_id
    WHERE p.month = :month ORDER BY p.id DESC, c.id DESC"""


def list_placed_in(db: sqlite3.Connection, month: Month) -> list[sqlite3.Row]:
    """Every placing that stands in a month, the newest first, with the step that made it (None if no step did)."""
    return db.execute(LIST_PLACINGS, {"month": str(month)}).fetchall()
