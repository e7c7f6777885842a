"""Accounts, what the bank says of them, and the kept totals by month."""

import sqlite3
from datetime import date

from bolsa.core.accounts.account import Account, AccountState
from bolsa.core.accounts.noted import NotedRate
from bolsa.core.months import Month
from bolsa.errors import NotFound
from bolsa.store.checking.statements import LAST_CHECKED
from bolsa.store.connection import new_id

COLUMNS = (
    "id, name, kind, side, everyday, currency, institution, number, group_name AS 'group', opened_on, closed_on, shown, note,"
    " counts_shares"
)

_FLAGS = ("everyday", "shown", "counts_shares")


def _account(row: sqlite3.Row) -> Account:
    flags = {name: bool(row[name]) for name in _FLAGS}
    closed_on = date.fromisoformat(row["closed_on"]) if row["closed_on"] else None
    return Account(**{**dict(row), **flags, "opened_on": date.fromisoformat(row["opened_on"]), "closed_on": closed_on})


def list_accounts(db: sqlite3.Connection) -> list[Account]:
    """All accounts, everyday ones first, in the household's order."""
    sql = f"SELECT {COLUMNS} FROM account ORDER BY everyday DESC, position, id"
    return [_account(row) for row in db.execute(sql)]


def get_account(db: sqlite3.Connection, account_id: int) -> Account:
    row = db.execute(f"SELECT {COLUMNS} FROM account WHERE id = :id", {"id": account_id}).fetchone()
    if row is None:
        raise NotFound("There is no such account.")
    return _account(row)


def find_account_named(db: sqlite3.Connection, name: str) -> Account | None:
    """The account of that name, letters of either case; by its bank number if no name fits."""
    for clause in ("name = :text COLLATE NOCASE", "number = :text AND number <> ''"):
        row = db.execute(f"SELECT {COLUMNS} FROM account WHERE {clause}", {"text": name}).fetchone()
        if row:
            return _account(row)
    return None


INSERT_ACCOUNT = """
    INSERT INTO account (name, kind, side, everyday, currency, institution, number, group_name, opened_on, shown, note,
                         counts_shares, made_by_batch, position)
    VALUES (:name, :kind, :side, :everyday, :currency, :institution, :number, :group, :opened_on, :shown, :note, :counts_shares,
            :batch_id, (SELECT coalesce(max(position), 0) + 1 FROM account))"""


def insert_account(db: sqlite3.Connection, account: Account, batch_id: int | None = None) -> int:
    """Keeps a new account, with the batch whose file made it, if one did; gives its id."""
    return new_id(db.execute(INSERT_ACCOUNT, _values(account) | {"batch_id": batch_id}))


CHANGE_ACCOUNT = """
    UPDATE account SET name = :name, kind = :kind, side = :side, everyday = :everyday, institution = :institution,
        number = :number, group_name = :group, closed_on = :closed_on, shown = :shown, note = :note,
        counts_shares = :counts_shares
    WHERE id = :id"""


def change_account(db: sqlite3.Connection, account: Account) -> None:
    """Writes the account's words and flags; its currency and opening day stay."""
    db.execute(CHANGE_ACCOUNT, _values(account))


WAS_WRITTEN_ON = """
    SELECT EXISTS (SELECT 1 FROM line WHERE account_id = :id)
        OR EXISTS (SELECT 1 FROM trash t, json_each(t.snapshot, '$.line') j WHERE j.value ->> 'account_id' = :id)
        OR EXISTS (SELECT 1 FROM known_balance WHERE id = :id)
        OR EXISTS (SELECT 1 FROM journal_change c
                   WHERE c.table_name = 'line' AND :id IN (c.before ->> 'account_id', c.after ->> 'account_id'))"""


def was_written_on(db: sqlite3.Connection, account_id: int) -> bool:
    """Whether anything was ever written on the account that is there, lies in the trash, or may come back by an undo."""
    return bool(db.execute(WAS_WRITTEN_ON, {"id": account_id}).fetchone()[0])


CHANGE_CURRENCY = "UPDATE account SET currency = :currency, everyday = :everyday WHERE id = :id"


def change_currency(db: sqlite3.Connection, account_id: int, currency: str, *, everyday: bool) -> None:
    """Sets the currency of an account that holds nothing yet."""
    db.execute(CHANGE_CURRENCY, {"id": account_id, "currency": currency, "everyday": int(everyday)})


def change_order(db: sqlite3.Connection, account_ids: list[int]) -> None:
    """Puts accounts into this order; those whose place does not change are not written."""
    for position, account_id in enumerate(account_ids, 1):
        sql = "UPDATE account SET position = :position WHERE id = :id AND position <> :position"
        db.execute(sql, {"position": position, "id": account_id})


def _values(account: Account) -> dict:
    flags = {name: int(getattr(account, name)) for name in _FLAGS}
    days = {"opened_on": account.opened_on.isoformat(), "closed_on": account.closed_on and account.closed_on.isoformat()}
    return {**account.__dict__, **flags, **days}


MARK_EVERYDAY = """
    UPDATE line SET everyday = EXISTS (
        SELECT 1 FROM line l JOIN account a ON a.id = l.account_id WHERE l.entry_id = line.entry_id AND a.everyday = 1)
    WHERE entry_id IN (SELECT entry_id FROM line WHERE account_id = :id)"""


def mark_everyday_lines(db: sqlite3.Connection, account_id: int) -> None:
    """Sets anew, on every entry that touches the account, whether it touches an everyday account."""
    db.execute(MARK_EVERYDAY, {"id": account_id})


MARK_CHANGED = """
    SELECT DISTINCT row_id FROM journal_change WHERE step_id = :step_id AND table_name = 'account'
        AND before ->> 'everyday' IS NOT after ->> 'everyday' AND after IS NOT NULL"""


def list_turned(db: sqlite3.Connection, step_id: int) -> list[int]:
    """The accounts that a step turned everyday or apart."""
    return [row["row_id"] for row in db.execute(MARK_CHANGED, {"step_id": step_id})]


# What lay in the trash, or was undone, knows nothing of accounts that were turned meanwhile.
MARK_PUT_BACK = """
    UPDATE line SET everyday = 1 - everyday WHERE entry_id IN (
        SELECT after ->> 'entry_id' FROM journal_change
        WHERE step_id = :step_id AND table_name = 'line' AND before IS NULL AND after IS NOT NULL)
    AND everyday <> EXISTS (
        SELECT 1 FROM line l JOIN account a ON a.id = l.account_id WHERE l.entry_id = line.entry_id AND a.everyday = 1)"""


def mark_put_back_lines(db: sqlite3.Connection, step_id: int) -> None:
    """Sets anew, on every entry whose lines a step put there, whether it touches an everyday account."""
    db.execute(MARK_PUT_BACK, {"step_id": step_id})


LIST_CLOSED_MONTHS = """
    SELECT a.id, a.name, a.closed_on, m.month, m.amount_minor FROM account a
    LEFT JOIN account_month m ON m.account_id = a.id AND m.amount_minor <> 0 WHERE a.closed_on IS NOT NULL"""


def list_closed_months(db: sqlite3.Connection) -> dict[int, tuple[str, str, dict[str, int]]]:
    """By closed account: its name, when it closed, and what it moved in each month."""
    found: dict[int, tuple[str, str, dict[str, int]]] = {}
    for id_, name, closed_on, month, amount_minor in db.execute(LIST_CLOSED_MONTHS):
        months = found.setdefault(id_, (name, closed_on, {}))[2]
        if month is not None:
            months[month] = amount_minor
    return found


LIST_STATES = f"""
    SELECT a.id,
        (SELECT coalesce(sum(amount_minor), 0) FROM account_month m WHERE m.account_id = a.id) AS balance_minor,
        (SELECT coalesce(sum(amount_minor), 0) FROM line l
         WHERE l.account_id = a.id AND l.state = 'pending' AND l.state <> 'reconciled') AS pending_minor,
        b.amount_minor AS bank_minor, b.day AS bank_day,
        ({LAST_CHECKED.format("a.id")}) AS checked_until,
        (SELECT b2.brought_at FROM brought_row r JOIN batch b2 ON b2.id = r.batch_id
         WHERE r.account_id = a.id AND b2.state = 'brought' ORDER BY r.account_id DESC, r.day DESC LIMIT 1) AS brought_at
    FROM account a LEFT JOIN bank_balance b ON b.id = (
        SELECT s.id FROM bank_balance s LEFT JOIN batch t ON t.id = s.batch_id
        WHERE s.account_id = a.id AND (t.id IS NULL OR t.state IN ('brought', 'empty'))
        ORDER BY s.day DESC, s.id DESC LIMIT 1)"""


def list_account_states(db: sqlite3.Connection) -> list[AccountState]:
    """Every account with its balance, what the bank says, and until when it is checked; in the household's order."""
    rows = {row["id"]: row for row in db.execute(LIST_STATES)}
    return [_state(db, account, rows[account.id]) for account in list_accounts(db)]


def get_account_state(db: sqlite3.Connection, account_id: int) -> AccountState:
    account = get_account(db, account_id)
    return _state(db, account, db.execute(LIST_STATES + " WHERE a.id = :id", {"id": account_id}).fetchone())


def _state(db: sqlite3.Connection, account: Account, row: sqlite3.Row) -> AccountState:
    bank_day = date.fromisoformat(row["bank_day"]) if row["bank_day"] else None
    difference = None
    if bank_day:
        difference = row["bank_minor"] - sum_without_announced(db, account.id, bank_day)
    return AccountState(
        account=account,
        balance_minor=row["balance_minor"],
        pending_minor=row["pending_minor"],
        bank_minor=row["bank_minor"],
        bank_day=bank_day,
        difference_minor=difference,
        checked_until=date.fromisoformat(row["checked_until"]) if row["checked_until"] else None,
        brought_at=row["brought_at"],
    )


# "<> 'reconciled'" says nothing new, but lets SQLite use the small index of what is not reconciled.
SUM_PENDING_UNTIL = """
    SELECT coalesce(sum(amount_minor), 0) FROM line
    WHERE account_id = :id AND state = 'pending' AND state <> 'reconciled' AND day <= :day"""


def sum_cleared(db: sqlite3.Connection, account_id: int, day: date) -> int:
    """What the bank should hold at the end of the day: the balance without what is still pending."""
    pending = db.execute(SUM_PENDING_UNTIL, {"id": account_id, "day": day.isoformat()}).fetchone()[0]
    return sum_balance(db, account_id, day) - pending


SUM_ANNOUNCED_UNTIL = """
    SELECT coalesce(sum(amount_minor), 0) FROM line
    WHERE account_id = :id AND state = 'pending' AND state <> 'reconciled' AND (bank_ref <> '' OR raw_text <> '') AND day <=
    :day"""


def sum_without_announced(db: sqlite3.Connection, account_id: int, day: date) -> int:
    """The balance at the end of the day without what the bank announces and has not booked: beside it stands what the bank says
    it holds. What was typed and the bank never told of is in it."""
    announced = db.execute(SUM_ANNOUNCED_UNTIL, {"id": account_id, "day": day.isoformat()}).fetchone()[0]
    return sum_balance(db, account_id, day) - announced


SUM_BALANCE = """
    SELECT (SELECT coalesce(sum(amount_minor), 0) FROM account_month WHERE account_id = :id AND month < :month)
         + (SELECT coalesce(sum(amount_minor), 0) FROM line
            WHERE account_id = :id AND day >= :first AND (day < :day OR day = :day AND id <= :line_id))"""


def sum_balance(db: sqlite3.Connection, account_id: int, day: date, line_id: int = 2**62) -> int:
    """The account's balance at the end of the day, or just after one of that day's lines."""
    month = Month.of(day)
    values = {"id": account_id, "month": str(month), "first": month.first_day.isoformat()}
    return db.execute(SUM_BALANCE, values | {"day": day.isoformat(), "line_id": line_id}).fetchone()[0]


FIND_OPENING = """
    SELECT l.entry_id, l.day, l.amount_minor FROM line l WHERE l.account_id = :id AND EXISTS (
        SELECT 1 FROM line c WHERE c.entry_id = l.entry_id AND c.category_id = 2) ORDER BY l.day LIMIT 1"""


def find_opening_entry(db: sqlite3.Connection, account_id: int) -> int | None:
    """The entry of an account's opening balance, if it has one."""
    row = db.execute(FIND_OPENING, {"id": account_id}).fetchone()
    return row["entry_id"] if row else None


def find_opening_amount(db: sqlite3.Connection, account_id: int) -> tuple[date, int] | None:
    """The day of an account's opening balance and the amount, if it has one."""
    row = db.execute(FIND_OPENING, {"id": account_id}).fetchone()
    return (date.fromisoformat(row["day"]), row["amount_minor"]) if row else None


def sum_balance_without(db: sqlite3.Connection, account_id: int, day: date, entry_id: int | None) -> int:
    """The account's balance at the end of the day, had one entry not been."""
    sql = "SELECT coalesce(sum(amount_minor), 0) FROM line WHERE entry_id = :entry_id AND account_id = :id AND day <= :day"
    without = db.execute(sql, {"entry_id": entry_id, "id": account_id, "day": day.isoformat()}).fetchone()[0]
    return sum_balance(db, account_id, day) - without


def sum_by_month(db: sqlite3.Connection) -> dict[int, dict[Month, int]]:
    """What each account moved in each month."""
    totals: dict[int, dict[Month, int]] = {}
    for row in db.execute("SELECT account_id, month, amount_minor FROM account_month ORDER BY month"):
        totals.setdefault(row["account_id"], {})[Month.parse(row["month"])] = row["amount_minor"]
    return totals


SUM_EVERYDAY = """
    SELECT coalesce(sum(m.amount_minor), 0) FROM account_month m JOIN account a ON a.id = m.account_id
    WHERE a.everyday = 1 AND m.month <= :month"""


def sum_everyday_balance(db: sqlite3.Connection, month: Month) -> int:
    """The balance of all everyday accounts at the month's end, in home currency."""
    return db.execute(SUM_EVERYDAY, {"month": str(month)}).fetchone()[0]


INSERT_BANK_BALANCE = """
    INSERT INTO bank_balance (account_id, day, amount_minor, batch_id)
    VALUES (:account_id, :day, :amount_minor, :batch_id)"""


def insert_bank_balance(
    db: sqlite3.Connection, account_id: int, day: date, amount_minor: int, batch_id: int | None = None
) -> None:
    values = {"account_id": account_id, "day": day.isoformat(), "amount_minor": amount_minor, "batch_id": batch_id}
    db.execute(INSERT_BANK_BALANCE, values)


MOST_DECLARED = 60
DECLARED_NEAR = """
    SELECT s.day, s.amount_minor FROM bank_balance s LEFT JOIN batch t ON t.id = s.batch_id
    WHERE s.account_id = :account_id AND (t.id IS NULL OR t.state IN ('brought', 'empty'))
    ORDER BY s.day > :day, abs(julianday(s.day) - julianday(:day)), s.id DESC LIMIT :most"""


def list_differences_near(db: sqlite3.Connection, account_id: int, day: date, most: int) -> list[tuple[date, int]]:
    """Days nearest to this one, those before it first, with what the bank said the account held less what it held here."""
    values = {"account_id": account_id, "day": day.isoformat(), "most": most}
    found = [(date.fromisoformat(row["day"]), row["amount_minor"]) for row in db.execute(DECLARED_NEAR, values).fetchall()]
    return [(declared, amount - sum_cleared(db, account_id, declared)) for declared, amount in found]


def find_last_agreed(db: sqlite3.Connection, account_id: int) -> date | None:
    """The last day on which the balance the bank declared was the one here; None if it never was, of those of late."""
    values = {"account_id": account_id, "day": date.max.isoformat(), "most": MOST_DECLARED}
    for row in db.execute(DECLARED_NEAR, values).fetchall():
        day = date.fromisoformat(row["day"])
        if sum_cleared(db, account_id, day) == row["amount_minor"]:
            return day
    return None


INSERT_RATE = """
    INSERT INTO rate (currency, day, rate_e8, source) VALUES (:currency, :day, :rate_e8, :source)
    ON CONFLICT (currency, day) DO UPDATE SET rate_e8 = excluded.rate_e8, source = excluded.source"""


def put_rate(db: sqlite3.Connection, currency: str, day: date, rate_e8: int, source: str = "hand") -> None:
    """Sets what one unit of the currency is worth in home currency on the day, times 1e8; `source` is "hand" or "feed"."""
    db.execute(INSERT_RATE, {"currency": currency, "day": day.isoformat(), "rate_e8": rate_e8, "source": source})


def list_latest_rates(db: sqlite3.Connection, currency: str, most: int) -> list[NotedRate]:
    """The latest rates of a currency, newest first."""
    sql = "SELECT currency, day, rate_e8, source FROM rate WHERE currency = :currency ORDER BY day DESC LIMIT :most"
    rows = db.execute(sql, {"currency": currency, "most": most})
    return [NotedRate(r["currency"], date.fromisoformat(r["day"]), r["rate_e8"], r["source"]) for r in rows]


def remove_rate(db: sqlite3.Connection, currency: str, day: date) -> None:
    db.execute("DELETE FROM rate WHERE currency = :currency AND day = :day", {"currency": currency, "day": day.isoformat()})


def list_rates(db: sqlite3.Connection) -> dict[str, list[tuple[date, int]]]:
    """For each currency its (day, rate_e8) in order of day."""
    rates: dict[str, list[tuple[date, int]]] = {}
    for row in db.execute("SELECT currency, day, rate_e8 FROM rate ORDER BY currency, day"):
        rates.setdefault(row["currency"], []).append((date.fromisoformat(row["day"]), row["rate_e8"]))
    return rates
