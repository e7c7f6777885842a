"""The household itself: its name, home currency, clock setting, members, settings, and its sittings."""

import sqlite3
from datetime import date

from bolsa.core.house.kept import Household, Member, Sitting
from bolsa.errors import NotFound
from bolsa.store.connection import new_id


def find_household(db: sqlite3.Connection) -> Household | None:
    row = db.execute("SELECT name, home_currency, time_zone, set_day FROM household").fetchone()
    if row is None:
        return None
    set_day = date.fromisoformat(row["set_day"]) if row["set_day"] else None
    return Household(row["name"], row["home_currency"], row["time_zone"], set_day)


def get_household(db: sqlite3.Connection) -> Household:
    found = find_household(db)
    if found is None:
        raise NotFound("The file holds no household yet. Make one with “bolsa init”.")
    return found


INSERT_HOUSEHOLD = """
    INSERT INTO household (id, name, home_currency, time_zone, set_day)
    VALUES (1, :name, :home_currency, :time_zone, :set_day)"""


def insert_household(db: sqlite3.Connection, household: Household) -> None:
    set_day = household.set_day.isoformat() if household.set_day else None
    db.execute(INSERT_HOUSEHOLD, {**household.__dict__, "set_day": set_day})


def change_set_day(db: sqlite3.Connection, day: date | None) -> None:
    db.execute("UPDATE household SET set_day = :day", {"day": day.isoformat() if day else None})


CHANGE_HOUSEHOLD = "UPDATE household SET name = :name, home_currency = :home_currency, time_zone = :time_zone"


def change_household(db: sqlite3.Connection, household: Household) -> None:
    """Writes the household's name, home currency and time zone; its clock stays."""
    db.execute(CHANGE_HOUSEHOLD, {**household.__dict__, "set_day": None})


def change_member(db: sqlite3.Connection, member: Member) -> None:
    """Writes a member's name and birth year."""
    db.execute("UPDATE member SET name = :name, birth_year = :birth_year WHERE id = :id", member.__dict__)


def remove_member(db: sqlite3.Connection, member_id: int) -> None:
    """Takes a member out. Raises: sqlite3.IntegrityError while anything refers to them."""
    db.execute("DELETE FROM member WHERE id = :id", {"id": member_id})


def insert_member(db: sqlite3.Connection, name: str) -> int:
    return new_id(db.execute("INSERT INTO member (name) VALUES (:name)", {"name": name}))


def list_members(db: sqlite3.Connection) -> list[Member]:
    return [Member(**row) for row in db.execute("SELECT id, name, birth_year FROM member ORDER BY id")]


def find_setting(db: sqlite3.Connection, name: str) -> str | None:
    row = db.execute("SELECT value FROM setting WHERE name = :name", {"name": name}).fetchone()
    return row["value"] if row else None


PUT_SETTING = "INSERT INTO setting (name, value) VALUES (:name, :value) ON CONFLICT DO UPDATE SET value = excluded.value"


def put_setting(db: sqlite3.Connection, name: str, value: str) -> None:
    db.execute(PUT_SETTING, {"name": name, "value": value})


SELECT_SITTING = "SELECT id, started_at, day, step, finished_at, worth_minor FROM sitting"


def _sitting(row: sqlite3.Row | None) -> Sitting | None:
    return Sitting(**{**dict(row), "day": date.fromisoformat(row["day"])}) if row else None


def find_open_sitting(db: sqlite3.Connection) -> Sitting | None:
    sql = SELECT_SITTING + " WHERE finished_at IS NULL ORDER BY id DESC LIMIT 1"
    return _sitting(db.execute(sql).fetchone())


def find_last_sitting(db: sqlite3.Connection) -> Sitting | None:
    """The sitting finished last."""
    sql = SELECT_SITTING + " WHERE finished_at IS NOT NULL ORDER BY id DESC LIMIT 1"
    return _sitting(db.execute(sql).fetchone())


INSERT_SITTING = """
    INSERT INTO sitting (started_at, day, member_id, step, worth_minor, finished_at)
    VALUES (:started_at, :day, :member_id, :step, :worth_minor, :finished_at)"""


def insert_sitting(
    db: sqlite3.Connection, at: str, day: date, member_id: int | None, worth_minor: int, finished_at: str | None = None
) -> int:
    values = {"started_at": at, "day": day.isoformat(), "member_id": member_id, "step": "bring"}
    return new_id(db.execute(INSERT_SITTING, values | {"worth_minor": worth_minor, "finished_at": finished_at}))


def change_sitting_step(db: sqlite3.Connection, sitting_id: int, step: str) -> None:
    db.execute("UPDATE sitting SET step = :step WHERE id = :id", {"step": step, "id": sitting_id})


def finish_sitting(db: sqlite3.Connection, sitting_id: int, at: str) -> None:
    db.execute("UPDATE sitting SET finished_at = :at WHERE id = :id", {"at": at, "id": sitting_id})
