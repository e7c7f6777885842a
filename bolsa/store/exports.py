"""Every row of the household, for export, and safe copies of the whole file."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

# (file, heads, query); amounts leave as minor units and are written as decimals by the service.
TABLES = (
    ("accounts", "SELECT id, name, kind, side, everyday, currency, institution, number, group_name, opened_on, shown, note FROM account ORDER BY id"),
    ("categories", "SELECT c.id, g.name AS group_name, c.name, c.type, c.role, c.in_budget, c.carries, c.carries_minus, c.retired, c.note FROM category c JOIN category_group g ON g.id = c.group_id ORDER BY c.id"),
    ("entries", "SELECT e.id, e.day, p.name AS payee, e.memo, e.note FROM entry e JOIN payee p ON p.id = e.payee_id ORDER BY e.id"),
    ("lines", "SELECT id, entry_id, account_id, category_id, currency, amount_minor, day, state, bank_ref, value_day, raw_text, statement_id FROM line ORDER BY id"),
    ("statements", "SELECT s.id, s.account_id, s.closing_day, a.currency, s.opening_minor, s.closing_minor, s.state FROM statement s JOIN account a ON a.id = s.account_id ORDER BY s.id"),
    ("expected", "SELECT x.category_id, x.month, h.home_currency AS currency, x.amount_minor FROM expected x, household h ORDER BY x.category_id, x.month"),
    ("placings", "SELECT x.id, x.category_id, x.month, h.home_currency AS currency, x.amount_minor, x.made_on, x.other_id, x.reason FROM placing x, household h ORDER BY x.id"),
    ("rates", "SELECT currency, day, rate_e8 FROM rate ORDER BY currency, day"),
)  # fmt: skip


def list_table(db: sqlite3.Connection, sql: str) -> Iterator[sqlite3.Row]:
    """The rows of one exported table, one at a time."""
    yield from db.execute(sql)


def copy_whole(db: sqlite3.Connection, target: Path) -> None:
    """Writes a consistent copy of the file, also while it is in use."""
    copy = sqlite3.connect(target)
    try:
        db.backup(copy)
        copy.execute("PRAGMA journal_mode = DELETE")
    finally:
        copy.close()
