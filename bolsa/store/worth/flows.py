"""What lines moved on accounts: by day, and those that are no plain saving or spending."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.months import Month

SUM_BY_DAY = """
    SELECT l.account_id, l.day, sum(l.amount_minor) AS amount_minor FROM account a
    CROSS JOIN line l INDEXED BY line_of_account ON l.account_id = a.id
    WHERE l.day BETWEEN :first AND :last GROUP BY l.account_id, l.day"""


def sum_by_day(db: sqlite3.Connection, first: date, last: date) -> dict[int, list[tuple[date, int]]]:
    """What each account moved on each of some days, in order of day."""
    found: dict[int, list[tuple[date, int]]] = {}
    for row in db.execute(SUM_BY_DAY, {"first": first.isoformat(), "last": last.isoformat()}):
        found.setdefault(row["account_id"], []).append((date.fromisoformat(row["day"]), row["amount_minor"]))
    return found


SUM_BEFORE = "SELECT account_id, sum(amount_minor) AS amount_minor FROM account_month WHERE month < :month GROUP BY account_id"


def sum_before(db: sqlite3.Connection, month: Month) -> dict[int, int]:
    """What each account held at the end of the month before."""
    return {row["account_id"]: row["amount_minor"] for row in db.execute(SUM_BEFORE, {"month": str(month)})}


LIST_SPECIAL = """
    SELECT l.id, l.account_id, l.day, l.currency, l.amount_minor, 'value' AS kind
    FROM entry e INDEXED BY entry_by_origin CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id
    WHERE e.origin = 'value' AND e.origin <> '' AND e.day BETWEEN :first AND :last AND l.account_id IS NOT NULL
    UNION
    SELECT l.id, l.account_id, l.day, l.currency, l.amount_minor, 'opening'
    FROM line c INDEXED BY line_of_category CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = c.entry_id
    WHERE c.category_id = 2 AND c.day BETWEEN :first AND :last AND l.account_id IS NOT NULL"""


def list_special(db: sqlite3.Connection, first: date, last: date) -> list[sqlite3.Row]:
    """The account lines of some days that book a noted value or an opening balance: id, account_id, day, currency, amount_minor,
    kind."""
    return db.execute(LIST_SPECIAL, {"first": first.isoformat(), "last": last.isoformat()}).fetchall()


LIST_OF_ACCOUNTS = """
    SELECT l.id, l.account_id, l.day, l.currency, l.amount_minor FROM json_each(:ids) a
    CROSS JOIN line l INDEXED BY line_of_account ON l.account_id = a.value WHERE l.day BETWEEN :first AND :last"""


def list_lines_of(db: sqlite3.Connection, account_ids: Iterable[int], first: date, last: date) -> list[sqlite3.Row]:
    """Every line of some accounts on some days: id, account_id, day, currency, amount_minor."""
    values = {"ids": json.dumps(sorted(account_ids)), "first": first.isoformat(), "last": last.isoformat()}
    return db.execute(LIST_OF_ACCOUNTS, values).fetchall()


LIST_TRADE_LINES = """
    SELECT l.id FROM trade t CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = t.entry_id AND l.account_id IS NOT NULL
    WHERE t.entry_id IS NOT NULL AND t.day BETWEEN :first AND :last"""


def list_trade_lines(db: sqlite3.Connection, first: date, last: date) -> set[int]:
    """The account lines of some days that are the cash of trades."""
    return {row["id"] for row in db.execute(LIST_TRADE_LINES, {"first": first.isoformat(), "last": last.isoformat()})}


LIST_PAID_IN = """
    SELECT l.day, l.amount_minor FROM line l INDEXED BY line_of_account JOIN entry e ON e.id = l.entry_id
    WHERE l.account_id = :id AND l.day <= :day AND e.origin <> 'value' ORDER BY l.day, l.id"""


def list_paid_in(db: sqlite3.Connection, account_id: int, day: date) -> list[tuple[date, int]]:
    """What was paid into an account or out of it until a day, its opening balance too, and nothing that its values gained."""
    rows = db.execute(LIST_PAID_IN, {"id": account_id, "day": day.isoformat()})
    return [(date.fromisoformat(row["day"]), row["amount_minor"]) for row in rows]


LIST_MOVED = """
    SELECT l.day, sum(l.amount_minor) AS amount_minor FROM line l INDEXED BY line_of_account
    WHERE l.account_id = :id GROUP BY l.day ORDER BY l.day"""


def list_moved(db: sqlite3.Connection, account_id: int) -> list[tuple[date, int]]:
    """What an account moved on each day, in order."""
    return [(date.fromisoformat(row["day"]), row["amount_minor"]) for row in db.execute(LIST_MOVED, {"id": account_id})]


LIST_PAID_ON = """
    SELECT DISTINCT l.day FROM line l INDEXED BY line_of_account WHERE l.account_id = :id AND l.amount_minor > 0 ORDER BY l.day"""


def list_paid_on(db: sqlite3.Connection, account_id: int) -> list[date]:
    """The days on which something was paid on an account, in order."""
    return [date.fromisoformat(row["day"]) for row in db.execute(LIST_PAID_ON, {"id": account_id})]


FIND_UNHEARD = """
    SELECT l.entry_id FROM account a CROSS JOIN line l INDEXED BY line_of_amount ON l.account_id = a.id
    WHERE a.everyday = 1 AND l.amount_minor = :amount AND l.day BETWEEN :first AND :last
        AND NOT EXISTS (SELECT 1 FROM line o WHERE o.entry_id = l.entry_id AND o.account_id IS NOT NULL AND o.id <> l.id)
    ORDER BY abs(julianday(l.day) - julianday(:day)), l.id"""


def find_entry_paid(db: sqlite3.Connection, amount_minor: int, day: date, first: date, last: date) -> int | None:
    """The entry by which an everyday account paid just so much about a day and no other account heard of it; the nearest."""
    days = {"day": day.isoformat(), "first": first.isoformat(), "last": last.isoformat()}
    row = db.execute(FIND_UNHEARD, {"amount": amount_minor} | days).fetchone()
    return row["entry_id"] if row else None
