"""Securities, their prices by day, and what their market tells of splits and distributions."""

import json
import sqlite3
from collections.abc import Iterable, Sequence
from datetime import date

from bolsa.core.holdings.prices import MarketEvent, Priced
from bolsa.core.holdings.security import Security
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

COLUMNS = "id, name, code, symbol, market, currency, kind, matures_on, is_compared"


def _security(row: sqlite3.Row) -> Security:
    matures = date.fromisoformat(row["matures_on"]) if row["matures_on"] else None
    return Security(**{**dict(row), "matures_on": matures, "is_compared": bool(row["is_compared"])})


def list_securities(db: sqlite3.Connection) -> list[Security]:
    """All securities by name."""
    return [_security(row) for row in db.execute(f"SELECT {COLUMNS} FROM security ORDER BY name COLLATE NOCASE")]


def get_security(db: sqlite3.Connection, security_id: int) -> Security:
    row = db.execute(f"SELECT {COLUMNS} FROM security WHERE id = :id", {"id": security_id}).fetchone()
    if row is None:
        raise NotFound("There is no such security.")
    return _security(row)


FIND_SECURITY = """
    SELECT id FROM security WHERE (code = :code AND :code <> '') OR name = :name COLLATE NOCASE
        OR (symbol = :name COLLATE NOCASE AND symbol <> '')
    ORDER BY code = :code AND :code <> '' DESC, name = :name COLLATE NOCASE DESC LIMIT 1"""


def find_security(db: sqlite3.Connection, name: str, code: str = "") -> int | None:
    """The id of the security with that code, else of that name or symbol."""
    row = db.execute(FIND_SECURITY, {"name": name, "code": code}).fetchone()
    return row["id"] if row else None


INSERT_SECURITY = """
    INSERT INTO security (name, code, symbol, market, currency, kind, matures_on, is_compared)
    VALUES (:name, :code, :symbol, :market, :currency, :kind, :matures_on, :is_compared)"""
CHANGE_SECURITY = """
    UPDATE security SET name = :name, code = :code, symbol = :symbol, market = :market, currency = :currency, kind = :kind,
        matures_on = :matures_on, is_compared = :is_compared WHERE id = :id"""


def _values(security: Security) -> dict[str, object]:
    matures = security.matures_on.isoformat() if security.matures_on else None
    return {**security.__dict__, "matures_on": matures, "is_compared": int(security.is_compared)}


def insert_security(db: sqlite3.Connection, security: Security) -> int:
    return new_id(db.execute(INSERT_SECURITY, _values(security)))


def change_security(db: sqlite3.Connection, security: Security) -> None:
    db.execute(CHANGE_SECURITY, _values(security))


def put_security(db: sqlite3.Connection, name: str, code: str, currency: str) -> int:
    """The id of a security, made if it is not there; a code and a currency are noted where none was."""
    found = find_security(db, name, code)
    if found is None:
        return insert_security(db, Security(0, name, code, currency=currency))
    if code:
        db.execute("UPDATE security SET code = :code WHERE id = :id AND code = ''", {"id": found, "code": code})
    db.execute("UPDATE security SET currency = :currency WHERE id = :id AND currency = ''", {"id": found, "currency": currency})
    return found


IS_USED = """
    SELECT EXISTS (SELECT 1 FROM trade WHERE security_id = :id) OR EXISTS (SELECT 1 FROM position_note WHERE security_id = :id)"""


def is_used(db: sqlite3.Connection, security_id: int) -> bool:
    """Whether anything is known of its shares."""
    return bool(db.execute(IS_USED, {"id": security_id}).fetchone()[0])


def remove_security(db: sqlite3.Connection, security_id: int) -> None:
    db.execute("DELETE FROM security WHERE id = :id", {"id": security_id})


# --- prices -----------------------------------------------------------------------------------------------------------

PUT_PRICE = """
    INSERT INTO price (security_id, day, price_e8) VALUES (?, ?, ?)
    ON CONFLICT DO UPDATE SET price_e8 = excluded.price_e8 WHERE price_e8 <> excluded.price_e8"""


def put_prices(db: sqlite3.Connection, security_id: int, prices: Iterable[tuple[date, int]]) -> int:
    """Keeps closes as the market tells them; gives how many are new or other than before."""
    before = db.total_changes
    db.executemany(PUT_PRICE, [(security_id, day.isoformat(), price_e8) for day, price_e8 in prices])
    return db.total_changes - before


def find_last_price_day(db: sqlite3.Connection, security_id: int) -> date | None:
    """The latest day the market told a close of."""
    row = db.execute("SELECT max(day) FROM price WHERE security_id = :id", {"id": security_id}).fetchone()
    return date.fromisoformat(row[0]) if row[0] else None


def put_price_note(db: sqlite3.Connection, security_id: int, day: date, price_e8: int) -> None:
    """Sets a price by hand."""
    sql = """INSERT INTO price_note (security_id, day, price_e8) VALUES (:id, :day, :price)
             ON CONFLICT (security_id, day) DO UPDATE SET price_e8 = excluded.price_e8"""
    db.execute(sql, {"id": security_id, "day": day.isoformat(), "price": price_e8})


def remove_price_note(db: sqlite3.Connection, security_id: int, day: date) -> None:
    sql = "DELETE FROM price_note WHERE security_id = :id AND day = :day"
    db.execute(sql, {"id": security_id, "day": day.isoformat()})


LIST_PRICES_ON = """
    SELECT s.value AS security_id,
        (SELECT p.day || ' ' || p.price_e8 FROM price p WHERE p.security_id = s.value AND p.day <= d.value
         ORDER BY p.day DESC LIMIT 1) AS told,
        iif(s.value IN (SELECT n.security_id FROM price_note n),
            (SELECT n.day || ' ' || n.price_e8 FROM price_note n WHERE n.security_id = s.value AND n.day <= d.value
             ORDER BY n.day DESC LIMIT 1), NULL) AS noted
    FROM json_each(:ids) s CROSS JOIN json_each(:days) d"""


def list_prices_on(db: sqlite3.Connection, security_ids: Iterable[int], days: Sequence[date]) -> dict[int, list[Priced | None]]:
    """By security: the latest known price not after each of some days, one set by hand before the market's of that day."""
    found: dict[int, list[Priced | None]] = {}
    values = {"ids": json.dumps(sorted(security_ids)), "days": json.dumps([day.isoformat() for day in days])}
    for security_id, told, noted in db.execute(LIST_PRICES_ON, values):
        is_noted = noted is not None and (told is None or noted[:10] >= told[:10])
        text, source = (noted, "hand") if is_noted else (told, "market")
        price = Priced(date.fromisoformat(text[:10]), int(text[11:]), source) if text else None
        found.setdefault(security_id, []).append(price)
    return found


LIST_CLOSES_ON = """
    SELECT (SELECT p.price_e8 FROM price p WHERE p.security_id = s.value AND p.day <= d.value ORDER BY p.day DESC LIMIT 1)
    FROM json_each(:ids) s CROSS JOIN json_each(:days) d"""
LIST_ALL_TOLD = """
    SELECT s.value FROM json_each(:ids) s WHERE s.value NOT IN (SELECT security_id FROM price_note)
        AND EXISTS (SELECT 1 FROM price p WHERE p.security_id = s.value)"""


def list_closes_on(db: sqlite3.Connection, security_ids: Iterable[int], days: Sequence[date]) -> dict[int, list[int | None]]:
    """By security whose every price is the market's: the latest close known not after each of some days, times 1e8."""
    told = [row[0] for row in db.execute(LIST_ALL_TOLD, {"ids": json.dumps(sorted(security_ids))})]
    values = {"ids": json.dumps(told), "days": json.dumps([day.isoformat() for day in days])}
    closes = [close for (close,) in db.execute(LIST_CLOSES_ON, values)]
    return {id_: closes[at * len(days) : (at + 1) * len(days)] for at, id_ in enumerate(told)}


LIST_PRICES = """
    SELECT day, price_e8, 'market' AS source FROM price WHERE security_id = :id AND day BETWEEN :first AND :last
    UNION ALL SELECT day, price_e8, 'hand' FROM price_note WHERE security_id = :id AND day BETWEEN :first AND :last
    ORDER BY day, source DESC"""


def list_prices(db: sqlite3.Connection, security_id: int, first: date, last: date) -> list[Priced]:
    """The prices of some days in order, those of the market and those set by hand; of one day the one by hand comes last."""
    values = {"id": security_id, "first": first.isoformat(), "last": last.isoformat()}
    return [Priced(date.fromisoformat(r["day"]), r["price_e8"], r["source"]) for r in db.execute(LIST_PRICES, values)]


def list_price_notes(db: sqlite3.Connection, security_id: int) -> list[Priced]:
    """The prices set by hand, latest first."""
    sql = "SELECT day, price_e8 FROM price_note WHERE security_id = :id ORDER BY day DESC"
    return [Priced(date.fromisoformat(r["day"]), r["price_e8"], "hand") for r in db.execute(sql, {"id": security_id})]


# --- what the market tells --------------------------------------------------------------------------------------------

PUT_EVENT = """
    INSERT INTO market_event (security_id, kind, day, pay_day, amount_e8, ratio_new, ratio_old)
    VALUES (:security_id, :kind, :day, :pay_day, :amount_e8, :ratio_new, :ratio_old)
    ON CONFLICT DO UPDATE SET pay_day = excluded.pay_day, amount_e8 = excluded.amount_e8, ratio_new = excluded.ratio_new,
        ratio_old = excluded.ratio_old"""


def put_event(db: sqlite3.Connection, event: MarketEvent) -> None:
    """Keeps a split or a distribution as the market tells it."""
    days = {"day": event.day.isoformat(), "pay_day": event.pay_day.isoformat() if event.pay_day else None}
    db.execute(PUT_EVENT, {**event.__dict__, **days})


def list_events(
    db: sqlite3.Connection, security_id: int | None = None, *, kind: str | None = None, since: date = date.min
) -> list[MarketEvent]:
    """Splits and distributions since a day in order, of one security or of all, of one kind or of both."""
    where = "day >= :since" + " AND security_id = :id" * (security_id is not None) + " AND kind = :kind" * (kind is not None)
    sql = f"SELECT security_id, kind, day, pay_day, amount_e8, ratio_new, ratio_old FROM market_event WHERE {where} ORDER BY day"
    found = []
    for row in db.execute(sql, {"id": security_id, "kind": kind, "since": since.isoformat()}):
        pay_day = date.fromisoformat(row["pay_day"]) if row["pay_day"] else None
        found.append(MarketEvent(**{**dict(row), "day": date.fromisoformat(row["day"]), "pay_day": pay_day}))
    return found
