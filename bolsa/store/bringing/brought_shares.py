"""What the investment statements of a batch say of shares, as the institution sent it."""

import sqlite3
from datetime import date

from bolsa.core.bringing.rows import BroughtMove, BroughtPosition, BroughtShares

LISTED = "listed"
INSERT_SHARE = """
    INSERT INTO brought_share (batch_id, account_id, kind, code, name, day, shares_e8, total_minor, reason, bank_ref, fee_minor,
        withheld_minor, ratio_new, ratio_old, basis_day)
    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"""


def insert_shares(db: sqlite3.Connection, batch_id: int, account_id: int, brought: BroughtShares) -> None:
    """Keeps the moves and the listed positions of one statement."""
    for move in brought.moves:
        code, name, day, kind, *words, basis_day, _ = move
        since = basis_day.isoformat() if basis_day else None
        db.execute(INSERT_SHARE, (batch_id, account_id, kind, code, name, day.isoformat(), *words, since))
    for at in brought.positions:
        db.execute(INSERT_SHARE, (batch_id, account_id, LISTED, at.code, at.name, at.day.isoformat(), at.shares_e8, *_NO_WORDS))


_NO_WORDS = (None, "", "", 0, None, None, None, None)
LIST_SHARES = """
    SELECT account_id, kind, code, name, day, shares_e8, total_minor, reason, bank_ref, fee_minor, withheld_minor, ratio_new,
    ratio_old, basis_day, id FROM brought_share WHERE batch_id = :id AND take = :take ORDER BY id"""


def list_shares(db: sqlite3.Connection, batch_id: int, *, take: bool = True) -> dict[int, BroughtShares]:
    """By account: what a batch says of its shares; or of what is left out by hand."""
    moves: dict[int, list[BroughtMove]] = {}
    positions: dict[int, list[BroughtPosition]] = {}
    for row in db.execute(LIST_SHARES, {"id": batch_id, "take": int(take)}):
        account_id, kind, code, name, day, *words, basis_day, id_ = row
        security = (code, name, date.fromisoformat(day))
        moved = moves.setdefault(account_id, [])
        if kind == LISTED:
            positions.setdefault(account_id, []).append(BroughtPosition(*security, row["shares_e8"]))
        else:
            since = date.fromisoformat(basis_day) if basis_day else None
            moved.append(BroughtMove._make((*security, kind, *words, since, id_)))
    return {id_: BroughtShares(tuple(found), tuple(positions.get(id_, ()))) for id_, found in moves.items()}


def take_share(db: sqlite3.Connection, batch_id: int, id_: int, *, take: bool) -> bool:
    """Leaves a trade in preview out, or takes it again; gives whether it is there."""
    sql = "UPDATE brought_share SET take = :take WHERE id = :id AND batch_id = :batch_id AND kind <> :listed"
    values = {"take": int(take), "id": id_, "batch_id": batch_id, "listed": LISTED}
    return db.execute(sql, values).rowcount > 0


def remove_shares(db: sqlite3.Connection, batch_id: int) -> None:
    db.execute("DELETE FROM brought_share WHERE batch_id = :id", {"id": batch_id})
