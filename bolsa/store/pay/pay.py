"""Pays with their lines; confirmed paydays, whose amounts are those of their entries' lines."""

import sqlite3
from collections.abc import Sequence
from datetime import date
from decimal import Decimal

from bolsa.core.pay.payday import Contribution, Pay, Payday, Told
from bolsa.core.pay.payslip import PayLine
from bolsa.core.units import Percent
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

SELECT_PAY = "SELECT id, series_id, member_id, kept_from FROM pay"
SELECT_LINES = """
    SELECT id, pay_id, kind, name, amount_minor, percent, account_id, category_id, start_minor, is_usual FROM pay_line
    WHERE pay_id = :id ORDER BY position, id"""


def list_pays(db: sqlite3.Connection) -> list[Pay]:
    """Every pay with its lines, in the order in which they were kept."""
    return [_pay(db, row) for row in db.execute(f"{SELECT_PAY} ORDER BY id").fetchall()]


def get_pay(db: sqlite3.Connection, pay_id: int) -> Pay:
    row = db.execute(f"{SELECT_PAY} WHERE id = :id", {"id": pay_id}).fetchone()
    if row is None:
        raise NotFound("There is no such pay.")
    return _pay(db, row)


def find_pay_of_series(db: sqlite3.Connection, series_id: int) -> int | None:
    """The pay that takes a series apart, if one does."""
    row = db.execute("SELECT id FROM pay WHERE series_id = :id", {"id": series_id}).fetchone()
    return row["id"] if row else None


def _pay(db: sqlite3.Connection, row: sqlite3.Row) -> Pay:
    lines = tuple(_line(one) for one in db.execute(SELECT_LINES, {"id": row["id"]}))
    return Pay(row["id"], row["series_id"], row["member_id"], date.fromisoformat(row["kept_from"]), lines)


def _line(row: sqlite3.Row) -> PayLine:
    return PayLine(
        row["id"], row["kind"], row["name"], row["amount_minor"], Percent(Decimal(row["percent"])) if row["percent"] else None,
        row["account_id"], row["category_id"], row["start_minor"], bool(row["is_usual"]),
    )  # fmt: skip


def insert_pay(db: sqlite3.Connection, series_id: int, member_id: int | None, kept_from: date) -> int:
    sql = "INSERT INTO pay (series_id, member_id, kept_from) VALUES (:series, :member, :day)"
    return new_id(db.execute(sql, {"series": series_id, "member": member_id, "day": kept_from.isoformat()}))


def change_pay(db: sqlite3.Connection, pay_id: int, member_id: int | None, kept_from: date) -> None:
    values = {"id": pay_id, "member": member_id, "day": kept_from.isoformat()}
    db.execute("UPDATE pay SET member_id = :member, kept_from = :day WHERE id = :id", values)


def remove_pay(db: sqlite3.Connection, pay_id: int) -> None:
    """Forgets a pay and its lines; none of its paydays may be confirmed."""
    db.execute("DELETE FROM pay_line WHERE pay_id = :id", {"id": pay_id})
    db.execute("DELETE FROM pay WHERE id = :id", {"id": pay_id})


_NAMES = ("kind", "name", "amount_minor", "percent", "account_id", "category_id", "start_minor", "is_usual", "position")
INSERT_LINE = f"INSERT INTO pay_line (pay_id, {', '.join(_NAMES)}) VALUES (:pay_id, {', '.join(':' + name for name in _NAMES)})"
CHANGE_LINE = f"UPDATE pay_line SET {', '.join(f'{name} = :{name}' for name in _NAMES)} WHERE id = :id AND pay_id = :pay_id"


def put_line(db: sqlite3.Connection, pay_id: int, line: PayLine, position: int) -> int:
    """Writes a line in its place; one without an id is new."""
    values = {
        "id": line.id, "pay_id": pay_id, "kind": line.kind, "name": line.name, "amount_minor": line.amount_minor,
        "percent": f"{line.percent.value:f}" if line.percent is not None else None, "account_id": line.account_id,
        "category_id": line.category_id, "start_minor": line.start_minor, "is_usual": int(line.is_usual), "position": position,
    }  # fmt: skip
    if not line.id:
        return new_id(db.execute(INSERT_LINE, values))
    db.execute(CHANGE_LINE, values)
    return line.id


def remove_line(db: sqlite3.Connection, line_id: int) -> None:
    db.execute("DELETE FROM pay_line WHERE id = :id", {"id": line_id})


def is_line_told(db: sqlite3.Connection, line_id: int) -> bool:
    """Whether a confirmed payday holds the line."""
    return bool(db.execute("SELECT 1 FROM payday_line WHERE pay_line_id = :id LIMIT 1", {"id": line_id}).fetchone())


LIST_PAYDAYS = "SELECT id, pay_id, day, entry_id, is_made FROM payday WHERE pay_id = :id ORDER BY day"
LIST_TOLD = """
    SELECT x.payday_id, x.pay_line_id, x.line_id, l.entry_id, l.day,
           iif(p.kind = 'earned', -1, 1) * l.amount_minor AS amount_minor
    FROM payday d JOIN payday_line x ON x.payday_id = d.id JOIN line l ON l.id = x.line_id JOIN pay_line p ON p.id = x.pay_line_id
    WHERE d.pay_id = :id ORDER BY l.day, x.id"""


def list_paydays(db: sqlite3.Connection, pay_id: int) -> list[Payday]:
    """The confirmed paydays of a pay, in order, each with what its payslip told."""
    told: dict[int, list[Told]] = {}
    for row in db.execute(LIST_TOLD, {"id": pay_id}):
        one = Told(row["pay_line_id"], row["line_id"], row["entry_id"], date.fromisoformat(row["day"]), row["amount_minor"])
        told.setdefault(row["payday_id"], []).append(one)
    return [
        Payday(
            row["id"],
            row["pay_id"],
            date.fromisoformat(row["day"]),
            row["entry_id"],
            tuple(told.get(row["id"], ())),
            bool(row["is_made"]),
        )
        for row in db.execute(LIST_PAYDAYS, {"id": pay_id})
    ]


PUT_PAYDAY = """
    INSERT INTO payday (pay_id, day, entry_id, is_made) VALUES (:pay, :day, :entry, :made)
    ON CONFLICT (pay_id, day) DO UPDATE SET entry_id = excluded.entry_id RETURNING id"""


def put_payday(
    db: sqlite3.Connection, pay_id: int, day: date, entry_id: int, lines: Sequence[tuple[int, int]], *, is_made: bool
) -> int:
    """Notes a payday as confirmed by an entry: which line (second) of it is which of the payslip (first). What was noted of the
    payday's lines before is forgotten; whether its entry was made stays as it was first."""
    values = {"pay": pay_id, "day": day.isoformat(), "entry": entry_id, "made": int(is_made)}
    row = db.execute(PUT_PAYDAY, values).fetchone()
    payday_id: int = row["id"]
    db.execute("DELETE FROM payday_line WHERE payday_id = :id", {"id": payday_id})
    for pay_line_id, line_id in lines:
        db.execute(
            "INSERT INTO payday_line (line_id, payday_id, pay_line_id) VALUES (:line, :payday, :pay_line)",
            {"line": line_id, "payday": payday_id, "pay_line": pay_line_id},
        )
    return payday_id


def remove_payday(db: sqlite3.Connection, payday_id: int) -> None:
    """Forgets that a payday was confirmed; its entry stays as it is."""
    db.execute("DELETE FROM payday_line WHERE payday_id = :id", {"id": payday_id})
    db.execute("DELETE FROM payday WHERE id = :id", {"id": payday_id})


def find_payday_of_entry(db: sqlite3.Connection, entry_id: int) -> tuple[int, date] | None:
    """The pay and the day an entry confirms, if it does."""
    row = db.execute("SELECT pay_id, day FROM payday WHERE entry_id = :id", {"id": entry_id}).fetchone()
    return (row["pay_id"], date.fromisoformat(row["day"])) if row else None


FIND_ALONE = """
    SELECT l.entry_id FROM line l INDEXED BY line_of_amount
    WHERE l.account_id = :account AND l.amount_minor = :amount AND l.day BETWEEN :first AND :last AND l.entry_id <> :but
        AND NOT EXISTS (SELECT 1 FROM line o WHERE o.entry_id = l.entry_id AND o.account_id IS NOT NULL AND o.id <> l.id)
        AND NOT EXISTS (SELECT 1 FROM line o JOIN category c ON c.id = o.category_id
                        WHERE o.entry_id = l.entry_id AND o.account_id IS NULL AND c.id <> 1
                            AND (c.type <> 'income' OR c.role IS NOT NULL))
        AND NOT EXISTS (SELECT 1 FROM payday d WHERE d.entry_id = l.entry_id)
        AND NOT EXISTS (SELECT 1 FROM entry e WHERE e.id = l.entry_id AND e.origin <> '')
    ORDER BY abs(julianday(l.day) - julianday(:day)), l.id LIMIT 1"""


def find_deposit_alone(
    db: sqlite3.Connection, account_id: int, amount_minor: int, day: date, first: date, last: date, but: int
) -> int | None:
    """An entry by which just so much came on an account about a day and no other account heard of it, not sorted or under
    income; the nearest, never the entry `but`."""
    values = {
        "account": account_id, "amount": amount_minor, "day": day.isoformat(), "first": first.isoformat(),
        "last": last.isoformat(), "but": but,
    }  # fmt: skip
    row = db.execute(FIND_ALONE, values).fetchone()
    return row["entry_id"] if row else None


LIST_CONTRIBUTIONS = """
    SELECT l.id, l.entry_id, l.day, l.amount_minor, n.name AS payee, p.kind FROM line l INDEXED BY line_of_account
    JOIN entry e ON e.id = l.entry_id JOIN payee n ON n.id = e.payee_id
    LEFT JOIN payday_line x ON x.line_id = l.id LEFT JOIN pay_line p ON p.id = x.pay_line_id
    WHERE l.account_id = :account AND l.day BETWEEN :first AND :last AND l.amount_minor > 0 AND e.origin <> 'value'
        AND NOT EXISTS (SELECT 1 FROM line o WHERE o.entry_id = l.entry_id AND o.category_id = 2)
    ORDER BY l.day, l.id"""


def list_contributions(db: sqlite3.Connection, account_id: int, year: int) -> list[Contribution]:
    """What was paid in on an account in a year, each by whom: "own" from pay, "employer", or "other"."""
    found = db.execute(LIST_CONTRIBUTIONS, {"account": account_id, "first": f"{year}-01-01", "last": f"{year}-12-31"})
    return [
        Contribution(
            {None: "other", "employer": "employer"}.get(row["kind"], "own"), row["payee"], date.fromisoformat(row["day"]),
            row["amount_minor"], row["entry_id"],
        )
        for row in found
    ]  # fmt: skip
