"""Aims, the accounts they stand on, and what these hold month by month."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date
from itertools import accumulate

from bolsa.core.budget.aims import Aim, KeptAim
from bolsa.core.months import Month

COLUMNS = "kind, amount_minor, by_day, each_minor, repeat, since"


def aim_of(row: sqlite3.Row) -> Aim:
    """The aim of a row with COLUMNS."""
    by = Month.parse(row["by_day"][:7]) if row["by_day"] else None
    return Aim(row["kind"], row["amount_minor"], by, row["each_minor"], row["repeat"], Month.parse(row["since"]))


def list_aims(db: sqlite3.Connection) -> dict[int, KeptAim]:
    """Every aim but those month by month, by category."""
    on: dict[int, list[int]] = {}
    for aim_id, account_id in db.execute("SELECT aim_id, account_id FROM aim_account ORDER BY account_id"):
        on.setdefault(aim_id, []).append(account_id)
    return {
        row["id"]: KeptAim(
            aim_of(row), date.fromisoformat(row["by_day"]) if row["by_day"] else None, tuple(on.get(row["id"], ())),
            row["mark"], row["sha256"],
        )
        for row in db.execute(f"SELECT id, {COLUMNS}, mark, sha256 FROM aim")
    }  # fmt: skip


LIST_HELD = """
    SELECT o.aim_id, m.month, sum(m.amount_minor) AS amount_minor FROM household h JOIN aim_account o
    JOIN account a ON a.id = o.account_id AND a.currency = h.home_currency AND a.everyday = 0
    JOIN account_month m ON m.account_id = o.account_id GROUP BY 1, 2 ORDER BY 1, 2"""


def list_held(db: sqlite3.Connection) -> dict[int, dict[Month, int]]:
    """By category: what the accounts of its aim (those apart, in home currency) held together at the end of each month in which
    that changed."""
    moved: dict[int, dict[Month, int]] = {}
    for aim_id, month, amount_minor in db.execute(LIST_HELD):
        moved.setdefault(aim_id, {})[Month.parse(month)] = amount_minor
    return {id_: dict(zip(of, accumulate(of.values()), strict=True)) for id_, of in moved.items()}


SUM_HELD = """
    SELECT month, sum(amount_minor) AS amount_minor FROM account_month
    WHERE account_id IN (SELECT value FROM json_each(:ids)) GROUP BY 1 ORDER BY 1"""


def list_held_of(db: sqlite3.Connection, account_ids: Iterable[int]) -> dict[Month, int]:
    """What accounts hold together at the end of each month in which that changed."""
    rows = db.execute(SUM_HELD, {"ids": json.dumps(sorted(account_ids))}).fetchall()
    sums = accumulate(row["amount_minor"] for row in rows)
    return {Month.parse(row["month"]): amount for row, amount in zip(rows, sums, strict=True)}


PUT_AIM = f"""
    INSERT INTO aim (id, {COLUMNS}) VALUES (:id, :kind, :amount_minor, :by_day, :each_minor, :repeat, :since)
    ON CONFLICT (id) DO UPDATE SET kind = excluded.kind, amount_minor = excluded.amount_minor, by_day = excluded.by_day,
        each_minor = excluded.each_minor, repeat = excluded.repeat, since = excluded.since"""


def put_aim(db: sqlite3.Connection, category_id: int, aim: Aim, by_day: date | None, account_ids: tuple[int, ...]) -> None:
    """Sets a category's aim and the accounts it stands on; its sign and picture stay."""
    db.execute(PUT_AIM, {"id": category_id, **_values(aim, by_day)})
    there = {
        row["account_id"] for row in db.execute("SELECT account_id FROM aim_account WHERE aim_id = :id", {"id": category_id})
    }
    for account_id in there - set(account_ids):
        db.execute(
            "DELETE FROM aim_account WHERE aim_id = :id AND account_id = :account", {"id": category_id, "account": account_id}
        )
    for account_id in set(account_ids) - there:
        sql = "INSERT INTO aim_account (aim_id, account_id) VALUES (:id, :account)"
        db.execute(sql, {"id": category_id, "account": account_id})


def _values(aim: Aim, by_day: date | None) -> dict[str, object]:
    return {
        "kind": aim.kind, "amount_minor": aim.amount_minor, "by_day": by_day.isoformat() if by_day else None,
        "each_minor": aim.each_minor, "repeat": aim.repeat, "since": str(aim.since),
    }  # fmt: skip


def remove_aim(db: sqlite3.Connection, category_id: int) -> None:
    """Lets the category be filled month by month."""
    db.execute("DELETE FROM aim_account WHERE aim_id = :id", {"id": category_id})
    db.execute("DELETE FROM aim WHERE id = :id", {"id": category_id})


def set_sign(db: sqlite3.Connection, category_id: int, mark: str, sha256: str | None) -> None:
    """Gives an aim its sign, or the picture kept under a hash."""
    sql = "UPDATE aim SET mark = :mark, sha256 = :sha256 WHERE id = :id"
    db.execute(sql, {"id": category_id, "mark": mark, "sha256": sha256})


PUT_TRIAL_AIM = f"""
    INSERT INTO trial_aim (trial_id, category_id, {COLUMNS})
    VALUES (:trial_id, :category_id, :kind, :amount_minor, :by_day, :each_minor, :repeat, :since)
    ON CONFLICT (trial_id, category_id) DO UPDATE SET kind = excluded.kind, amount_minor = excluded.amount_minor,
        by_day = excluded.by_day, each_minor = excluded.each_minor, repeat = excluded.repeat, since = excluded.since"""


def put_trial_aim(db: sqlite3.Connection, trial_id: int, category_id: int, aim: Aim, by_day: date | None) -> None:
    """Sets the aim a category has in a trial."""
    db.execute(PUT_TRIAL_AIM, {"trial_id": trial_id, "category_id": category_id, **_values(aim, by_day)})


def list_trial_aims(db: sqlite3.Connection, trial_id: int) -> dict[int, tuple[Aim, date | None]]:
    """The aims of a trial by category, each with its day."""
    rows = db.execute(f"SELECT category_id, {COLUMNS} FROM trial_aim WHERE trial_id = :id", {"id": trial_id})
    return {row["category_id"]: (aim_of(row), date.fromisoformat(row["by_day"]) if row["by_day"] else None) for row in rows}
