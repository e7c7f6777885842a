"""The kept lots and disposals: what the trades of a security in an account lead to."""

import sqlite3
from datetime import date

from bolsa.core.holdings.exchange import Amounts
from bolsa.core.holdings.holding import Held
from bolsa.core.holdings.lots import Disposal, Lot, Lots

INSERT_LOT = "INSERT INTO lot VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
INSERT_DISPOSAL = "INSERT INTO disposal VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"


def put_lots(db: sqlite3.Connection, account_id: int, security_id: int, lots: Lots) -> None:
    """Keeps the lots and disposals of a security in an account, in place of those before."""
    for table in ("lot", "disposal"):
        sql = f"DELETE FROM {table} WHERE account_id = :account AND security_id = :security"
        db.execute(sql, {"account": account_id, "security": security_id})
    db.executemany(INSERT_LOT, [
        (account_id, security_id, at, one.trade_id, one.day.isoformat(), one.shares_e8, one.cost.minor, one.cost.own_minor,
         one.cost.home_minor, int(one.is_known))
        for at, one in enumerate(lots.held)
    ])  # fmt: skip
    db.executemany(INSERT_DISPOSAL, [
        (account_id, security_id, at, one.trade_id, one.lot_id, one.bought_on.isoformat(), one.sold_on.isoformat(), one.shares_e8,
         one.cost.minor, one.cost.own_minor, one.cost.home_minor, one.proceeds.minor, one.proceeds.own_minor,
         one.proceeds.home_minor, one.currency_minor, int(one.is_known))
        for at, one in enumerate(lots.disposals)
    ])  # fmt: skip


LIST_LOTS = """
    SELECT trade_id, day, shares_e8, cost_minor, own_minor, home_minor, is_known FROM lot
    WHERE account_id = :account AND security_id = :security ORDER BY position"""


def list_lots(db: sqlite3.Connection, account_id: int, security_id: int) -> list[Lot]:
    """The lots of a security in an account that are held, in the order in which they came."""
    return [
        Lot(trade_id, date.fromisoformat(day), shares_e8, Amounts(*cost), bool(is_known))
        for trade_id, day, shares_e8, *cost, is_known in db.execute(LIST_LOTS, {"account": account_id, "security": security_id})
    ]


SUM_LOTS = """
    SELECT account_id, security_id, sum(shares_e8), sum(cost_minor), iif(count(own_minor) = count(*), sum(own_minor), NULL),
        iif(count(home_minor) = count(*), sum(home_minor), NULL), min(is_known)
    FROM lot GROUP BY account_id, security_id"""


def sum_lots(db: sqlite3.Connection) -> dict[tuple[int, int], Held]:
    """By account and security: what the lots that are held come to."""
    rows = db.execute(SUM_LOTS)
    return {(account, security): Held(shares, Amounts(*cost), bool(known)) for account, security, shares, *cost, known in rows}


LIST_DISPOSALS = """
    SELECT account_id, security_id, trade_id, lot_id, bought_on, sold_on, shares_e8, cost_minor, own_minor, home_minor,
        proceeds_minor, proceeds_own, proceeds_home, currency_minor, is_known
    FROM disposal WHERE sold_on BETWEEN :first AND :last ORDER BY sold_on, account_id, security_id, position"""


def list_disposals(db: sqlite3.Connection, first: date, last: date) -> list[tuple[int, int, Disposal]]:
    """What was sold on some days, in order: its account, its security, and the disposal."""
    found = []
    for row in db.execute(LIST_DISPOSALS, {"first": first.isoformat(), "last": last.isoformat()}):
        one = Disposal(
            row["trade_id"], row["lot_id"], date.fromisoformat(row["bought_on"]), date.fromisoformat(row["sold_on"]),
            row["shares_e8"], Amounts(row["cost_minor"], row["own_minor"], row["home_minor"]),
            Amounts(row["proceeds_minor"], row["proceeds_own"], row["proceeds_home"]), row["currency_minor"],
            bool(row["is_known"]),
        )  # fmt: skip
        found.append((row["account_id"], row["security_id"], one))
    return found
