"""Category groups, categories, and how past entries of a payee were filed."""

import json
import sqlite3
from collections.abc import Iterable
from datetime import date

from bolsa.core.sorting.category import Category, Group, Unsorted
from bolsa.core.sorting.circumstances import Decision
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

UNSORTED, OPENING, EXCHANGE = 1, 2, 3  # the ids that 0001_ledger.sql gives


SELECT_CATEGORY = """
    SELECT c.id, c.group_id, g.name AS 'group', c.name, c.type, c.role, c.in_budget, c.carries, c.carries_minus,
           c.retired, c.note, c.priority, c.member_id
    FROM category c JOIN category_group g ON g.id = c.group_id"""


def _category(row: sqlite3.Row) -> Category:
    flags = {name: bool(row[name]) for name in ("in_budget", "carries", "carries_minus", "retired")}
    return Category(**{**dict(row), **flags})


def list_categories(db: sqlite3.Connection, *, with_kept: bool = False) -> list[Category]:
    """The household's categories in the order of groups; `with_kept` also Bolsa's own three and retired ones."""
    where = "" if with_kept else " WHERE c.role IS NULL AND c.retired = 0"
    sql = SELECT_CATEGORY + where + " ORDER BY g.position, g.id, c.position, c.id"
    return [_category(row) for row in db.execute(sql)]


MOST_DECISIONS = 60  # of a payee: what it was before tells little
MORE_DECISIONS = 240  # where nothing tells two things apart that a payee is for
FEW = 20  # decisions on a payee below which its transfers are looked at too
LATELY = """
    SELECT category_id FROM (SELECT id, category_id FROM line WHERE category_id IS NOT NULL ORDER BY id DESC LIMIT 300)
    GROUP BY category_id ORDER BY max(id) DESC"""


def list_lately(db: sqlite3.Connection, most: int) -> list[Category]:
    """The household's own categories of the newest lines, the latest first."""
    own = {category.id: category for category in list_categories(db)}
    return [own[row["category_id"]] for row in db.execute(LATELY) if row["category_id"] in own][:most]


def get_category(db: sqlite3.Connection, category_id: int) -> Category:
    row = db.execute(SELECT_CATEGORY + " WHERE c.id = :id", {"id": category_id}).fetchone()
    if row is None:
        raise NotFound("There is no such category.")
    return _category(row)


def find_category_named(db: sqlite3.Connection, name: str) -> Category | None:
    row = db.execute(SELECT_CATEGORY + " WHERE c.name = :name COLLATE NOCASE", {"name": name}).fetchone()
    return _category(row) if row else None


INSERT_GROUP = """
    INSERT INTO category_group (name, position)
    VALUES (:name, (SELECT coalesce(max(position), 0) + 1 FROM category_group WHERE position < 1000))"""


def put_group(db: sqlite3.Connection, name: str) -> int:
    """The id of the group of that name, made at the end if it is not there."""
    sql = "SELECT id FROM category_group WHERE name = :name COLLATE NOCASE"
    row = db.execute(sql, {"name": name}).fetchone()
    return row["id"] if row else new_id(db.execute(INSERT_GROUP, {"name": name}))


def list_groups(db: sqlite3.Connection) -> list[Group]:
    sql = "SELECT id, name, position FROM category_group WHERE position < 1000 ORDER BY position, id"
    return [Group(**row) for row in db.execute(sql)]


INSERT_CATEGORY = """
    INSERT INTO category (group_id, name, type, in_budget, carries, carries_minus, note, position)
    VALUES (:group_id, :name, :type, :in_budget, :carries, :carries_minus, :note,
            (SELECT coalesce(max(position), 0) + 1 FROM category WHERE group_id = :group_id))"""


def insert_category(
    db: sqlite3.Connection,
    group_id: int,
    name: str,
    type_: str,
    *,
    in_budget: bool = True,
    carries: bool = True,
    carries_minus: bool = False,
    note: str = "",
) -> int:
    flags = {"in_budget": int(in_budget), "carries": int(carries), "carries_minus": int(carries_minus)}
    return new_id(db.execute(INSERT_CATEGORY, {"group_id": group_id, "name": name, "type": type_, "note": note, **flags}))


CHANGE_CATEGORY = """
    UPDATE category SET name = :name, group_id = :group_id, in_budget = :in_budget, carries = :carries,
        carries_minus = :carries_minus, retired = :retired, note = :note, member_id = :member_id
    WHERE id = :id"""


def change_category(db: sqlite3.Connection, category: Category) -> None:
    values = {**category.__dict__}
    for name in ("in_budget", "carries", "carries_minus", "retired"):
        values[name] = int(values[name])
    db.execute(CHANGE_CATEGORY, values)


CHANGE_PRIORITY = "UPDATE category SET priority = :priority WHERE id = :id AND priority <> :priority"


def change_priorities(db: sqlite3.Connection, category_ids: list[int]) -> None:
    """Gives categories the order of the list when money is placed and given up."""
    db.executemany(CHANGE_PRIORITY, [{"id": id_, "priority": i} for i, id_ in enumerate(category_ids, 1)])


CHANGE_POSITIONS = "UPDATE category SET position = :position WHERE id = :id"


def change_order(db: sqlite3.Connection, category_ids: list[int]) -> None:
    """Gives the categories of one group the order of the list."""
    db.executemany(CHANGE_POSITIONS, [{"id": id_, "position": i} for i, id_ in enumerate(category_ids, 1)])


# CROSS JOIN keeps SQLite at going from the entries to their lines: it would try every category for each entry.
LIST_DECISIONS = """
    SELECT c.category_id, a.amount_minor, a.account_id, a.day, a.raw_text
    FROM entry e CROSS JOIN line c INDEXED BY line_of_entry ON c.entry_id = e.id
    CROSS JOIN category k ON k.id = c.category_id
    CROSS JOIN line a INDEXED BY line_of_entry ON a.entry_id = e.id
    WHERE e.payee_id = :payee_id AND c.account_id IS NULL AND a.account_id IS NOT NULL AND k.role IS NULL AND k.retired = 0
        AND e.id <> :without
    ORDER BY e.day DESC LIMIT :most"""
LIST_TRANSFERS = """
    SELECT -b.account_id AS category_id, a.amount_minor, a.account_id, a.day, a.raw_text
    FROM (SELECT id, day FROM entry INDEXED BY entry_of_payee WHERE payee_id = :payee_id ORDER BY day DESC LIMIT :most) e
    CROSS JOIN line a INDEXED BY line_of_entry ON a.entry_id = e.id AND a.account_id IS NOT NULL
    CROSS JOIN line b INDEXED BY line_of_entry ON b.entry_id = e.id AND b.account_id <> a.account_id AND b.currency = a.currency
    CROSS JOIN account o ON o.id = b.account_id AND o.closed_on IS NULL
    CROSS JOIN account n ON n.id = a.account_id AND n.everyday = o.everyday ORDER BY e.day DESC LIMIT :most"""


def list_decisions(db: sqlite3.Connection, payee_id: int, most: int = MOST_DECISIONS, *, without: int = 0) -> list[Decision]:
    """How the payee's latest entries that are sorted were filed, the latest last, splits counted once a category; a transfer
    stands under the other account's number below 0; `without` names an entry that does not count."""
    values = {"payee_id": payee_id, "most": most, "without": without}
    rows = db.execute(LIST_DECISIONS, values).fetchall()
    if len(rows) < FEW:  # a shop with a long past of categories is no account of one's own
        rows += db.execute(LIST_TRANSFERS, values).fetchall()
    return [
        Decision(id_, amount, account_id, date.fromisoformat(day), text) for id_, amount, account_id, day, text in reversed(rows)
    ]


AT_ONCE = 4_000  # lines that are read at once, from the newest on
READ_AT_MOST = 40_000  # of them, where nearly all wait
COUNT_LATEST = """
    SELECT e.payee_id, c.category_id, count(*) AS times
    FROM line c CROSS JOIN category k ON k.id = c.category_id AND k.role IS NULL CROSS JOIN entry e ON e.id = c.entry_id
    WHERE c.id > :above AND c.id <= :until AND c.account_id IS NULL AND e.payee_id IS NOT NULL GROUP BY 1, 2"""


def count_latest_decisions(db: sqlite3.Connection, most: int) -> list[tuple[int, int, int]]:
    """Payee, category and how often it was the one, of about the latest `most` decisions by when they were recorded."""
    until = newest = db.execute("SELECT coalesce(max(id), 0) FROM line").fetchone()[0]
    found: list[tuple[int, int, int]] = []
    while until > max(0, newest - READ_AT_MOST) and sum(times for _, _, times in found) < most:
        rows = db.execute(COUNT_LATEST, {"above": until - AT_ONCE, "until": until})
        found += [(payee_id, category_id, times) for payee_id, category_id, times in rows]
        until -= AT_ONCE
    return found


LIST_SORTED_PAYEES = """
    SELECT p.id, p.name FROM payee p WHERE EXISTS (
        SELECT 1 FROM entry e JOIN line c ON c.entry_id = e.id AND c.account_id IS NULL
            AND c.category_id NOT IN (SELECT id FROM category WHERE role IS NOT NULL)
        WHERE e.payee_id = p.id)"""


def list_sorted_payees(db: sqlite3.Connection) -> dict[str, int]:
    """The payees with at least one sorted entry: id by name."""
    return {row["name"]: row["id"] for row in db.execute(LIST_SORTED_PAYEES)}


LIST_UNSORTED = """
    SELECT e.id AS entry_id, a.id AS line_id, e.payee_id, p.name AS payee, e.memo, a.account_id, acc.name AS account,
           a.currency, a.day, a.amount_minor, a.raw_text, iif(u.currency = a.currency, u.waits, a.amount_minor) AS waits_minor,
           e.note
    FROM (SELECT entry_id, currency, -sum(amount_minor) AS waits FROM line
          WHERE category_id = 1 AND account_id IS NULL GROUP BY entry_id) u
    JOIN entry e ON e.id = u.entry_id JOIN payee p ON p.id = e.payee_id
    JOIN line a ON a.id = (SELECT min(id) FROM line WHERE entry_id = e.id AND account_id IS NOT NULL)
    JOIN account acc ON acc.id = a.account_id
    WHERE :payee_id IS NULL OR e.payee_id = :payee_id
    ORDER BY a.day DESC, e.id DESC LIMIT :most"""


def list_unsorted(db: sqlite3.Connection, *, payee_id: int | None = None, most: int = 2000) -> list[Unsorted]:
    """The entries that wait to be sorted, newest first, each once."""
    rows = db.execute(LIST_UNSORTED, {"payee_id": payee_id, "most": most})
    return [Unsorted(**{**dict(row), "day": date.fromisoformat(row["day"])}) for row in rows]


COUNT_UNSORTED = "SELECT count(DISTINCT entry_id) FROM line WHERE category_id = 1"
COUNT_UNSORTED_AMONG = COUNT_UNSORTED + " AND entry_id IN (SELECT value FROM json_each(:ids))"


def count_unsorted_among(db: sqlite3.Connection, entry_ids: Iterable[int]) -> int:
    """How many of these entries wait to be sorted."""
    return db.execute(COUNT_UNSORTED_AMONG, {"ids": json.dumps(list(entry_ids))}).fetchone()[0]


LIST_UNSORTED_LINES = "SELECT id FROM line WHERE category_id = 1 AND entry_id IN (SELECT value FROM json_each(:ids))"


def list_unsorted_lines(db: sqlite3.Connection, entry_ids: Iterable[int]) -> list[int]:
    """The lines of these entries that wait to be sorted."""
    return [row["id"] for row in db.execute(LIST_UNSORTED_LINES, {"ids": json.dumps(list(entry_ids))})]


def count_unsorted(db: sqlite3.Connection) -> int:
    """How many entries wait to be sorted."""
    return db.execute(COUNT_UNSORTED).fetchone()[0]


FILE_ENTRIES = """
    UPDATE line SET category_id = :category_id
    WHERE category_id = 1 AND entry_id IN (SELECT value FROM json_each(:ids))"""


def file_unsorted(db: sqlite3.Connection, entry_ids: list[int], category_id: int) -> int:
    """Files the unsorted lines of these entries under the category; gives how many there were."""
    return db.execute(FILE_ENTRIES, {"category_id": category_id, "ids": json.dumps(entry_ids)}).rowcount


# What left everyday money by a line: its amount in home currency; of money set by into an account in another currency
# the home amount that left.
LEFT_HOME = """iif(l.currency = h.home_currency, l.amount_minor, (
        SELECT -sum(o.amount_minor) FROM line o JOIN account a ON a.id = o.account_id AND a.everyday = 1
        WHERE o.entry_id = l.entry_id))"""
_LEFT_EVERYDAY = """l.category_id = :category_id AND l.day >= :first AND l.day <= :last AND l.everyday = 1
        AND (l.currency = h.home_currency OR l.account_id IS NOT NULL)"""
LIST_CATEGORY_LINES = f"""
    SELECT l.id AS line_id, e.id AS entry_id, l.day, p.name AS payee, e.memo, {LEFT_HOME} AS amount_minor,
           h.home_currency AS currency,
           (SELECT account_id FROM line a WHERE a.entry_id = e.id AND a.account_id IS NOT NULL ORDER BY a.id LIMIT 1)
               AS account_id
    FROM household h CROSS JOIN line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id
    WHERE {_LEFT_EVERYDAY} ORDER BY l.day, l.id LIMIT :most OFFSET :offset"""


def list_category_lines(
    db: sqlite3.Connection, category_id: int, first: date, last: date, most: int = 500, offset: int = 0
) -> list[sqlite3.Row]:
    """What the category spent on some days from everyday money: line_id, entry_id, day, payee, memo, amount_minor,
    currency, account_id."""
    values = {"category_id": category_id, "first": first.isoformat(), "last": last.isoformat()}
    return db.execute(LIST_CATEGORY_LINES, values | {"most": most, "offset": offset}).fetchall()


COUNT_CATEGORY_LINES = f"""
    SELECT count(*) AS lines, coalesce(sum({LEFT_HOME}), 0) AS amount_minor FROM household h CROSS JOIN line l
    WHERE {_LEFT_EVERYDAY}"""


def count_category_lines(db: sqlite3.Connection, category_id: int, first: date, last: date) -> tuple[int, int]:
    """How many lines there are behind what the category spent on some days, and their sum."""
    values = {"category_id": category_id, "first": first.isoformat(), "last": last.isoformat()}
    row = db.execute(COUNT_CATEGORY_LINES, values).fetchone()
    return row["lines"], row["amount_minor"]
