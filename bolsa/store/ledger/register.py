"""A page of an account's register, found by key (register_order.py), so that the last page is as quick as the first."""

import json
import sqlite3
from datetime import date, timedelta

from bolsa.core.ledger.register import OtherSide, RegisterFilter, RegisterPage, RegisterRow
from bolsa.store.accounts.accounts import sum_balance
from bolsa.store.ledger.register_order import find_lines

PAGE_ROWS = 80
FEW_IN_MONTH = 9  # rows up to which summing each is quicker than walking the month


LIST_REGISTER = """
    SELECT l.id AS line_id, e.id AS entry_id, e.payee_id, l.day, l.value_day, p.name AS payee, e.memo, e.note, l.amount_minor,
        l.state, l.raw_text, (SELECT count(*) FROM attachment t WHERE t.entry_id = e.id) AS attachments
    FROM json_each(:ids) j CROSS JOIN line l ON l.id = j.value JOIN entry e ON e.id = l.entry_id
    JOIN payee p ON p.id = e.payee_id ORDER BY j.key"""


def list_register(
    db: sqlite3.Connection,
    account_id: int,
    wanted: RegisterFilter,
    *,
    order: str = "day",
    newest_first: bool = True,
    after: str | None = None,
    most: int = PAGE_ROWS,
) -> RegisterPage:
    """One page of the account's lines in an order (one of ORDERS) and direction.

    `after` is the `next_key` of the page before. Raises: InvalidInput if it is not such a key.
    """
    ids, next_key = find_lines(db, account_id, wanted, order=order, newest_first=newest_first, after=after, most=most)
    found = db.execute(LIST_REGISTER, {"ids": json.dumps(ids)}).fetchall()
    balances = _balances(db, account_id, found, consecutive=order == "day" and wanted.is_empty, newest_first=newest_first)
    others = list_other_sides(db, ids)
    rows = tuple(_register_row(row, balances[row["line_id"]], others.get(row["line_id"], [])) for row in found)
    return RegisterPage(rows, next_key)


def _register_row(row: sqlite3.Row, balance_minor: int, others: list[OtherSide]) -> RegisterRow:
    days = {
        "day": date.fromisoformat(row["day"]),
        "value_day": date.fromisoformat(row["value_day"]) if row["value_day"] else None,
    }
    return RegisterRow(**{**dict(row), **days}, balance_minor=balance_minor, others=tuple(others))


def _balances(
    db: sqlite3.Connection, account_id: int, rows: list[sqlite3.Row], *, consecutive: bool, newest_first: bool
) -> dict[int, int]:
    """The balance after each row: counted along when the rows follow each other, else asked one by one."""
    if not consecutive:
        return _scattered_balances(db, account_id, rows)
    balances: dict[int, int] = {}
    ordered = rows if newest_first else rows[::-1]
    balance = sum_balance(db, account_id, date.fromisoformat(ordered[0]["day"]), ordered[0]["line_id"]) if ordered else 0
    for row in ordered:
        balances[row["line_id"]] = balance
        balance -= row["amount_minor"]
    return balances


WALK_MONTH = """
    SELECT id, amount_minor FROM line WHERE account_id = :account_id AND day >= :first AND day <= :last ORDER BY day, id"""


def _scattered_balances(db: sqlite3.Connection, account_id: int, rows: list[sqlite3.Row]) -> dict[int, int]:
    """The balance after each of some rows: of many in one month counted along, of few summed one by one."""
    balances: dict[int, int] = {}
    months: dict[str, list[sqlite3.Row]] = {}
    for row in rows:
        months.setdefault(row["day"][:7], []).append(row)
    for members in months.values():
        if len(members) < FEW_IN_MONTH:
            days = {row["line_id"]: date.fromisoformat(row["day"]) for row in members}
            balances |= {id_: sum_balance(db, account_id, day, id_) for id_, day in days.items()}
            continue
        wanted, last = {row["line_id"] for row in members}, max(row["day"] for row in members)
        first = date.fromisoformat(last).replace(day=1)
        balance = sum_balance(db, account_id, first - timedelta(days=1))
        for line_id, amount in db.execute(WALK_MONTH, {"account_id": account_id, "first": first.isoformat(), "last": last}):
            balance += amount
            if line_id in wanted:
                balances[line_id] = balance
    return balances


LIST_OTHER_SIDES = """
    SELECT l.id AS line_id, o.category_id, o.account_id, o.amount_minor,
           CASE WHEN o.account_id IS NULL THEN c.name ELSE a.name END AS name, coalesce(m.name, '') AS member,
           (SELECT group_concat(t.name, char(31)) FROM line_tag x JOIN tag t ON t.id = x.tag_id WHERE x.line_id = o.id) AS tags
    FROM line l JOIN line o ON o.entry_id = l.entry_id AND o.id <> l.id
    LEFT JOIN category c ON c.id = o.category_id LEFT JOIN account a ON a.id = o.account_id
    LEFT JOIN member m ON m.id = o.member_id
    WHERE l.id IN (SELECT value FROM json_each(:ids)) AND c.role IS NOT 'exchange' ORDER BY l.id, o.id"""


def list_other_sides(db: sqlite3.Connection, line_ids: list[int]) -> dict[int, list[OtherSide]]:
    """For each line what stands against it in its entry."""
    sides: dict[int, list[OtherSide]] = {}
    for row in db.execute(LIST_OTHER_SIDES, {"ids": json.dumps(line_ids)}):
        values = {name: row[name] for name in ("category_id", "account_id", "name", "amount_minor", "member")}
        tags = tuple(sorted(row["tags"].split("\x1f"))) if row["tags"] else ()
        sides.setdefault(row["line_id"], []).append(OtherSide(**values, tags=tags))
    return sides


SUM_CHOSEN = """
    SELECT count(*) AS lines, coalesce(sum(amount_minor), 0) AS amount_minor FROM line
    WHERE account_id = :account_id AND entry_id IN (SELECT value FROM json_each(:ids))"""


def sum_chosen(db: sqlite3.Connection, account_id: int, entry_ids: list[int]) -> tuple[int, int]:
    """How many lines these entries have on the account, and their sum."""
    row = db.execute(SUM_CHOSEN, {"account_id": account_id, "ids": json.dumps(entry_ids)}).fetchone()
    return row["lines"], row["amount_minor"]


LIST_LINES_BETWEEN = """
    SELECT l.id AS line_id, e.id AS entry_id, l.day, p.name AS payee, e.memo, l.amount_minor, l.state
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.day >= :first AND l.day <= :last ORDER BY l.day, l.id"""


def list_lines_between(db: sqlite3.Connection, account_id: int, first: date, last: date) -> list[sqlite3.Row]:
    """An account's lines of some days in order: line_id, entry_id, day, payee, memo, amount_minor, state."""
    values = {"account_id": account_id, "first": first.isoformat(), "last": last.isoformat()}
    return db.execute(LIST_LINES_BETWEEN, values).fetchall()
