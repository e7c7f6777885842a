"""What the investment statements of a batch say of shares, as the institution sent it."""

import sqlite3
from datetime import date

from bolsa.core.bringing.rows import BroughtMove, BroughtPosition, BroughtShares

LISTED = "listed"
INSERT_SHARE = """
    INSERT INTO brought_share (batch_id, account_id, kind, code, name, day, shares_e8, total_minor, reason, bank_ref, fee_minor,
        withheld_minor, ratio_new, ratio_old)
    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"""


def insert_shares(db: sqlite3.Connection, batch_id: int, account_id: int, brought: BroughtShares) -> None:
    """Keeps the moves and the listed positions of one statement."""
    for move in brought.moves:
        code, name, day, kind, *words = move
        db.execute(INSERT_SHARE, (batch_id, account_id, kind, code, name, day.isoformat(), *words))
    for at in brought.positions:
        db.execute(INSERT_SHARE, (batch_id, account_id, LISTED, at.code, at.name, at.day.isoformat(), at.shares_e8, *_NO_WORDS))


_NO_WORDS = (None, "", "", 0, None, None, None)
LIST_SHARES = """
    SELECT account_id, kind, code, name, day, shares_e8, total_minor, reason, bank_ref, fee_minor, withheld_minor, ratio_new,
    ratio_old FROM brought_share WHERE batch_id = :id ORDER BY id"""


def list_shares(db: sqlite3.Connection, batch_id: int) -> dict[int, BroughtShares]:
    """By account: what a batch says of its shares."""
    moves: dict[int, list[BroughtMove]] = {}
    positions: dict[int, list[BroughtPosition]] = {}
    for row in db.execute(LIST_SHARES, {"id": batch_id}):
        security = (row["code"], row["name"], date.fromisoformat(row["day"]))
        moved = moves.setdefault(row["account_id"], [])
        if row["kind"] == LISTED:
            positions.setdefault(row["account_id"], []).append(BroughtPosition(*security, row["shares_e8"]))
        else:
            moved.append(BroughtMove(*security, row["kind"], *tuple(row)[5:]))
    return {id_: BroughtShares(tuple(found), tuple(positions.get(id_, ()))) for id_, found in moves.items()}


def remove_shares(db: sqlite3.Connection, batch_id: int) -> None:
    db.execute("DELETE FROM brought_share WHERE batch_id = :id", {"id": batch_id})
