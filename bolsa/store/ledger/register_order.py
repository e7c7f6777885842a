"""The order of a register's lines, and the key after which its next page begins.

Every column can be sorted by, and no page may read the whole of a long account where that can be helped:

- an index walks the lines by day, amount and payee, and stops when a page is full;
- words with few values (category, tag, member, state) are walked value by value, the lines of each by day;
- a bank text, a value date and a memo are compared over the account's lines in the order they lie in the file;
- a running balance is counted along over the account.

Where a filter leads with a short list (where.py), the list is sorted as it is. Blank cells come last in both directions.
"""

import heapq
import json
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from bolsa.core.ledger.register import RegisterFilter
from bolsa.errors import InvalidInput
from bolsa.store.ledger.where import SHORT, Where, lead, where_register

MANY_LINES = 20_000  # of an account: from here on reading the table through is quicker than going by its index
_LAST = "\U0010ffff"  # sorts behind every text

# CROSS JOIN keeps SQLite at the order of tables written here: it would begin with a filter's payee, and sort all it finds,
# where walking the lines in their order stops when a page is full. The named index keeps it from looking through the whole
# account for each entry of a payee.
_WORDS = "line l CROSS JOIN entry e ON e.id = l.entry_id CROSS JOIN payee p ON p.id = e.payee_id"
_LED = "json_each(:leading) j CROSS JOIN line l ON l.id = j.value"
_BY_PAYEE = "payee p CROSS JOIN entry e ON e.payee_id = p.id CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = e.id"


@dataclass(frozen=True)
class Place:
    """A line's place in an order: the value compared, the day where lines of one value follow by day, and the line."""

    value: str | int
    day: str
    line_id: int


@dataclass(frozen=True)
class Grouped:
    """An order by words with few values: how a line's word is found, all words, and the lines that may have one."""

    key: str
    values: str
    candidates: str


_CATEGORY = Grouped(
    """coalesce((SELECT coalesce(c.name, a.name) FROM line o LEFT JOIN category c ON c.id = o.category_id
                 LEFT JOIN account a ON a.id = o.account_id WHERE o.entry_id = l.entry_id AND o.id <> l.id
                 ORDER BY o.id LIMIT 1), '')""",
    "SELECT name FROM category UNION SELECT name FROM account",
    """SELECT l.id FROM category c CROSS JOIN line o ON o.category_id = c.id
       CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id WHERE c.name = :value AND l.account_id = :account_id
       UNION ALL SELECT l.id FROM account a CROSS JOIN line o INDEXED BY line_of_account ON o.account_id = a.id
       CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
       WHERE a.name = :value AND a.id <> :account_id AND l.account_id = :account_id""",
)
_TAGS = Grouped(
    """coalesce((SELECT min(t.name) FROM line o JOIN line_tag x ON x.line_id = o.id JOIN tag t ON t.id = x.tag_id
                 WHERE o.entry_id = l.entry_id AND o.id <> l.id), '')""",
    "SELECT name FROM tag",
    """SELECT l.id FROM tag t CROSS JOIN line_tag x ON x.tag_id = t.id CROSS JOIN line o ON o.id = x.line_id
       CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
       WHERE t.name = :value AND l.account_id = :account_id""",
)
_MEMBER = Grouped(
    """coalesce((SELECT m.name FROM line o JOIN member m ON m.id = o.member_id WHERE o.entry_id = l.entry_id AND o.id <> l.id
                 ORDER BY o.id LIMIT 1), '')""",
    "SELECT name FROM member",
    """SELECT l.id FROM member m CROSS JOIN line o INDEXED BY line_of_member ON o.member_id = m.id
       CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = o.entry_id
       WHERE m.name = :value AND l.account_id = :account_id""",
)
_STATE = Grouped(
    "l.state",
    'SELECT value AS name FROM json_each(\'["pending", "cleared", "reconciled"]\')',
    """SELECT l.id FROM line l INDEXED BY line_not_reconciled
       WHERE l.account_id = :account_id AND l.state = :value AND l.state <> 'reconciled'
       UNION ALL SELECT l.id FROM statement s CROSS JOIN line l INDEXED BY line_of_statement ON l.statement_id = s.id
       WHERE s.account_id = :account_id AND l.statement_id IS NOT NULL AND l.state = :value""",
)
_GROUPED = {"category": _CATEGORY, "tags": _TAGS, "member": _MEMBER, "state": _STATE}
_MAY_BE_BLANK = ("value_day", "bank", "memo")
_COMPARED = {"day": "l.day", "amount": "l.amount_minor", "payee": "p.name", "value_day": "l.value_day", "bank": "l.raw_text",
             "memo": "e.memo"}  # fmt: skip
ORDERS = (*_COMPARED, *_GROUPED, "balance")


@dataclass(frozen=True)
class Asked:
    """One page that is asked for: an account's lines under a filter, the direction, and the place the page begins behind.

    `leading` says that a short list of lines, the parameter of that name, comes before all else.
    """

    account_id: int
    where: Where
    leading: bool
    newest_first: bool
    after: Place | None
    most: int

    @property
    def way(self) -> str:
        return "DESC" if self.newest_first else "ASC"

    @property
    def compare(self) -> str:
        return "<" if self.newest_first else ">"

    @property
    def clauses(self) -> list[str]:
        # The plus keeps SQLite from walking the account when a short list of lines leads.
        return [*self.where[0], "+l.account_id = :account_id" if self.leading else "l.account_id = :account_id"]

    @property
    def params(self) -> dict[str, object]:
        return {**self.where[1], "account_id": self.account_id, "most": self.most + 1}

    @property
    def tables(self) -> str:
        """The line, and its entry and payee where a clause speaks of them; the list that leads comes first."""
        return self.with_words(any("e." in clause or "p." in clause for clause in self.where[0]))

    def with_words(self, wanted: bool) -> str:
        """The line, with its entry and payee if they are wanted."""
        tables = _WORDS if wanted else "line l"
        return tables.replace("line l", _LED) if self.leading else tables


def find_lines(
    db: sqlite3.Connection,
    account_id: int,
    wanted: RegisterFilter,
    *,
    order: str,
    newest_first: bool,
    after: str | None,
    most: int,
) -> tuple[list[int], str | None]:
    """The ids of a page's lines in order, and the key of the page that follows, None at the end.

    Raises: InvalidInput if `after` is no such key.
    """
    where = where_register(wanted)
    leading = lead(db, account_id, where)
    place = _read_key(after, order) if after else None
    asked = Asked(account_id, where, leading, newest_first, place, most)
    if order == "balance":
        found = _counted(db, asked)
    elif order in _GROUPED:
        found = (_sorted_list if leading else _by_value)(db, asked, _GROUPED[order])
    else:
        found = _compared(db, asked, order)
    page = found[:most]
    more = len(found) > most
    return [place.line_id for place in page], _write_key(page[-1], order) if more else None


def _write_key(place: Place, order: str) -> str:
    parts = [place.value, place.day, place.line_id] if order in _GROUPED else [place.value, place.line_id]
    return json.dumps(parts, ensure_ascii=False)


def _read_key(text: str, order: str) -> Place:
    kinds = (str, str, int) if order in _GROUPED else (int if order in ("amount", "balance") else str, int)
    try:
        parts = json.loads(text)
    except ValueError:
        parts = None
    if not isinstance(parts, list) or len(parts) != len(kinds) or not all(map(isinstance, parts, kinds)):
        raise InvalidInput("That page of the register does not exist. Begin at the top.")
    return Place(*parts) if len(parts) == 3 else Place(parts[0], "", parts[1])


LIST_COMPARED = """
    SELECT {key} AS value, '' AS day, l.id AS line_id FROM {tables} WHERE {clauses}
    ORDER BY {key} {way}, l.id {way} LIMIT :most"""
HAS_MANY_LINES = "SELECT 1 FROM line WHERE account_id = :account_id ORDER BY day LIMIT 1 OFFSET :many"


def _compared(db: sqlite3.Connection, asked: Asked, order: str) -> list[Place]:
    """A page by a column of the line or its payee, which SQLite compares."""
    key, tables, params = _COMPARED[order], asked.tables, asked.params
    if order == "payee":
        tables = asked.with_words(True) if asked.leading else _BY_PAYEE
    if order in _MAY_BE_BLANK:
        key = f"coalesce(nullif({key}, ''), :blank)"
        params["blank"] = "" if asked.newest_first else _LAST
        many = {"account_id": asked.account_id, "many": MANY_LINES}
        tables = asked.with_words(True) if order == "memo" else tables
        if not asked.leading and db.execute(HAS_MANY_LINES, many).fetchone():
            tables = tables.replace("line l", "line l NOT INDEXED")
    clauses = asked.clauses
    if asked.after:
        clauses.append(f"({key}, l.id) {asked.compare} (:after_value, :after_id)")
        params |= {"after_value": asked.after.value, "after_id": asked.after.line_id}
    sql = LIST_COMPARED.format(key=key, tables=tables, clauses=" AND ".join(clauses), way=asked.way)
    return [Place(**row) for row in db.execute(sql, params)]


LIST_OF_VALUE = """
    SELECT l.day, l.id FROM {tables} WHERE {clauses} ORDER BY l.day {way}, l.id {way} LIMIT :most"""


def _by_value(db: sqlite3.Connection, asked: Asked, by: Grouped) -> list[Place]:
    """A page by words with few values: the lines of one after the other, until the page is full."""
    found: list[Place] = []
    for value in _values(db, asked, by):
        clauses, params = [*asked.clauses, f"{by.key} = :value"], asked.params | {"value": value}
        short = [row[0] for row in db.execute(f"{by.candidates} LIMIT {SHORT}", params)] if value else None
        if short is not None and len(short) < SHORT:
            clauses = [clause.replace("l.account_id", "+l.account_id") for clause in clauses]
            clauses.append("l.id IN (SELECT value FROM json_each(:candidates))")
            params["candidates"] = json.dumps(short)
        if asked.after and asked.after.value == value:
            clauses.append(f"(l.day, l.id) {asked.compare} (:after_day, :after_id)")
            params |= {"after_day": asked.after.day, "after_id": asked.after.line_id}
        params["most"] = asked.most + 1 - len(found)
        sql = LIST_OF_VALUE.format(tables=asked.tables, clauses=" AND ".join(clauses), way=asked.way)
        found += [Place(value, row["day"], row["id"]) for row in db.execute(sql, params)]
        if len(found) > asked.most:
            break
    return found


def _values(db: sqlite3.Connection, asked: Asked, by: Grouped) -> Iterator[str]:
    """The words in order, from that of the page before on; none comes last."""
    words = sorted((row["name"] for row in db.execute(by.values)), key=_as_compared, reverse=asked.newest_first)
    values = [*words, ""]
    first = values.index(asked.after.value) if asked.after and asked.after.value in values else 0
    return iter(values[first:])


LIST_WITH_KEYS = "SELECT {key} AS value, l.day, l.id AS line_id FROM {tables} WHERE {clauses}"


def _sorted_list(db: sqlite3.Connection, asked: Asked, by: Grouped) -> list[Place]:
    """A page out of the short list that leads, by words with few values."""
    sql = LIST_WITH_KEYS.format(key=by.key, tables=asked.tables, clauses=" AND ".join(asked.clauses))
    places = [Place(**row) for row in db.execute(sql, asked.params)]
    places.sort(key=lambda p: (_as_compared(str(p.value)), p.day, p.line_id), reverse=asked.newest_first)
    places.sort(key=lambda p: p.value == "")
    begin = next((i + 1 for i, p in enumerate(places) if asked.after and p.line_id == asked.after.line_id), 0)
    return places[begin : begin + asked.most + 1]


def _as_compared(word: str) -> tuple[str, str]:
    return word.casefold(), word


LIST_ALONG = """
    SELECT l.id, l.amount_minor, {fits} AS fits FROM {tables} WHERE l.account_id = :account_id ORDER BY l.day, l.id"""


def _counted(db: sqlite3.Connection, asked: Asked) -> list[Place]:
    """A page by the running balance, which is counted along over all lines; the best places alone are kept."""
    fits = " AND ".join(f"({clause})" for clause in asked.where[0]) or "1"
    sql = LIST_ALONG.format(fits=fits, tables=asked.tables)
    pick: Callable[..., list[tuple[int, int]]] = heapq.nlargest if asked.newest_first else heapq.nsmallest
    after = (asked.after.value, asked.after.line_id) if asked.after else None

    def behind() -> Iterator[tuple[int, int]]:
        balance = 0
        for line_id, amount, fitting in db.execute(sql, asked.params):
            balance += amount
            place = (balance, line_id)
            if fitting and (after is None or (place < after if asked.newest_first else place > after)):
                yield place

    return [Place(balance, "", line_id) for balance, line_id in pick(asked.most + 1, behind())]
