"""Series that are kept, refused proposals, and what was said of single dues."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.due.dues import Came, Mark, Series
from bolsa.core.due.rhythm import Rhythm
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

SELECT_SERIES = """
    SELECT s.id, s.payee_id, p.name AS payee, s.account_id, a.currency, s.rrule, s.start_day, s.short_month, s.weekend,
           s.amount_minor, s.amount_kind, s.category_id, s.tolerance_days, s.tolerance_percent, s.ended_on
    FROM series s JOIN payee p ON p.id = s.payee_id JOIN account a ON a.id = s.account_id"""


def _series(row: sqlite3.Row) -> Series:
    rhythm = Rhythm(row["rrule"], date.fromisoformat(row["start_day"]), row["short_month"], row["weekend"])
    return Series(
        row["id"], row["payee_id"], row["payee"], row["account_id"], row["currency"], rhythm, row["amount_minor"],
        row["amount_kind"], row["category_id"], row["tolerance_days"], row["tolerance_percent"],
        date.fromisoformat(row["ended_on"]) if row["ended_on"] else None,
    )  # fmt: skip


def list_series(db: sqlite3.Connection) -> list[Series]:
    """Every kept series, by payee."""
    return [_series(row) for row in db.execute(f"{SELECT_SERIES} ORDER BY p.name, s.id")]


def get_series(db: sqlite3.Connection, series_id: int) -> Series:
    row = db.execute(f"{SELECT_SERIES} WHERE s.id = :id", {"id": series_id}).fetchone()
    if row is None:
        raise NotFound("There is no such series.")
    return _series(row)


_NAMES = (
    "payee_id", "account_id", "category_id", "rrule", "start_day", "short_month", "weekend", "amount_minor", "amount_kind",
    "tolerance_days", "tolerance_percent", "ended_on",
)  # fmt: skip
INSERT_SERIES = f"INSERT INTO series ({', '.join(_NAMES)}) VALUES ({', '.join(':' + name for name in _NAMES)})"
CHANGE_SERIES = f"UPDATE series SET {', '.join(f'{name} = :{name}' for name in _NAMES)} WHERE id = :id"


def _values(series: Series) -> dict[str, object]:
    rhythm = series.rhythm
    return {
        "payee_id": series.payee_id, "account_id": series.account_id, "category_id": series.category_id, "rrule": rhythm.rrule,
        "start_day": rhythm.start.isoformat(), "short_month": rhythm.short_month, "weekend": rhythm.weekend,
        "amount_minor": series.amount_minor, "amount_kind": series.amount_kind, "tolerance_days": series.tolerance_days,
        "tolerance_percent": series.tolerance_percent, "ended_on": series.ended_on.isoformat() if series.ended_on else None,
    }  # fmt: skip


def insert_series(db: sqlite3.Connection, series: Series) -> int:
    return new_id(db.execute(INSERT_SERIES, _values(series)))


def change_series(db: sqlite3.Connection, series: Series) -> None:
    db.execute(CHANGE_SERIES, _values(series) | {"id": series.id})


def remove_series(db: sqlite3.Connection, series_id: int) -> None:
    """Forgets a series and what was said of its dues; no entry changes."""
    db.execute("DELETE FROM due_mark WHERE series_id = :id", {"id": series_id})
    db.execute("DELETE FROM series WHERE id = :id", {"id": series_id})


def list_refused(db: sqlite3.Connection) -> set[tuple[int, int]]:
    """The proposals that were refused, as (payee, account)."""
    return {(row["payee_id"], row["account_id"]) for row in db.execute("SELECT payee_id, account_id FROM series_refused")}


def put_refused(db: sqlite3.Connection, payee_id: int, account_id: int) -> None:
    sql = "INSERT INTO series_refused (payee_id, account_id) VALUES (:payee, :account) ON CONFLICT DO NOTHING"
    db.execute(sql, {"payee": payee_id, "account": account_id})


def list_marks(db: sqlite3.Connection) -> dict[int, list[Mark]]:
    """What was said, by series."""
    marks: dict[int, list[Mark]] = {}
    for row in db.execute("SELECT series_id, kind, day, line_id FROM due_mark ORDER BY id"):
        marks.setdefault(row["series_id"], []).append(Mark(row["kind"], date.fromisoformat(row["day"]), row["line_id"]))
    return marks


LIST_MATCHED = """
    SELECT m.series_id, l.id AS line_id, l.entry_id, l.day, l.amount_minor FROM due_mark m JOIN series s ON s.id = m.series_id
    JOIN line l ON l.id = m.line_id AND l.account_id = s.account_id
    WHERE m.kind = 'matched' AND m.series_id IN (SELECT value FROM json_each(:ids)) ORDER BY l.day, l.id"""


def list_matched(db: sqlite3.Connection, series_ids: Iterable[int]) -> dict[int, list[Came]]:
    """By series the lines on its account that a person, or a rule, said are for it."""
    found: dict[int, list[Came]] = {}
    for row in db.execute(LIST_MATCHED, {"ids": json.dumps(sorted(series_ids))}):
        came = Came(row["line_id"], row["entry_id"], date.fromisoformat(row["day"]), row["amount_minor"])
        found.setdefault(row["series_id"], []).append(came)
    return found


def put_mark(db: sqlite3.Connection, series_id: int, mark: Mark) -> None:
    """Says something of a due or an entry; what was said before of the same is forgotten."""
    values = {"id": series_id, "kind": mark.kind, "day": mark.day.isoformat(), "line": mark.line_id}
    if mark.kind != "out":
        db.execute("DELETE FROM due_mark WHERE series_id = :id AND day = :day AND kind <> 'out'", values)
    db.execute("DELETE FROM due_mark WHERE series_id = :id AND line_id = :line", values)
    db.execute("INSERT INTO due_mark (series_id, kind, day, line_id) VALUES (:id, :kind, :day, :line)", values)


def remove_marks(db: sqlite3.Connection, series_id: int, day: date) -> None:
    """Forgets what was said of a due."""
    sql = "DELETE FROM due_mark WHERE series_id = :id AND day = :day AND kind <> 'out'"
    db.execute(sql, {"id": series_id, "day": day.isoformat()})


LIST_CAME = """
    SELECT e.payee_id, l.account_id, l.id AS line_id, l.entry_id, l.day, l.amount_minor
    FROM json_each(:pairs) p CROSS JOIN entry e ON e.payee_id = p.value ->> 0 AND e.day BETWEEN :first AND :last
    CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id AND l.account_id = p.value ->> 1 ORDER BY l.day, l.id"""


def list_came(
    db: sqlite3.Connection, pairs: Iterable[tuple[int, int]], first: date, last: date
) -> dict[tuple[int, int], list[Came]]:
    """The account lines of some payees, each on one account, on these days, in order of day, by (payee, account)."""
    values = {"pairs": json.dumps(sorted(set(pairs))), "first": first.isoformat(), "last": last.isoformat()}
    found: dict[tuple[int, int], list[Came]] = {}
    for row in db.execute(LIST_CAME, values):
        came = Came(row["line_id"], row["entry_id"], date.fromisoformat(row["day"]), row["amount_minor"])
        found.setdefault((row["payee_id"], row["account_id"]), []).append(came)
    return found


LIST_USUAL = """
    SELECT e.payee_id, m.category_id, max(e.day) AS day FROM json_each(:payees) p JOIN entry e ON e.payee_id = p.value
    JOIN line m ON m.entry_id = e.id AND m.category_id IS NOT NULL JOIN category c ON c.id = m.category_id AND c.role IS NULL
    GROUP BY e.payee_id"""


def list_last_categories(db: sqlite3.Connection, payee_ids: Iterable[int]) -> dict[int, int]:
    """The category of each payee's latest sorted entry."""
    rows = db.execute(LIST_USUAL, {"payees": json.dumps(sorted(set(payee_ids)))})
    return {row["payee_id"]: row["category_id"] for row in rows}
