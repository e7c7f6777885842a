"""What the books say of payees: entries, sums, categories, what banks write, names they had."""

import sqlite3
from datetime import date

from bolsa.core.ledger.belongings import PayeeEntry
from bolsa.core.months import Month

# Where a payee goes most often: https://sqlite.org/lang_select.html#bareagg gives the category of the row with the maximum.
LIST_FACTS = """
    WITH kept AS (
        SELECT m.payee_id, m.category_id, iif(m.category_id > 3, count(*), 0) AS many,
            sum(iif(m.currency = h.home_currency, m.amount_minor, 0)) AS amount
        FROM household h CROSS JOIN answer_month m GROUP BY 1, 2),
    sums AS (SELECT payee_id, category_id, max(many) AS many, sum(amount) AS amount FROM kept GROUP BY 1),
    counts AS (SELECT payee_id, count(*) AS many, max(day) AS last FROM entry INDEXED BY entry_of_payee GROUP BY payee_id)
    SELECT p.id, p.name, p.category_id AS usual_id, p.apart, coalesce(c.many, 0) AS entry_count, c.last,
        coalesce(s.amount, 0) AS amount, iif(s.many > 0, s.category_id, NULL) AS category_id
    FROM payee p LEFT JOIN counts c ON c.payee_id = p.id LEFT JOIN sums s ON s.payee_id = p.id
    WHERE coalesce(c.many, 0) > 0 OR p.category_id IS NOT NULL ORDER BY entry_count DESC, p.name"""


def list_facts(db: sqlite3.Connection) -> list[sqlite3.Row]:
    """Each payee that has entries: id, name, usual_id, apart, entry_count, last, amount (spent, in home currency), category_id
    (where it goes in most months)."""
    return db.execute(LIST_FACTS).fetchall()


SUM_BY_MONTH = """
    SELECT m.month, sum(m.amount_minor) AS amount FROM answer_month m JOIN household h ON h.home_currency = m.currency
    WHERE m.payee_id = :id GROUP BY 1"""


def sum_by_month(db: sqlite3.Connection, payee_id: int) -> dict[str, int]:
    """What was spent with a payee by month, in home currency."""
    return {row["month"]: row["amount"] for row in db.execute(SUM_BY_MONTH, {"id": payee_id})}


LIST_LINES = """
    SELECT e.id AS entry_id, l.day, p.name AS payee, l.amount_minor
    FROM entry e INDEXED BY entry_of_payee CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id
    CROSS JOIN household h ON h.home_currency = l.currency JOIN payee p ON p.id = e.payee_id
    WHERE e.payee_id = :id AND l.account_id IS NULL AND l.day >= :first AND l.day <= :last
        AND NOT EXISTS (SELECT 1 FROM kept_out k WHERE k.id = e.id)
    ORDER BY l.day DESC, l.id DESC"""


def list_lines(db: sqlite3.Connection, payee_id: int, month: Month) -> list[sqlite3.Row]:
    """The lines a payee's month is the sum of (entry_id, day, payee, amount_minor), the latest first."""
    values = {"id": payee_id, "first": month.first_day.isoformat(), "last": month.last_day.isoformat()}
    return db.execute(LIST_LINES, values).fetchall()


def count_entries(db: sqlite3.Connection, payee_id: int) -> int:
    row = db.execute("SELECT count(*) FROM entry WHERE payee_id = :id", {"id": payee_id}).fetchone()
    return int(row[0])


COUNT_BY_CATEGORY = """
    SELECT coalesce(c.category_id, 0) AS category_id, count(*) AS many
    FROM entry e LEFT JOIN line c ON c.entry_id = e.id AND c.account_id IS NULL
    WHERE e.payee_id = :id GROUP BY 1 ORDER BY 2 DESC"""


def count_by_category(db: sqlite3.Connection, payee_id: int) -> list[tuple[int, int]]:
    """Where a payee's entries went: the category (0 for transfers) and how many, most first."""
    return [(row["category_id"], row["many"]) for row in db.execute(COUNT_BY_CATEGORY, {"id": payee_id})]


LIST_SPELLINGS = """
    SELECT l.raw_text, count(*) AS many FROM entry e JOIN line l ON l.entry_id = e.id AND l.raw_text <> ''
    WHERE e.payee_id = :id GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT 20"""


def list_spellings(db: sqlite3.Connection, payee_id: int) -> list[tuple[str, int]]:
    """What banks write of a payee, and how often, most often first."""
    return [(row["raw_text"], row["many"]) for row in db.execute(LIST_SPELLINGS, {"id": payee_id})]


LIST_FORMER = """
    SELECT c.before ->> 'name' AS name, s.at FROM journal_change c JOIN journal_step s ON s.id = c.step_id
    WHERE c.table_name = 'payee' AND c.row_id = :id AND c.before IS NOT NULL AND c.after IS NOT NULL
        AND c.before ->> 'name' <> c.after ->> 'name' ORDER BY c.id DESC LIMIT 10"""


def list_former_names(db: sqlite3.Connection, payee_id: int) -> list[tuple[str, str]]:
    """The names a payee had, and when it lost each."""
    return [(row["name"], row["at"]) for row in db.execute(LIST_FORMER, {"id": payee_id})]


LIST_ENTRIES = """
    SELECT e.id AS entry_id, e.day, e.memo, l.amount_minor, l.currency, a.name AS account,
        (SELECT iif(count(*) > 1, 'split', max(k.name)) FROM line c JOIN category k ON k.id = c.category_id
         WHERE c.entry_id = e.id AND c.account_id IS NULL) AS category
    FROM entry e JOIN line l ON l.id = (SELECT min(x.id) FROM line x WHERE x.entry_id = e.id AND x.account_id IS NOT NULL)
    JOIN account a ON a.id = l.account_id
    WHERE e.payee_id = :id ORDER BY e.day DESC, e.id DESC LIMIT :most OFFSET :offset"""


def list_entries(db: sqlite3.Connection, payee_id: int, most: int, offset: int) -> list[PayeeEntry]:
    """A payee's entries, the latest first."""
    return [
        PayeeEntry(**{**dict(row), "day": date.fromisoformat(row["day"]), "category": row["category"] or ""})
        for row in db.execute(LIST_ENTRIES, {"id": payee_id, "most": most, "offset": offset})
    ]
