"""Trials of a year: what changes without being kept."""

import sqlite3

from bolsa.core.budget.trial import Trial, TrialCell
from bolsa.core.months import Month
from bolsa.errors import NotFound
from bolsa.store.budget.aims import list_trial_aims
from bolsa.store.connection import new_id


def insert_trial(db: sqlite3.Connection) -> int:
    """A trial without a name; gives its id."""
    return new_id(db.execute("INSERT INTO trial (name) VALUES ('')"))


def list_trials(db: sqlite3.Connection) -> list[tuple[int, str]]:
    """Every trial there is, the newest first: id, name ("" while it is being tried)."""
    return [(row["id"], row["name"]) for row in db.execute("SELECT id, name FROM trial ORDER BY id DESC")]


def get_trial(db: sqlite3.Connection, trial_id: int) -> Trial:
    """The trial whole. Raises: NotFound."""
    row = db.execute("SELECT id, name FROM trial WHERE id = :id", {"id": trial_id}).fetchone()
    if row is None:
        raise NotFound("That trial is not here any more.")
    cells, dropped = {}, {}
    sql = "SELECT category_id, month, amount_minor, every, is_end FROM trial_cell WHERE trial_id = :id ORDER BY id"
    for cell in db.execute(sql, {"id": trial_id}):
        month = Month.parse(cell["month"])
        if cell["is_end"]:
            dropped[cell["category_id"]] = month
        else:
            cells[cell["category_id"], month] = TrialCell(cell["amount_minor"], cell["every"])
    aims = {category_id: aim for category_id, (aim, _) in list_trial_aims(db, trial_id).items()}
    return Trial(row["id"], row["name"], cells, dropped, aims)


PUT_CELL = """
    INSERT INTO trial_cell (trial_id, category_id, month, amount_minor, every, is_end)
    VALUES (:trial_id, :category_id, :month, :amount_minor, :every, :is_end)
    ON CONFLICT (trial_id, category_id, month, is_end)
        DO UPDATE SET amount_minor = excluded.amount_minor, every = excluded.every"""


def put_cell(
    db: sqlite3.Connection, trial_id: int, category_id: int, month: Month, cell: TrialCell, *, is_end: bool = False
) -> None:
    """Sets a figure in a trial, or that nothing is expected from a month on."""
    values = {"trial_id": trial_id, "category_id": category_id, "month": str(month), "is_end": int(is_end)}
    db.execute(PUT_CELL, {**values, "amount_minor": cell.amount_minor, "every": cell.every})


def remove_category(db: sqlite3.Connection, trial_id: int, category_id: int) -> None:
    """Lets a category in a trial be as it is kept."""
    for table in ("trial_cell", "trial_aim"):
        db.execute(
            f"DELETE FROM {table} WHERE trial_id = :trial AND category_id = :category",
            {"trial": trial_id, "category": category_id},
        )


def remove_other_ends(db: sqlite3.Connection, trial_id: int, category_id: int, month: Month) -> None:
    """Lets a category be given up from no other month than one."""
    sql = "DELETE FROM trial_cell WHERE trial_id = :trial AND category_id = :category AND is_end = 1 AND month <> :month"
    db.execute(sql, {"trial": trial_id, "category": category_id, "month": str(month)})


def name_trial(db: sqlite3.Connection, trial_id: int, name: str) -> None:
    db.execute("UPDATE trial SET name = :name WHERE id = :id", {"id": trial_id, "name": name})


def remove_trial(db: sqlite3.Connection, trial_id: int) -> None:
    """Forgets a trial with all it changes."""
    for table in ("trial_cell", "trial_aim"):
        db.execute(f"DELETE FROM {table} WHERE trial_id = :id", {"id": trial_id})
    db.execute("DELETE FROM trial WHERE id = :id", {"id": trial_id})
