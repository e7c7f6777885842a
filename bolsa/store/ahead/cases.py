"""Cases of the long view: a name and a plan each."""

import sqlite3

from bolsa.core.ahead.plan import Case, as_text, read_plan
from bolsa.store.connection import new_id


def list_cases(db: sqlite3.Connection) -> list[Case]:
    """The cases in order; the first is the one the others are compared with."""
    rows = db.execute("SELECT id, name, position, plan FROM plan_case ORDER BY position, id")
    return [Case(row["id"], row["name"], row["position"], read_plan(row["plan"])) for row in rows]


def insert_case(db: sqlite3.Connection, case: Case) -> int:
    values = {"name": case.name, "position": case.position, "plan": as_text(case.plan)}
    return new_id(db.execute("INSERT INTO plan_case (name, position, plan) VALUES (:name, :position, :plan)", values))


def change_case(db: sqlite3.Connection, case: Case) -> None:
    sql = "UPDATE plan_case SET name = :name, position = :position, plan = :plan WHERE id = :id"
    db.execute(sql, {"id": case.id, "name": case.name, "position": case.position, "plan": as_text(case.plan)})


def remove_case(db: sqlite3.Connection, case_id: int) -> None:
    db.execute("DELETE FROM plan_case WHERE id = :id", {"id": case_id})
