"""Classes with their targets, what securities and accounts are made of, bands set by hand, and the plan they serve."""

import sqlite3
from decimal import Decimal

from bolsa.core.holdings.mix import AssetClass, MixPlan
from bolsa.store.connection import new_id


def list_classes(db: sqlite3.Connection) -> list[AssetClass]:
    """The classes in the household's order."""
    return [
        AssetClass(**row) for row in db.execute("SELECT id, name, position, band, target FROM asset_class ORDER BY position, id")
    ]


def insert_class(db: sqlite3.Connection, one: AssetClass) -> int:
    sql = "INSERT INTO asset_class (name, position, band, target) VALUES (:name, :position, :band, :target)"
    return new_id(db.execute(sql, one.__dict__))


def change_class(db: sqlite3.Connection, one: AssetClass) -> None:
    sql = "UPDATE asset_class SET name = :name, position = :position, band = :band, target = :target WHERE id = :id"
    db.execute(sql, one.__dict__)


def remove_class(db: sqlite3.Connection, class_id: int) -> None:
    """Takes a class out; what was of it is of no class then."""
    for sql in ("DELETE FROM class_part WHERE class_id = :id", "DELETE FROM asset_class WHERE id = :id"):
        db.execute(sql, {"id": class_id})


LIST_PARTS = (
    "SELECT coalesce(security_id, 0) AS security_id, coalesce(account_id, 0) AS account_id, class_id, percent FROM class_part"
)


def list_parts(db: sqlite3.Connection) -> tuple[dict[int, dict[int, Decimal]], dict[int, dict[int, Decimal]]]:
    """By security, and by account: per cent by class, where somebody said them."""
    of_securities: dict[int, dict[int, Decimal]] = {}
    of_accounts: dict[int, dict[int, Decimal]] = {}
    for row in db.execute(LIST_PARTS):
        kept = (
            of_securities.setdefault(row["security_id"], {})
            if row["security_id"]
            else of_accounts.setdefault(row["account_id"], {})
        )
        kept[row["class_id"]] = Decimal(row["percent"])
    return of_securities, of_accounts


def put_parts(
    db: sqlite3.Connection, parts: dict[int, Decimal], *, security_id: int | None = None, account_id: int | None = None
) -> None:
    """Says what a security, or an account, is made of, in place of what was said before; nothing where there are no parts."""
    db.execute(
        "DELETE FROM class_part WHERE security_id IS :security AND account_id IS :account",
        {"security": security_id, "account": account_id},
    )
    for class_id, percent in parts.items():
        sql = "INSERT INTO class_part (security_id, account_id, class_id, percent) VALUES (:security, :account, :class, :percent)"
        db.execute(sql, {"security": security_id, "account": account_id, "class": class_id, "percent": str(percent)})


def list_bands(db: sqlite3.Connection) -> dict[tuple[int, int | None], str]:
    """By account and security (None: all else in it): the band set by hand."""
    rows = db.execute("SELECT account_id, security_id, band FROM holding_band")
    return {(row["account_id"], row["security_id"]): row["band"] for row in rows}


def put_band(db: sqlite3.Connection, account_id: int, security_id: int | None, band: str) -> None:
    """Sets the band of shares, or of all else in an account; "" takes it back."""
    values = {"account": account_id, "security": security_id, "band": band}
    db.execute("DELETE FROM holding_band WHERE account_id = :account AND security_id IS :security", values)
    if band:
        db.execute("INSERT INTO holding_band (account_id, security_id, band) VALUES (:account, :security, :band)", values)


def get_plan(db: sqlite3.Connection) -> MixPlan:
    row = db.execute("SELECT near_years, middle_years, contribution_minor, aged_id FROM mix_plan").fetchone()
    return MixPlan(**row)


def change_plan(db: sqlite3.Connection, plan: MixPlan) -> None:
    sql = """UPDATE mix_plan SET near_years = :near_years, middle_years = :middle_years, contribution_minor = :contribution_minor,
             aged_id = :aged_id"""
    db.execute(sql, plan.__dict__)


def change_birth_year(db: sqlite3.Connection, member_id: int, year: int | None) -> None:
    db.execute("UPDATE member SET birth_year = :year WHERE id = :id", {"year": year, "id": member_id})
