"""How debts are to be paid off: the plan, the order by hand, and single payments."""

import sqlite3

from bolsa.core.ahead.debts import DebtPlan
from bolsa.core.months import Month


def get_plan(db: sqlite3.Connection) -> DebtPlan:
    row = db.execute("SELECT more_minor, order_key FROM debt_plan").fetchone()
    once = {
        Month.parse(one["month"]): one["amount_minor"]
        for one in db.execute("SELECT month, amount_minor FROM debt_payment ORDER BY month")
    }
    places = {
        one["account_id"]: one["position"] for one in db.execute("SELECT account_id, position FROM debt_place ORDER BY position")
    }
    return DebtPlan(row["more_minor"], row["order_key"], once, places)


def change_plan(db: sqlite3.Connection, more_minor: int, order: str) -> None:
    db.execute("UPDATE debt_plan SET more_minor = :more, order_key = :order_key", {"more": more_minor, "order_key": order})


def put_places(db: sqlite3.Connection, account_ids: list[int]) -> None:
    """The order by hand, in place of the one before."""
    db.execute("DELETE FROM debt_place")
    for position, account_id in enumerate(account_ids, 1):
        sql = "INSERT INTO debt_place (account_id, position) VALUES (:account, :position)"
        db.execute(sql, {"account": account_id, "position": position})


def put_payment(db: sqlite3.Connection, month: Month, amount_minor: int) -> None:
    """A single payment in a month; nothing takes it out."""
    db.execute("DELETE FROM debt_payment WHERE month = :month", {"month": str(month)})
    if amount_minor:
        sql = "INSERT INTO debt_payment (month, amount_minor) VALUES (:month, :amount)"
        db.execute(sql, {"month": str(month), "amount": amount_minor})
