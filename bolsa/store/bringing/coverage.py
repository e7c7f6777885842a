"""Which days of an account each batch's source covers."""

import sqlite3
from datetime import date

from bolsa.core.bringing.coverage import Coverage

# A table's layout is its shape: banks offer several, each with days and words of its own.
LAYOUT = "b.format || coalesce(':' || json_extract(nullif(b.mapping, ''), '$.told.shape'), '')"

INSERT_COVERAGE = """
    INSERT INTO coverage (batch_id, account_id, first_day, last_day, is_declared)
    VALUES (:batch_id, :account_id, :first, :last, :is_declared)"""


def insert_coverage(
    db: sqlite3.Connection, batch_id: int, account_id: int, first: date, last: date, *, is_declared: bool
) -> None:
    """Notes that a batch tells all bookings of an account on these days."""
    days = {"first": first.isoformat(), "last": last.isoformat()}
    db.execute(INSERT_COVERAGE, days | {"batch_id": batch_id, "account_id": account_id, "is_declared": int(is_declared)})


REMOVE_COVERAGE = "DELETE FROM coverage WHERE batch_id = :id"


def remove_coverage(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets what a waiting batch covers: its file is read anew."""
    db.execute(REMOVE_COVERAGE, {"id": batch_id})


LIST_OF_BATCH = f"""
    SELECT {LAYOUT} AS layout, c.first_day, c.last_day, c.is_declared FROM coverage c JOIN batch b ON b.id = c.batch_id
    WHERE c.batch_id = :batch_id AND c.account_id = :account_id ORDER BY c.first_day, c.id"""
LIST_OF_OTHERS = f"""
    SELECT {LAYOUT} AS layout, c.first_day, c.last_day, c.is_declared FROM coverage c JOIN batch b ON b.id = c.batch_id
    WHERE c.account_id = :account_id AND c.last_day >= :first AND c.first_day <= :last AND c.batch_id <> :batch_id
        AND (NOT :before OR c.batch_id < :batch_id) AND b.state IN ('brought', 'empty') ORDER BY c.first_day, c.id"""


def list_coverage_of(db: sqlite3.Connection, batch_id: int, account_id: int) -> list[Coverage]:
    """The stretches of days of an account a batch covers, in order."""
    return [_coverage(row) for row in db.execute(LIST_OF_BATCH, {"batch_id": batch_id, "account_id": account_id})]


def list_coverage_beside(
    db: sqlite3.Connection, batch_id: int, account_id: int, first: date, last: date, *, before: bool = False
) -> list[Coverage]:
    """The stretches that touch these days, of what other batches brought in, or earlier ones alone."""
    values = {"batch_id": batch_id, "account_id": account_id, "first": first.isoformat(), "last": last.isoformat()}
    values |= {"before": int(before)}
    return [_coverage(row) for row in db.execute(LIST_OF_OTHERS, values)]


def _coverage(row: sqlite3.Row) -> Coverage:
    first, last = (date.fromisoformat(row[name]) for name in ("first_day", "last_day"))
    return Coverage(row["layout"], first, last, row["is_declared"] == 1)


LAYOUT_OF = f"SELECT {LAYOUT} AS layout FROM batch b WHERE b.id = :id"


def get_layout(db: sqlite3.Connection, batch_id: int) -> str:
    """The layout of a batch's file: its format, and of a table its shape."""
    return db.execute(LAYOUT_OF, {"id": batch_id}).fetchone()["layout"]


LIST_COVERED_TWICE = """
    SELECT DISTINCT c.account_id FROM coverage c JOIN batch b ON b.id = c.batch_id AND b.state = 'brought'
    WHERE EXISTS (SELECT 1 FROM coverage o JOIN batch p ON p.id = o.batch_id AND p.state = 'brought'
        WHERE o.account_id = c.account_id AND o.batch_id < c.batch_id AND o.first_day <= c.last_day AND o.last_day >= c.first_day)
    ORDER BY c.account_id"""


def list_accounts_covered_twice(db: sqlite3.Connection) -> list[int]:
    """The accounts of which two batches cover the same days."""
    return [row["account_id"] for row in db.execute(LIST_COVERED_TWICE)]


LIST_COVERING = """
    SELECT c.batch_id, min(c.first_day) AS first_day, max(c.last_day) AS last_day
    FROM coverage c JOIN batch b ON b.id = c.batch_id AND b.state = 'brought'
    WHERE c.account_id = :account_id GROUP BY c.batch_id ORDER BY c.batch_id"""


def list_batches_covering(db: sqlite3.Connection, account_id: int) -> list[tuple[int, date, date]]:
    """The batches brought in for an account, in their order, each with the first and the last day it covers."""
    return [
        (row["batch_id"], date.fromisoformat(row["first_day"]), date.fromisoformat(row["last_day"]))
        for row in db.execute(LIST_COVERING, {"account_id": account_id})
    ]


LIST_ALL = f"""
    SELECT {LAYOUT} AS layout, c.first_day, c.last_day, c.is_declared FROM coverage c JOIN batch b ON b.id = c.batch_id
    WHERE c.account_id = :account_id AND b.state IN ('brought', 'empty') ORDER BY c.first_day, c.last_day"""


def list_coverage(db: sqlite3.Connection, account_id: int) -> list[Coverage]:
    """The stretches of an account that were brought in, in order."""
    return [_coverage(row) for row in db.execute(LIST_ALL, {"account_id": account_id})]
