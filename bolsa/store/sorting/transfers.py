"""What the books say of transfers: those made before, halves that wait, opposite entries filed as something else."""

import sqlite3
from collections.abc import Iterable
from datetime import date

COUNT_BEFORE = """
    SELECT l.account_id, count(DISTINCT e.id) AS times
    FROM (SELECT id FROM entry INDEXED BY entry_of_payee WHERE payee_id = :payee_id ORDER BY day DESC LIMIT :most) e
    CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id AND l.account_id IS NOT NULL
    CROSS JOIN line o INDEXED BY line_of_entry ON o.entry_id = e.id AND o.account_id IS NOT NULL AND o.id <> l.id GROUP BY 1"""


def count_before(db: sqlite3.Connection, payee_ids: Iterable[int], most: int = 200) -> dict[int, dict[int, int]]:
    """By payee and account: how many transfers among the payee's latest entries touched the account."""
    found: dict[int, dict[int, int]] = {}
    for payee_id in payee_ids:
        rows = db.execute(COUNT_BEFORE, {"payee_id": payee_id, "most": most})
        found[payee_id] = {row["account_id"]: row["times"] for row in rows}
    return found


FIND_OPPOSITE = """
    SELECT l.entry_id FROM line l INDEXED BY line_of_amount JOIN line u ON u.entry_id = l.entry_id AND u.category_id = 1
    WHERE l.account_id = :account_id AND l.amount_minor = :amount AND l.currency = :currency AND l.day BETWEEN :first AND :last
        AND (SELECT count(*) FROM line x WHERE x.entry_id = l.entry_id) = 2
    ORDER BY abs(julianday(l.day) - julianday(:near)), l.id LIMIT 1"""


def find_opposite(
    db: sqlite3.Connection, account_id: int, amount_minor: int, currency: str, first: date, last: date, *, near: date
) -> int | None:
    """The unsorted entry of an account with that amount nearest to a day, within some days; None if there is none."""
    days = {"first": first.isoformat(), "last": last.isoformat(), "near": near.isoformat()}
    row = db.execute(FIND_OPPOSITE, {"account_id": account_id, "amount": amount_minor, "currency": currency, **days}).fetchone()
    return row["entry_id"] if row else None


FIND_BATCH = "SELECT batch_id FROM brought_row WHERE line_id = :line_id AND take = 1 ORDER BY id DESC LIMIT 1"


def find_batch_of_line(db: sqlite3.Connection, line_id: int) -> int | None:
    """The batch that brought a line; None if none did."""
    row = db.execute(FIND_BATCH, {"line_id": line_id}).fetchone()
    return row["batch_id"] if row else None


LIST_JOINED = """
    SELECT e.id AS entry_id, e.day, p.name AS payee, o.account_id AS out_id, oa.name AS out_account, i.account_id AS into_id,
        ia.name AS into_account, i.amount_minor, i.currency, i.state = 'pending' AND i.raw_text = '' AS waits_into,
        o.state = 'pending' AND o.raw_text = '' AS waits_out
    FROM (SELECT l.entry_id FROM account a CROSS JOIN line l ON l.account_id = a.id AND l.day BETWEEN :first AND :last
          GROUP BY l.entry_id HAVING count(*) > 1) t
    JOIN entry e ON e.id = t.entry_id JOIN payee p ON p.id = e.payee_id
    JOIN line o ON o.entry_id = e.id AND o.account_id IS NOT NULL AND o.amount_minor < 0
    JOIN line i ON i.entry_id = e.id AND i.account_id IS NOT NULL AND i.amount_minor > 0
    JOIN account oa ON oa.id = o.account_id JOIN account ia ON ia.id = i.account_id
    WHERE e.origin = '' GROUP BY e.id ORDER BY e.day DESC, e.id DESC LIMIT :most"""


def list_joined(db: sqlite3.Connection, first: date, last: date, most: int) -> list[sqlite3.Row]:
    """The transfers of some days, the latest first: entry_id, day, payee, out_account, into_account, amount_minor (what arrived),
    currency, and whether a side was never seen by its bank."""
    return db.execute(LIST_JOINED, {"first": first.isoformat(), "last": last.isoformat(), "most": most}).fetchall()


LIST_LONE = """
    SELECT e.id AS entry_id, e.day, p.name AS payee, l.account_id, a.name AS account, l.amount_minor, l.currency
    FROM line l JOIN account a ON a.id = l.account_id JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE l.state = 'pending' AND l.raw_text = '' AND l.bank_ref = '' AND l.day < :before AND e.origin = ''
        AND a.id IN (SELECT DISTINCT account_id FROM brought_row)
        AND (SELECT count(*) FROM line x WHERE x.entry_id = e.id AND x.account_id IS NOT NULL) > 1
    ORDER BY l.day DESC LIMIT :most"""


def list_lone(db: sqlite3.Connection, before: date, most: int) -> list[sqlite3.Row]:
    """Sides of transfers that an account's bank should have told of before a day, and did not: entry_id, day, payee, account_id,
    account, amount_minor, currency."""
    return db.execute(LIST_LONE, {"before": before.isoformat(), "most": most}).fetchall()


LIST_MISFILED = """
    SELECT o.entry_id AS out_id, i.entry_id AS into_id, o.day AS out_day, i.day AS into_day, oa.name AS out_account,
        ia.name AS into_account, i.amount_minor, i.currency, po.name AS out_payee, pi.name AS into_payee,
        o.raw_text AS out_text, i.raw_text AS into_text, oc.category_id AS out_category_id, ic.category_id AS into_category_id
    FROM line o CROSS JOIN account ia ON ia.id <> o.account_id
    CROSS JOIN line i INDEXED BY line_of_amount ON i.account_id = ia.id AND i.amount_minor = -o.amount_minor
        AND i.currency = o.currency AND i.day BETWEEN date(o.day, :back) AND date(o.day, :ahead)
    CROSS JOIN line oc INDEXED BY line_of_entry ON oc.entry_id = o.entry_id AND oc.account_id IS NULL
    CROSS JOIN line ic INDEXED BY line_of_entry ON ic.entry_id = i.entry_id AND ic.account_id IS NULL
    CROSS JOIN category ko ON ko.id = oc.category_id AND (ko.role IS NULL OR ko.role = 'unsorted')
    CROSS JOIN category ki ON ki.id = ic.category_id AND (ki.role IS NULL OR ki.role = 'unsorted')
    JOIN account oa ON oa.id = o.account_id
    JOIN entry eo ON eo.id = o.entry_id JOIN payee po ON po.id = eo.payee_id
    JOIN entry ei ON ei.id = i.entry_id JOIN payee pi ON pi.id = ei.payee_id
    WHERE o.account_id IS NOT NULL AND o.amount_minor < 0 AND o.id > (SELECT max(id) - :newest FROM line) AND o.day >= :since
        AND eo.origin = '' AND ei.origin = '' AND (oc.category_id <> 1 OR ic.category_id <> 1)
        AND (SELECT count(*) FROM line x WHERE x.entry_id = o.entry_id) = 2
        AND (SELECT count(*) FROM line x WHERE x.entry_id = i.entry_id) = 2
    ORDER BY o.day DESC, o.id LIMIT :most"""


def list_misfiled(db: sqlite3.Connection, since: date, days: int, most: int, newest: int = 20_000) -> list[sqlite3.Row]:
    """Opposite entries of two accounts within some days, at least one of which is filed under a category, among the newest
    lines."""
    values = {"since": since.isoformat(), "back": f"-{days} days", "ahead": f"+{days} days", "most": most, "newest": newest}
    return db.execute(LIST_MISFILED, values).fetchall()
