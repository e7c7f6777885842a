"""Filters of a list as (clauses, params): the values never enter the SQL text.

A register is walked in its order and stops when a page is full, so a filter that nearly everything passes costs nothing, and
one that hardly anything passes would read the whole account. Therefore each selective filter can also list its lines first;
the smallest such list, if it is short, leads the way.
"""

import json
import re
import sqlite3

from bolsa.core.ledger.payees import clean_text
from bolsa.core.ledger.register import RegisterFilter

Where = tuple[list[str], dict[str, object]]
SHORT = 10_000  # lines a filter may list before it is not worth leading by


def match_words(text: str) -> str:
    """The text as a query of the index: every word, each by its beginning; "" if it holds none."""
    words = re.findall(r"[^\W_]+", clean_text(text))
    return " ".join(f'"{word}"*' for word in words)


# The index is named: SQLite would look through all lines of a category for each line of the register.
_OF_ENTRY = "SELECT 1 FROM line o INDEXED BY line_of_entry WHERE o.entry_id = l.entry_id"


def where_register(wanted: RegisterFilter) -> Where:
    """The clauses over line l, entry e, payee p that a register's filter asks for."""
    clauses: list[str] = []
    params: dict[str, object] = {}
    if wanted.text:
        clauses.append(WORDS_CLAUSE)
        params["words"] = match_words(wanted.text) or '""'
    if wanted.state:
        clauses.append("l.state = :state")
        params["state"] = wanted.state
    if wanted.payee:
        clauses.append("p.name = :payee COLLATE NOCASE")
        params["payee"] = wanted.payee
    if wanted.category_id is not None:
        clauses.append(f"EXISTS ({_OF_ENTRY} AND o.category_id = :category_id)")
        params["category_id"] = wanted.category_id
    if wanted.tag:
        clauses.append(
            "EXISTS (SELECT 1 FROM line o INDEXED BY line_of_entry CROSS JOIN line_tag x ON x.line_id = o.id "
            "CROSS JOIN tag t ON t.id = x.tag_id WHERE o.entry_id = l.entry_id AND t.name = :tag COLLATE NOCASE)"
        )
        params["tag"] = wanted.tag
    if wanted.member_id is not None:
        clauses.append(f"EXISTS ({_OF_ENTRY} AND o.member_id = :member_id)")
        params["member_id"] = wanted.member_id
    for bound, compare, name in ((wanted.least_minor, ">=", "at_least"), (wanted.most_minor, "<=", "at_most")):
        if bound is not None:
            clauses.append(f"abs(l.amount_minor) {compare} :{name}")
            params[name] = abs(bound)
    if wanted.first_day:
        clauses.append("l.day >= :first_day")
        params["first_day"] = wanted.first_day.isoformat()
    if wanted.last_day:
        clauses.append("l.day <= :last_day")
        params["last_day"] = wanted.last_day.isoformat()
    if wanted.in_series is not None:
        clauses.append(f"e.payee_id {'' if wanted.in_series else 'NOT '}IN (SELECT value FROM json_each(:series_payees))")
        params["series_payees"] = json.dumps(wanted.series_payees)
        if wanted.in_series:
            params["series"] = 1  # their lines may lead
    return clauses, params


_LEADERS = {
    "words": "SELECT rowid AS id FROM line_text WHERE line_text MATCH :words",
    "payee": """SELECT l.id FROM payee p JOIN entry e ON e.payee_id = p.id CROSS JOIN line l INDEXED BY line_of_entry
                ON l.entry_id = e.id WHERE p.name = :payee COLLATE NOCASE AND l.account_id = :account_id""",
    "category_id": """SELECT l.id FROM line o CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
                      WHERE o.category_id = :category_id AND l.account_id = :account_id""",
    "tag": """SELECT l.id FROM tag t JOIN line_tag x ON x.tag_id = t.id JOIN line o ON o.id = x.line_id
              CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
              WHERE t.name = :tag COLLATE NOCASE AND l.account_id = :account_id""",
    "member_id": """SELECT l.id FROM line o CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
                    WHERE o.member_id = :member_id AND l.account_id = :account_id""",
    "series": """SELECT l.id FROM json_each(:series_payees) s CROSS JOIN entry e INDEXED BY entry_of_payee ON e.payee_id = s.value
                 CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id WHERE l.account_id = :account_id""",
    "state": """SELECT l.id FROM line l WHERE l.account_id = :account_id AND l.state = :state AND l.state <> 'reconciled'""",
    "at_most": """SELECT l.id FROM line l INDEXED BY line_of_amount
                  WHERE l.account_id = :account_id AND l.amount_minor BETWEEN :at_least AND :at_most
                  UNION ALL SELECT l.id FROM line l INDEXED BY line_of_amount
                  WHERE l.account_id = :account_id AND l.amount_minor BETWEEN -:at_most AND min(-:at_least, -1)""",
}


WORDS_CLAUSE = "l.id IN (SELECT rowid FROM line_text WHERE line_text MATCH :words)"


def lead(db: sqlite3.Connection, account_id: int, where: Where) -> bool:
    """Lets the most selective filter's lines lead, if any lists fewer than SHORT: the parameter `leading` is then their list.

    Gives whether one leads; else the register is walked in its order.
    """
    clauses, params = where
    values = {"at_least": 0, **params, "account_id": account_id}
    shortest: list[int] | None = None
    leader = ""
    for name, sql in _LEADERS.items():
        if name not in params or (name == "state" and params["state"] == "reconciled"):
            continue
        most = len(shortest) if shortest is not None else SHORT
        found = [row["id"] for row in db.execute(f"{sql} LIMIT {most}", values)]
        if len(found) < most:
            shortest, leader = list(dict.fromkeys(found)), name  # a split may name a line twice
    if shortest is None:
        return False
    if leader == "words":  # the index was asked; once is enough
        clauses.remove(WORDS_CLAUSE)
        del params["words"]
    params["leading"] = json.dumps(shortest)
    return True
