"""Trades, the lots chosen for them, and the positions institutions declare."""

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date

from bolsa.core.holdings.security import Declared
from bolsa.core.holdings.trades import Trade
from bolsa.store.connection import new_id

COLUMNS = (
    "id, account_id, security_id, day, kind, shares_e8, total_minor, fee_minor, basis_day, taxed_minor, untaxed_minor,"
    " credit_minor, withheld_minor, ex_day, ratio_new, ratio_old, reason, bank_ref, entry_id"
)
_DAYS = ("day", "basis_day", "ex_day")


def _day(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None


def _trade(row: sqlite3.Row) -> Trade:
    """By place, as COLUMNS has them: thousands are read for a page."""
    (id_, account_id, security_id, day, kind, shares, total, fee, basis_day, taxed, untaxed, credit, withheld, ex_day, new, old,
     reason, bank_ref, entry_id) = row  # fmt: skip
    return Trade(
        date.fromisoformat(day), kind, shares, security_id, total, fee, _day(basis_day), taxed, untaxed, credit, withheld,
        _day(ex_day), new, old, reason, bank_ref, account_id, id_, entry_id,
    )  # fmt: skip


def _values(trade: Trade) -> dict[str, object]:
    days = {name: getattr(trade, name).isoformat() if getattr(trade, name) else None for name in _DAYS}
    return {**trade.__dict__, **days}


def list_trades(db: sqlite3.Connection, account_id: int | None = None, security_id: int | None = None) -> list[Trade]:
    """Trades, the earliest first: all, those of an account, of a security, or of both."""
    clauses = ["account_id = :account"] * (account_id is not None) + ["security_id = :security"] * (security_id is not None)
    where = f" WHERE {' AND '.join(clauses)}" if clauses else ""
    sql = f"SELECT {COLUMNS} FROM trade{where} ORDER BY day, id"
    return [_trade(row) for row in db.execute(sql, {"account": account_id, "security": security_id})]


def find_trade(db: sqlite3.Connection, trade_id: int) -> Trade | None:
    row = db.execute(f"SELECT {COLUMNS} FROM trade WHERE id = :id", {"id": trade_id}).fetchone()
    return _trade(row) if row else None


def find_trade_of_entry(db: sqlite3.Connection, entry_id: int) -> Trade | None:
    """The trade whose cash an entry is."""
    row = db.execute(f"SELECT {COLUMNS} FROM trade WHERE entry_id = :id", {"id": entry_id}).fetchone()
    return _trade(row) if row else None


_NAMES = [name.strip() for name in COLUMNS.split(",") if name.strip() != "id"]
INSERT_TRADE = f"""
    INSERT INTO trade ({", ".join(_NAMES)}, batch_id) VALUES ({", ".join(f":{name}" for name in _NAMES)}, :batch_id)"""


def insert_trade(db: sqlite3.Connection, trade: Trade, batch_id: int | None = None) -> int:
    return new_id(db.execute(INSERT_TRADE, _values(trade) | {"batch_id": batch_id}))


CHANGE_TRADE = f"UPDATE trade SET {', '.join(f'{name} = :{name}' for name in _NAMES)} WHERE id = :id"


def change_trade(db: sqlite3.Connection, trade: Trade) -> None:
    db.execute(CHANGE_TRADE, _values(trade))


def remove_trade(db: sqlite3.Connection, trade_id: int) -> None:
    """Takes a trade out, with what was chosen of and for its lots."""
    for sql in ("DELETE FROM trade_lot WHERE trade_id = :id OR lot_id = :id", "DELETE FROM trade WHERE id = :id"):
        db.execute(sql, {"id": trade_id})


LIST_MOVES = """
    SELECT account_id, security_id, day, shares_e8 FROM trade
    WHERE shares_e8 <> 0 ORDER BY account_id, security_id, day"""


def list_moves(db: sqlite3.Connection, account_ids: Iterable[int]) -> dict[tuple[int, int], list[tuple[date, int]]]:
    """By account and security, of some accounts: by how many shares its position changed and when, in order."""
    found: dict[tuple[int, int], list[tuple[date, int]]] = {}
    wanted = set(account_ids)
    for account_id, security_id, day, shares_e8 in db.execute(LIST_MOVES):
        if account_id in wanted:
            found.setdefault((account_id, security_id), []).append((date.fromisoformat(day), shares_e8))
    return found


def list_picks(db: sqlite3.Connection, account_id: int, security_id: int) -> dict[int, list[tuple[int, int]]]:
    """By trade that took shares out: the lots chosen for it, each by the trade that brought it, and how many shares."""
    found: dict[int, list[tuple[int, int]]] = {}
    sql = """SELECT p.trade_id, p.lot_id, p.shares_e8 FROM trade_lot p JOIN trade t ON t.id = p.trade_id
             WHERE t.account_id = :account AND t.security_id = :security ORDER BY p.id"""
    for row in db.execute(sql, {"account": account_id, "security": security_id}):
        found.setdefault(row["trade_id"], []).append((row["lot_id"], row["shares_e8"]))
    return found


def put_picks(db: sqlite3.Connection, trade_id: int, picks: list[tuple[int, int]]) -> None:
    """Says from which lots a trade takes its shares."""
    db.execute("DELETE FROM trade_lot WHERE trade_id = :id", {"id": trade_id})
    for lot_id, shares_e8 in picks:
        sql = "INSERT INTO trade_lot (trade_id, lot_id, shares_e8) VALUES (:trade, :lot, :shares)"
        db.execute(sql, {"trade": trade_id, "lot": lot_id, "shares": shares_e8})


LIST_TOUCHED = """
    SELECT DISTINCT json_extract(coalesce(c.after, c.before), '$.account_id') AS account_id,
        json_extract(coalesce(c.after, c.before), '$.security_id') AS security_id, c.row_id,
        json_extract(c.before, '$.account_id') AS account_before, json_extract(c.before, '$.security_id') AS security_before
    FROM journal_change c WHERE c.step_id = :id AND c.table_name = 'trade'"""


def list_touched(db: sqlite3.Connection, step_id: int) -> set[tuple[int, int]]:
    """The accounts and securities whose trades a step changed."""
    found = set()
    for row in db.execute(LIST_TOUCHED, {"id": step_id}):
        found.add((row["account_id"], row["security_id"]))
        if row["account_before"] is not None:
            found.add((row["account_before"], row["security_before"]))
    return found


LIST_SHAKEN = """
    SELECT DISTINCT t.account_id, t.security_id FROM trade t JOIN account a ON a.id = t.account_id
    JOIN security s ON s.id = t.security_id
    WHERE EXISTS (SELECT 1 FROM journal_change c WHERE c.step_id = :id AND (
        c.table_name = 'rate' AND json_extract(coalesce(c.after, c.before), '$.currency') IN (a.currency, s.currency)
        OR c.table_name IN ('account', 'account_terms') AND c.row_id = a.id
        OR c.table_name = 'security' AND c.row_id = s.id
        OR c.table_name = 'trade_lot' AND json_extract(coalesce(c.after, c.before), '$.trade_id') = t.id
        OR c.table_name = 'household'))"""


def list_shaken(db: sqlite3.Connection, step_id: int) -> set[tuple[int, int]]:
    """The accounts and securities whose lots hang on something else that a step changed: a rate, a method, a currency, a
    choice."""
    return {(row["account_id"], row["security_id"]) for row in db.execute(LIST_SHAKEN, {"id": step_id})}


def list_pairs(db: sqlite3.Connection) -> set[tuple[int, int]]:
    """Every account and security there are trades of."""
    return {(row["account_id"], row["security_id"]) for row in db.execute("SELECT DISTINCT account_id, security_id FROM trade")}


def list_positions(db: sqlite3.Connection, account_id: int) -> list[tuple[int, int]]:
    """The securities whose shares lie in an account, and how many."""
    sql = (
        "SELECT security_id, sum(shares_e8) AS shares_e8 FROM trade WHERE account_id = :id GROUP BY 1 HAVING sum(shares_e8) <> 0"
    )
    return [(row["security_id"], row["shares_e8"]) for row in db.execute(sql, {"id": account_id})]


LIST_PAIRS_BY_DAY = "SELECT account_id, security_id, min(day) AS first, max(day) AS last FROM trade GROUP BY 1, 2"


def list_pairs_by(db: sqlite3.Connection, day: date) -> tuple[set[tuple[int, int]], set[tuple[int, int]]]:
    """Every account and security there are trades of until a day; and every one there are trades of after it."""
    rows = db.execute(LIST_PAIRS_BY_DAY).fetchall()
    until = {(row["account_id"], row["security_id"]) for row in rows if row["first"] <= day.isoformat()}
    return until, {(row["account_id"], row["security_id"]) for row in rows if row["last"] > day.isoformat()}


def list_between(db: sqlite3.Connection, first: date, last: date, *, with_first: bool = False) -> list[Trade]:
    """The trades after one day (or of it too) until another, the earliest first."""
    clause = "day >= :first" if with_first else "day > :first"
    sql = f"SELECT {COLUMNS} FROM trade WHERE {clause} AND day <= :last ORDER BY day, id"
    return [_trade(row) for row in db.execute(sql, {"first": first.isoformat(), "last": last.isoformat()})]


def list_of_kinds(db: sqlite3.Connection, kinds: Iterable[str], until: date, since: date = date.min) -> list[Trade]:
    """The trades of some kinds until a day, the earliest first; those `since` another by their own day or their ex day."""
    sql = f"""SELECT {COLUMNS} FROM trade WHERE kind IN (SELECT value FROM json_each(:kinds)) AND day <= :until
              AND (day >= :since OR ex_day >= :since) ORDER BY day, id"""
    values = {"kinds": json.dumps(list(kinds)), "until": until.isoformat(), "since": since.isoformat()}
    return [_trade(row) for row in db.execute(sql, values)]


def list_totals(db: sqlite3.Connection, kinds: Iterable[str], until: date) -> list[tuple[int, int, date, int]]:
    """The totals of trades of some kinds until a day: account, security, day, the account's minor units. All that sums need of
    thousands of trades."""
    sql = """SELECT account_id, security_id, day, total_minor FROM trade WHERE total_minor IS NOT NULL AND day <= :until
             AND kind IN (SELECT value FROM json_each(:kinds))"""
    rows = db.execute(sql, {"kinds": json.dumps(list(kinds)), "until": until.isoformat()})
    return [(account_id, security_id, date.fromisoformat(day), minor) for account_id, security_id, day, minor in rows]


SUM_HOLDERS = """
    SELECT e.key AS at, t.account_id, sum(t.shares_e8) AS shares_e8 FROM json_each(:asked) e
    JOIN trade t ON t.security_id = e.value ->> 0 AND t.day <= e.value ->> 1 GROUP BY 1, 2"""


def sum_holders(db: sqlite3.Connection, asked: Sequence[tuple[int, date]]) -> list[dict[int, int]]:
    """For each security and day that is asked for: the shares every account held at the end of it."""
    found: list[dict[int, int]] = [{} for _ in asked]
    values = json.dumps([(security_id, day.isoformat()) for security_id, day in asked])
    for row in db.execute(SUM_HOLDERS, {"asked": values}):
        found[row["at"]][row["account_id"]] = row["shares_e8"]
    return found


LIST_COSTS = """
    WITH likely AS MATERIALIZED (
        SELECT value ->> 0 AS account_id, value ->> 1 AS security_id, value ->> 2 AS low, value ->> 3 AS high
        FROM json_each(:likely)),
    told AS NOT MATERIALIZED (
        SELECT t.account_id, t.security_id, coalesce(t.basis_day, t.day) AS since, t.total_minor, t.shares_e8, l.low, l.high,
            (SELECT p.price_e8 FROM price p WHERE p.security_id = t.security_id AND p.day <= coalesce(t.basis_day, t.day)
             ORDER BY p.day DESC LIMIT 1) AS close,
            (SELECT n.price_e8 FROM price_note n WHERE n.security_id = t.security_id AND n.day <= coalesce(t.basis_day, t.day)
             ORDER BY n.day DESC LIMIT 1) AS noted
        FROM likely l CROSS JOIN trade t ON t.account_id = l.account_id AND t.security_id = l.security_id
        WHERE t.shares_e8 > 0 AND t.total_minor <> 0)
    SELECT account_id, security_id, since, total_minor, shares_e8, close, noted FROM told
    WHERE -total_minor * 1.0 / shares_e8 / close NOT BETWEEN low AND high
        OR -total_minor * 1.0 / shares_e8 / noted NOT BETWEEN low AND high"""

Likely = Mapping[tuple[int, int], tuple[float, float]]


def list_costs(
    db: sqlite3.Connection, likely: Likely
) -> Iterator[tuple[tuple[int, int], date, int, int, int | None, int | None]]:
    """What shares of some accounts and securities cost, where that is not `likely` (between two multiples of the shares times a
    price known by then): account and security, since when they are held, total, shares, and the prices, the market's and one set
    by hand."""
    values = json.dumps([[*pair, *between] for pair, between in likely.items()])
    for account_id, security_id, since, total, shares, told, noted in db.execute(LIST_COSTS, {"likely": values}):
        yield (account_id, security_id), date.fromisoformat(since), total, shares, told, noted


LIST_PAIRS_TO_DOUBT = """
    SELECT DISTINCT account_id, security_id FROM trade
    WHERE kind IN ('split', 'reinvest') OR shares_e8 > 0 AND total_minor IS NULL
        OR security_id IN (SELECT security_id FROM market_event WHERE kind = 'split')"""


def list_pairs_to_doubt(db: sqlite3.Connection) -> set[tuple[int, int]]:
    """Every account and security with splits, reinvestments or shares without a cost: what may be wrong without a far cost."""
    return {(row["account_id"], row["security_id"]) for row in db.execute(LIST_PAIRS_TO_DOUBT)}


LIST_WITHOUT_MARKET = """
    SELECT s.value AS id FROM json_each(:ids) s WHERE NOT EXISTS (SELECT 1 FROM price p WHERE p.security_id = s.value)"""


def list_without_market(db: sqlite3.Connection, security_ids: Iterable[int]) -> list[int]:
    """Those of some securities of which no market told a price."""
    return [row["id"] for row in db.execute(LIST_WITHOUT_MARKET, {"ids": json.dumps(sorted(security_ids))})]


# Of what was declared of a security the latest day counts, and of that day what was said last.
_IS_LAST = """p.id = (SELECT o.id FROM position_note o WHERE o.account_id = p.account_id AND o.security_id = p.security_id
        ORDER BY o.day DESC, o.id DESC LIMIT 1)"""
LIST_DECLARED = f"SELECT security_id, day, shares_e8 FROM position_note p WHERE account_id = :id AND {_IS_LAST}"


def list_declared(db: sqlite3.Connection, account_id: int) -> dict[int, Declared]:
    """By security: the position the institution declared last for an account."""
    return {
        row["security_id"]: Declared(**{**dict(row), "day": date.fromisoformat(row["day"])})
        for row in db.execute(LIST_DECLARED, {"id": account_id})
    }


DROP_POSITION = """
    DELETE FROM position_note WHERE account_id = :account_id AND security_id = :security_id AND day = :day
        AND batch_id IS :batch_id"""
PUT_POSITION = """
    INSERT INTO position_note (account_id, security_id, day, shares_e8, batch_id)
    VALUES (:account_id, :security_id, :day, :shares_e8, :batch_id)"""


def put_position(db: sqlite3.Connection, account_id: int, declared: Declared, batch_id: int | None = None) -> None:
    """Notes a declared position; what was noted of that day by hand, or by the same batch, gives way to its like."""
    values = {**declared.__dict__, "day": declared.day.isoformat(), "account_id": account_id, "batch_id": batch_id}
    db.execute(DROP_POSITION, {key: values[key] for key in ("account_id", "security_id", "day", "batch_id")})
    db.execute(PUT_POSITION, values)


FORGET_POSITIONS = "DELETE FROM position_note WHERE account_id = :account_id AND security_id = :security_id"


def remove_positions(db: sqlite3.Connection, account_id: int, security_id: int) -> None:
    """Forgets every position that was declared of a security."""
    db.execute(FORGET_POSITIONS, {"account_id": account_id, "security_id": security_id})


def count_trades_of_batch(db: sqlite3.Connection, batch_id: int) -> int:
    """How many trades a batch brought that are still its own."""
    return db.execute("SELECT count(*) FROM trade WHERE batch_id = :id", {"id": batch_id}).fetchone()[0]


# What nobody changed since; a change leaves a row in the journal. That Bolsa linked its cash leaves one too, and is none.
LIST_UNTOUCHED = f"""
    SELECT {COLUMNS} FROM trade WHERE batch_id = :id AND NOT EXISTS (
        SELECT 1 FROM journal_change c WHERE c.table_name = 'trade' AND c.row_id = trade.id
            AND json_remove(c.before, '$.entry_id') IS NOT json_remove(c.after, '$.entry_id'))
        AND NOT EXISTS (SELECT 1 FROM attachment a WHERE a.trade_id = trade.id)"""


def list_untouched_of_batch(db: sqlite3.Connection, batch_id: int) -> list[Trade]:
    """The trades a batch brought that nobody changed since, or attached something to."""
    return [_trade(row) for row in db.execute(LIST_UNTOUCHED, {"id": batch_id})]


def let_go_of_batch(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets the positions a batch declared, and that the trades which stay came by it."""
    db.execute("DELETE FROM position_note WHERE batch_id = :id", {"id": batch_id})
    db.execute("UPDATE trade SET batch_id = NULL WHERE batch_id = :id", {"id": batch_id})


LIST_DIFFERING = f"""
    SELECT account_id, security_id FROM (
        SELECT p.account_id, p.security_id, p.shares_e8 - coalesce((
            SELECT sum(t.shares_e8) FROM trade t
            WHERE t.account_id = p.account_id AND t.security_id = p.security_id AND t.day <= p.day), 0) AS missing_e8
        FROM position_note p WHERE {_IS_LAST})
    WHERE missing_e8 <> 0 ORDER BY 1, 2"""


def list_differing(db: sqlite3.Connection) -> list[tuple[int, int]]:
    """The accounts and securities that have other shares here than the institution declared last."""
    return [(row["account_id"], row["security_id"]) for row in db.execute(LIST_DIFFERING)]
