"""Finding across everything by the words of the lines, and by names."""

import json
import sqlite3
from datetime import date

from bolsa.core.ledger.register import FoundLine
from bolsa.store.ledger.where import match_words

# The index gives the latest written first, and is left as soon as enough are found.
FIND_LINES = """
    SELECT l.id AS line_id, e.id AS entry_id, l.account_id, a.name AS account, l.currency, l.day, p.name AS payee, e.memo,
        l.amount_minor
    FROM (SELECT rowid FROM line_text WHERE line_text MATCH :words AND rowid < :before ORDER BY rowid DESC LIMIT :most) t
    JOIN line l ON l.id = t.rowid JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    JOIN account a ON a.id = l.account_id ORDER BY l.id DESC"""


def find_lines(db: sqlite3.Connection, text: str, most: int, before_line_id: int = 2**62) -> list[FoundLine]:
    """The lines that hold every word of the text (by its beginning), the latest written first."""
    words = match_words(text)
    if not words:
        return []
    rows = db.execute(FIND_LINES, {"words": words, "most": most, "before": before_line_id})
    return [_found(row) for row in rows]


def _found(row: sqlite3.Row) -> FoundLine:
    return FoundLine(**{**dict(row), "day": date.fromisoformat(row["day"])})


FIND_AMOUNT = """
    SELECT l.id AS line_id, e.id AS entry_id, l.account_id, a.name AS account, l.currency, l.day, p.name AS payee, e.memo,
        l.amount_minor
    FROM json_each(:ids) n JOIN account a ON a.id = n.value
    JOIN line l ON l.account_id = a.id AND l.amount_minor IN (:amount, -:amount)
    JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    ORDER BY l.day DESC, l.id DESC LIMIT :most"""


def find_amount(db: sqlite3.Connection, amount_minor: int, most: int) -> list[FoundLine]:
    """The lines of this amount, in or out, the latest first."""
    ids = json.dumps([row["id"] for row in db.execute("SELECT id FROM account")])
    return [_found(row) for row in db.execute(FIND_AMOUNT, {"ids": ids, "amount": abs(amount_minor), "most": most})]


FIND_PAYEES = """
    SELECT p.id, p.name, (SELECT l.account_id FROM entry e JOIN line l ON l.entry_id = e.id AND l.account_id IS NOT NULL
                          WHERE e.payee_id = p.id ORDER BY e.day DESC LIMIT 1) AS account_id
    FROM payee p WHERE p.name LIKE :text ESCAPE '\\' ORDER BY p.name NOT LIKE :begins ESCAPE '\\',
        (SELECT max(e.day) FROM entry e WHERE e.payee_id = p.id) DESC, p.name LIMIT :most"""


def find_payees(db: sqlite3.Connection, text: str, most: int) -> list[tuple[str, int]]:
    """Payees whose name holds the text, those beginning with it and lately paid first, each with its latest entry's account."""
    escaped = text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    rows = db.execute(FIND_PAYEES, {"text": f"%{escaped}%", "begins": f"{escaped}%", "most": most})
    return [(row["name"], row["account_id"]) for row in rows if row["account_id"]]
