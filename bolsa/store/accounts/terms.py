"""The terms of accounts, who owns them, and the household's own facets."""

import sqlite3
from dataclasses import fields
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.terms import NO_TERMS, Terms

_NAMES = [field.name for field in fields(Terms)]
_RATES = ("rate", "curve_rate")
_DAYS = ("first_payment_on", "matures_on", "free_on", "curve_until")
COLUMNS = ", ".join(_NAMES)


def _terms(row: sqlite3.Row) -> Terms:
    values = {name: row[name] for name in _NAMES}
    values |= {name: Decimal(row[name]) if row[name] is not None else None for name in _RATES}
    values |= {name: date.fromisoformat(row[name]) if row[name] else None for name in _DAYS}
    return Terms(**values)


def get_terms(db: sqlite3.Connection, account_id: int) -> Terms:
    """The account's terms; empty ones if none were ever set."""
    row = db.execute(f"SELECT {COLUMNS} FROM account_terms WHERE id = :id", {"id": account_id}).fetchone()
    return _terms(row) if row else NO_TERMS


def list_terms(db: sqlite3.Connection) -> dict[int, Terms]:
    """The terms of every account that has any."""
    return {row["id"]: _terms(row) for row in db.execute(f"SELECT id, {COLUMNS} FROM account_terms")}


PUT_TERMS = f"""
    INSERT INTO account_terms (id, {COLUMNS}) VALUES (:id, {", ".join(f":{name}" for name in _NAMES)})
    ON CONFLICT (id) DO UPDATE SET {", ".join(f"{name} = excluded.{name}" for name in _NAMES)}"""


def put_terms(db: sqlite3.Connection, account_id: int, terms: Terms) -> None:
    """Sets all of an account's terms."""
    values = {name: getattr(terms, name) for name in _NAMES}
    values |= {name: str(values[name]) if values[name] is not None else None for name in _RATES}
    values |= {name: values[name].isoformat() if values[name] else None for name in _DAYS}
    db.execute(PUT_TERMS, values | {"id": account_id})


def list_owners(db: sqlite3.Connection) -> dict[int, list[int]]:
    """The members who own each account, by account."""
    owners: dict[int, list[int]] = {}
    for row in db.execute("SELECT account_id, member_id FROM account_owner ORDER BY id"):
        owners.setdefault(row["account_id"], []).append(row["member_id"])
    return owners


def put_owners(db: sqlite3.Connection, account_id: int, member_ids: list[int]) -> None:
    """Says who owns the account."""
    for row in db.execute("SELECT id, member_id FROM account_owner WHERE account_id = :id", {"id": account_id}).fetchall():
        if row["member_id"] not in member_ids:
            db.execute("DELETE FROM account_owner WHERE id = :id", {"id": row["id"]})
    for member_id in member_ids:
        sql = "INSERT INTO account_owner (account_id, member_id) VALUES (:account, :member) ON CONFLICT DO NOTHING"
        db.execute(sql, {"account": account_id, "member": member_id})


def list_facets(db: sqlite3.Connection) -> dict[int, str]:
    """The household's own facets by id."""
    return {row["id"]: row["name"] for row in db.execute("SELECT id, name FROM facet ORDER BY id")}


def put_facet(db: sqlite3.Connection, name: str) -> int:
    """The id of the facet of that name, made if it is not there."""
    db.execute("INSERT INTO facet (name) VALUES (:name) ON CONFLICT DO NOTHING", {"name": name})
    return db.execute("SELECT id FROM facet WHERE name = :name", {"name": name}).fetchone()["id"]


def list_facet_values(db: sqlite3.Connection) -> dict[int, dict[int, str]]:
    """By account: its value in each facet it has one in."""
    values: dict[int, dict[int, str]] = {}
    for row in db.execute("SELECT account_id, facet_id, value FROM account_facet"):
        values.setdefault(row["account_id"], {})[row["facet_id"]] = row["value"]
    return values


PUT_FACET_VALUE = """
    INSERT INTO account_facet (account_id, facet_id, value) VALUES (:account_id, :facet_id, :value)
    ON CONFLICT (account_id, facet_id) DO UPDATE SET value = excluded.value"""


def put_facet_value(db: sqlite3.Connection, account_id: int, facet_id: int, value: str) -> None:
    """Sets what an account is in a facet; "" takes it out."""
    values = {"account_id": account_id, "facet_id": facet_id, "value": value}
    if value:
        db.execute(PUT_FACET_VALUE, values)
    else:
        db.execute("DELETE FROM account_facet WHERE account_id = :account_id AND facet_id = :facet_id", values)


SUM_INTEREST_PAID = """
    SELECT coalesce(sum(c.amount_minor), 0) FROM line c WHERE c.account_id IS NULL AND c.category_id = :category_id
        AND c.entry_id IN (SELECT entry_id FROM line INDEXED BY line_of_account
                           WHERE account_id = :id AND day > :after AND day <= :day AND entry_id IS NOT :besides)"""


def sum_interest_paid(
    db: sqlite3.Connection, account_id: int, category_id: int, after: date, day: date, besides: int | None = None
) -> int:
    """What of the payments to a loan was interest after one day until another, without one entry."""
    values = {"id": account_id, "category_id": category_id, "after": after.isoformat(), "day": day.isoformat()}
    return db.execute(SUM_INTEREST_PAID, values | {"besides": besides}).fetchone()[0]
