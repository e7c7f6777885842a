"""What the books know about the days ahead: payments that repeat, and entries dated in the future."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date
from typing import NamedTuple


class RepeatedLine(NamedTuple):
    """A line on an everyday account whose payee came a few times."""

    payee: str
    account_id: int
    day: date
    amount_minor: int


# Payees with many entries a month are shops, not series: they are counted no further than that, and left out.
LIST_OCCURRENCES = """
    WITH counted AS MATERIALIZED (
        SELECT p.id AS payee_id, (
            SELECT count(*) FROM (
                SELECT 1 FROM entry e WHERE e.payee_id = p.id AND e.day BETWEEN :first AND :last LIMIT 111)) AS times
        FROM payee p WHERE :among IS NULL OR p.id IN (SELECT value FROM json_each(:among)))
    SELECT p.name AS payee, l.account_id, l.day, l.amount_minor
    FROM counted c JOIN payee p ON p.id = c.payee_id AND c.times BETWEEN 3 AND 110
    CROSS JOIN entry e ON e.payee_id = c.payee_id AND e.day BETWEEN :first AND :last
    JOIN line l ON l.entry_id = e.id JOIN account a ON a.id = l.account_id AND a.everyday = 1
    ORDER BY l.day, l.id"""


def list_occurrences(db: sqlite3.Connection, first: date, last: date, among: Iterable[int] | None = None) -> list[RepeatedLine]:
    """The lines on everyday accounts of payees that came a few times on these days, in order of day; of all payees, or of
    those `among`."""
    ids = None if among is None else json.dumps(sorted(among))
    rows = db.execute(LIST_OCCURRENCES, {"first": first.isoformat(), "last": last.isoformat(), "among": ids})
    return [RepeatedLine(payee, account_id, date.fromisoformat(day), amount) for payee, account_id, day, amount in rows]


LIST_NUMBERED = """
    SELECT p.name AS payee, l.account_id, l.day, l.amount_minor
    FROM payee p JOIN entry e ON e.payee_id = p.id AND e.day BETWEEN :first AND :last
    JOIN line l ON l.entry_id = e.id JOIN account a ON a.id = l.account_id AND a.everyday = 1
    WHERE p.name GLOB '*[^0-9][0-9]' OR p.name GLOB '*[^0-9][0-9][0-9]' OR p.name GLOB '*[^0-9][0-9][0-9][0-9]'
    ORDER BY l.day, l.id"""


def list_numbered(db: sqlite3.Connection, first: date, last: date) -> list[RepeatedLine]:
    """The lines on everyday accounts of payees whose name ends with a short number, in order of day."""
    rows = db.execute(LIST_NUMBERED, {"first": first.isoformat(), "last": last.isoformat()})
    return [RepeatedLine(payee, account_id, date.fromisoformat(day), amount) for payee, account_id, day, amount in rows]


LIST_AHEAD = """
    SELECT l.account_id, l.day, l.amount_minor FROM account a CROSS JOIN line l INDEXED BY line_of_account ON l.account_id = a.id
    WHERE a.everyday = 1 AND l.account_id IS NOT NULL AND l.day > :today AND l.day <= :until"""


def list_dated_ahead(db: sqlite3.Connection, today: date, until: date) -> list[tuple[int, date, int]]:
    """The entries on everyday accounts that are dated in the coming days already: (account, day, amount)."""
    rows = db.execute(LIST_AHEAD, {"today": today.isoformat(), "until": until.isoformat()})
    return [(row["account_id"], date.fromisoformat(row["day"]), row["amount_minor"]) for row in rows]


SUM_EVERYDAY_UNTIL = """
    SELECT coalesce(sum(
        (SELECT coalesce(sum(amount_minor), 0) FROM account_month m WHERE m.account_id = a.id AND m.month < :month)
        + (SELECT coalesce(sum(amount_minor), 0) FROM line l
           WHERE l.account_id = a.id AND l.day >= :month || '-01' AND l.day <= :today)), 0)
    FROM account a WHERE a.everyday = 1"""


def sum_everyday_until(db: sqlite3.Connection, today: date) -> int:
    """The balance of all everyday accounts at the end of the day."""
    values = {"month": today.isoformat()[:7], "today": today.isoformat()}
    return db.execute(SUM_EVERYDAY_UNTIL, values).fetchone()[0]


# An account's own source is its bank: what files and connections cover, a balance it declared, a statement that was checked.
# Only an account that no source ever told of is known as far as someone kept it by hand.
LIST_KNOWN_UNTIL = """
    SELECT a.id,
        coalesce((SELECT max(c.last_day) FROM coverage c JOIN batch t ON t.id = c.batch_id AND t.state IN ('brought', 'empty')
                  WHERE c.account_id = a.id), '') AS covered,
        coalesce((SELECT max(b.day) FROM bank_balance b LEFT JOIN batch t ON t.id = b.batch_id
                  WHERE b.account_id = a.id AND (t.id IS NULL OR t.state IN ('brought', 'empty'))), '') AS declared,
        coalesce((SELECT max(s.closing_day) FROM statement s
                  WHERE s.account_id = a.id AND s.state = 'reconciled'), '') AS checked,
        coalesce((SELECT max(day) FROM line l WHERE l.account_id = a.id), a.opened_on) AS kept
    FROM account a WHERE a.everyday = 1"""


def list_known_until(db: sqlite3.Connection) -> dict[int, date]:
    """For each everyday account the latest day its source tells of."""
    return {
        row["id"]: date.fromisoformat(max(row["covered"], row["declared"], row["checked"]) or row["kept"])
        for row in db.execute(LIST_KNOWN_UNTIL)
    }
