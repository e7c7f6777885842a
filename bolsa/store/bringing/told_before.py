"""What sources told before of an account: the bookings they told, what they announced, and what one of them tells no more."""

import json
import sqlite3
from collections.abc import Sequence
from datetime import date

from bolsa.core.bringing.batch import OVERRULED
from bolsa.core.bringing.bookings import Booking, Told
from bolsa.core.bringing.proof import Untold
from bolsa.core.bringing.rows import BroughtRow
from bolsa.store.bringing.coverage import LAYOUT

# What stayed when its batch was taken out is known as well, else the file's return would double it: an entry the batch made and
# someone touched since, a line it was matched with that is reconciled or was given another amount since. Any other line it let
# go of can be matched again (merging.py).
LIST_BOOKINGS = f"""
    SELECT r.id, r.day, r.amount_minor, r.payee, r.memo, r.bank_ref, r.value_day, {LAYOUT} AS layout, r.take, r.verdict,
        coalesce(r.line_id, iif(r.verdict = 'known', r.match_line_id, NULL), -r.id) AS key,
        (SELECT l.id FROM line l WHERE l.id = coalesce(r.line_id, r.match_line_id)) AS line_id
    FROM brought_row r JOIN batch b ON b.id = r.batch_id
    WHERE r.account_id = :account_id AND r.pending = 0 AND r.verdict <> 'vanished' AND r.batch_id <> :batch_id
        AND (NOT :before OR r.batch_id < :batch_id)
        AND coalesce(r.line_id, r.match_line_id, 0) NOT IN (
            SELECT g.match_line_id FROM brought_row g JOIN batch u ON u.id = g.batch_id AND u.state = 'brought'
            WHERE g.account_id = :account_id AND g.day BETWEEN :first AND :last AND g.verdict = 'vanished' AND g.take = 1
                AND g.match_line_id IS NOT NULL)
        AND CASE WHEN r.take = 1 THEN b.state = 'brought' OR (
                b.state = 'undone' AND EXISTS (
                    SELECT 1 FROM line l WHERE l.id = r.line_id AND (r.line_before IS NULL OR l.state = 'reconciled'
                        OR (l.amount_minor <> r.amount_minor AND coalesce(json_extract(r.line_before, '$.shift'), 0) = 0))))
            WHEN r.reason = :overruled THEN b.state <> 'waiting'
            ELSE b.state = 'brought' AND (r.verdict = 'suspicious' OR r.match_line_id IS NOT NULL) END
        AND r.day BETWEEN :first AND :last ORDER BY r.take DESC, r.id"""


def list_bookings(
    db: sqlite3.Connection, account_id: int, first: date, last: date, but_of_batch: int = 0, *, before: bool = False
) -> list[Booking]:
    """The bookings brought in before for an account, or left out by hand, that were told on these days; those of one batch
    aside, or of it and all later ones."""
    values = {"account_id": account_id, "first": first.isoformat(), "last": last.isoformat()}
    told: dict[int, list[Told]] = {}
    firsts: dict[int, sqlite3.Row] = {}
    for r in db.execute(LIST_BOOKINGS, values | {"overruled": OVERRULED, "batch_id": but_of_batch, "before": int(before)}):
        key = r["key"]
        if not r["take"] and r["verdict"] == "known" and key > 0 and r["line_id"] is None and key not in firsts:
            continue  # what it was recognised as was taken out since, with what had brought it
        text = f"{r['payee']} · {r['memo']}" if r["payee"] and r["memo"] else r["payee"] or r["memo"]
        value_day = date.fromisoformat(r["value_day"]) if r["value_day"] else None
        day = date.fromisoformat(r["day"])
        told.setdefault(key, []).append(Told(r["id"], r["layout"], day, r["amount_minor"], text, r["bank_ref"], value_day))
        firsts.setdefault(key, r)
    return [_booking(key, firsts[key], tuple(told[key])) for key in firsts]


def _booking(key: int, r: sqlite3.Row, told: tuple[Told, ...]) -> Booking:
    by_hand = not r["take"] and r["verdict"] == "known" and r["line_id"] is None
    is_asked = not r["take"] and r["verdict"] == "suspicious"
    return Booking(key, r["line_id"], told, left_out=by_hand, is_asked=is_asked)


LIST_ANNOUNCED_OVER = """
    SELECT r.id, r.day, r.amount_minor, r.payee, r.memo, r.bank_ref, r.take
    FROM brought_row r JOIN batch b ON b.id = r.batch_id
    WHERE r.account_id = :account_id AND r.pending = 1 AND r.verdict <> 'vanished' AND r.batch_id <> :batch_id
        AND iif(r.take = 1, b.state = 'brought' AND r.line_id IS NOT NULL
                AND NOT EXISTS (SELECT 1 FROM line l WHERE l.id = r.line_id)
                AND NOT EXISTS (SELECT 1 FROM brought_row o WHERE o.line_id = r.line_id AND o.pending = 0)
                AND NOT EXISTS (SELECT 1 FROM brought_row g WHERE g.account_id = r.account_id AND g.day = r.day
                                    AND g.match_line_id = r.line_id AND g.verdict = 'vanished'),
            r.reason = :overruled AND b.state <> 'waiting')
        AND r.day >= :first"""


LIST_UNTOLD_ALIKE = """
    SELECT l.entry_id, l.day, l.amount_minor, p.name
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.account_id = :account_id AND l.amount_minor = :amount AND l.day BETWEEN :first AND :last AND l.state <> 'pending'
        AND l.id NOT IN (SELECT match_line_id FROM brought_row
                         WHERE batch_id = :batch_id AND match_line_id IS NOT NULL AND (take = 1 OR verdict = 'known'))
    ORDER BY l.day, l.id"""


def list_untold_alike(
    db: sqlite3.Connection, batch_id: int, account_id: int, amount_minor: int, first: date, last: date
) -> list[Untold]:
    """The cleared lines of an account of one amount on these days that no row of a waiting batch is."""
    values = {"batch_id": batch_id, "account_id": account_id, "amount": amount_minor}
    found = db.execute(LIST_UNTOLD_ALIKE, values | {"first": first.isoformat(), "last": last.isoformat()})
    return [Untold(r["entry_id"], date.fromisoformat(r["day"]), r["amount_minor"], r["name"]) for r in found]


IS_ANY_OF = """
    SELECT 1 FROM line WHERE account_id = :account_id AND day BETWEEN :first AND :last
        AND amount_minor IN (SELECT value FROM json_each(:amounts)) LIMIT 1"""


def is_any_of(db: sqlite3.Connection, account_id: int, amounts: Sequence[int], first: date, last: date) -> bool:
    """Whether an account has a line of one of these amounts on these days."""
    values = {"account_id": account_id, "amounts": json.dumps(amounts), "first": first.isoformat(), "last": last.isoformat()}
    return db.execute(IS_ANY_OF, values).fetchone() is not None


LIST_UNTOLD = f"""
    SELECT l.id AS line_id, r.day, r.amount_minor, r.payee, r.memo, r.bank_ref
    FROM brought_row r JOIN batch b ON b.id = r.batch_id AND b.state = 'brought'
    JOIN line l ON l.id = r.line_id AND l.account_id = r.account_id AND l.state = 'cleared'
    WHERE r.account_id = :account_id AND r.day BETWEEN :first AND :last AND r.batch_id <> :batch_id
        AND r.pending = 0 AND r.take = 1 AND {LAYOUT} = :layout
        AND l.id NOT IN (SELECT match_line_id FROM brought_row WHERE batch_id = :batch_id AND match_line_id IS NOT NULL)
        AND (r.day, r.amount_minor) NOT IN (
            SELECT day, amount_minor FROM brought_row WHERE batch_id = :batch_id AND verdict = 'known' AND match_line_id IS NULL)
        AND l.id NOT IN (
            SELECT coalesce(o.line_id, o.match_line_id)
            FROM brought_row o JOIN batch p ON p.id = o.batch_id AND p.state = 'brought'
            WHERE o.account_id = :account_id AND o.day BETWEEN date(:first, '-10 days') AND date(:last, '+10 days')
                AND o.pending = 0 AND coalesce(o.line_id, o.match_line_id) IS NOT NULL
                AND p.format || coalesce(':' || json_extract(nullif(p.mapping, ''), '$.told.shape'), '') <> :layout)
    GROUP BY l.id ORDER BY r.day, l.id"""


def list_untold(
    db: sqlite3.Connection, batch_id: int, account_id: int, layout: str, first: date, last: date
) -> list[tuple[int, BroughtRow]]:
    """The bookings of these days that one kind of source alone told before, and a waiting batch of that kind tells no more:
    each line with the row as it was told."""
    values = {
        "batch_id": batch_id,
        "account_id": account_id,
        "layout": layout,
        "first": first.isoformat(),
        "last": last.isoformat(),
    }
    return [
        (r["line_id"], BroughtRow(date.fromisoformat(r["day"]), r["amount_minor"], r["payee"], r["memo"], r["bank_ref"]))
        for r in db.execute(LIST_UNTOLD, values)
    ]


def list_announced_deleted(db: sqlite3.Connection, account_id: int, first: date, but_of_batch: int) -> list[Booking]:
    """What a bank announced since a day, and someone deleted or left out by hand; their layout is ""."""
    values = {"account_id": account_id, "batch_id": but_of_batch, "first": first.isoformat(), "overruled": OVERRULED}
    return [
        Booking(
            -r["id"], None,
            (Told(r["id"], "", date.fromisoformat(r["day"]), r["amount_minor"],
                  " · ".join(filter(None, (r["payee"], r["memo"]))), r["bank_ref"]),),
            left_out=not r["take"],
        )
        for r in db.execute(LIST_ANNOUNCED_OVER, values)
    ]  # fmt: skip
