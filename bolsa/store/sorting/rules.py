"""Rules with their conditions and actions, and how they fared."""

import json
import sqlite3
from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from itertools import groupby

from bolsa.core.ledger.payees import tidy_payee
from bolsa.core.sorting.rules import Action, Condition, Fared, Filed, Rule, Seen, SeenRow, SharePart, Told
from bolsa.errors import NotFound
from bolsa.store.connection import new_id
from bolsa.store.sorting.categories import EXCHANGE, OPENING

_IDS = {"account": "account_id", "member": "member_id", "category": "category_id"}
_ACTION_IDS = {"file": "category_id", "transfer": "account_id", "member": "member_id", "ask": "member_id", "series": "series_id"}
SELECT_CONDITIONS = """
    SELECT rule_id, number, kind, how, text, least, most, currency, account_id, member_id, category_id
    FROM rule_condition ORDER BY rule_id, number, id"""
SELECT_ACTIONS = """
    SELECT a.rule_id, a.number, a.kind, a.text, a.category_id, a.account_id, a.member_id, a.series_id, a.amount_minor, a.share_e6,
           t.name AS tag
    FROM rule_action a LEFT JOIN tag t ON t.id = a.tag_id ORDER BY a.rule_id, a.number, a.id"""


def list_rules(db: sqlite3.Connection) -> list[Rule]:
    """All rules in their order, those that are off too."""
    conditions, actions = _grouped(db, SELECT_CONDITIONS), _grouped(db, SELECT_ACTIONS)
    return [
        Rule(
            row["id"],
            tuple(_condition(rows) for rows in conditions[row["id"]]),
            tuple(_action(rows) for rows in actions[row["id"]]),
            bool(row["is_on"]),
        )
        for row in db.execute("SELECT id, is_on FROM rule ORDER BY position, id")
    ]


def get_rule(db: sqlite3.Connection, rule_id: int) -> Rule:
    """The rule. Raises: NotFound."""
    found = next((rule for rule in list_rules(db) if rule.id == rule_id), None)
    if found is None:
        raise NotFound("There is no such rule any more.")
    return found


def has_rules(db: sqlite3.Connection) -> bool:
    """Whether any rule is on."""
    return db.execute("SELECT EXISTS (SELECT 1 FROM rule WHERE is_on = 1)").fetchone()[0] == 1


def _grouped(db: sqlite3.Connection, sql: str) -> dict[int, list[list[sqlite3.Row]]]:
    """By rule: its rows, those of one number together."""
    found: dict[int, list[list[sqlite3.Row]]] = defaultdict(list)
    for (rule_id, _), rows in groupby(db.execute(sql), key=lambda row: (row["rule_id"], row["number"])):
        found[rule_id].append(list(rows))
    return found


def _condition(rows: list[sqlite3.Row]) -> Condition:
    first = rows[0]
    kind = first["kind"]
    ids = tuple(row["least"] if kind == "weekday" else row[_IDS[kind]] for row in rows) if kind in (*_IDS, "weekday") else ()
    least = None if kind == "weekday" else first["least"]
    texts = tuple(row["text"] for row in rows if row["text"])
    return Condition(kind, first["how"], texts, least, first["most"], first["currency"], ids)


def _action(rows: list[sqlite3.Row]) -> Action:
    first = rows[0]
    kind = first["kind"]
    if kind == "split":
        return Action(kind, parts=tuple(SharePart(row["category_id"], row["amount_minor"], row["share_e6"]) for row in rows))
    id_ = first[_ACTION_IDS[kind]] if kind in _ACTION_IDS else None
    set_by_id = first["category_id"] if kind == "transfer" else None
    return Action(kind, id_, first["tag"] or "" if kind == "tag" else first["text"], set_by_id)


INSERT_RULE = """
    INSERT INTO rule (position, is_on, made_on) VALUES ((SELECT coalesce(max(position), 0) + 1 FROM rule), :is_on, :day)"""


def insert_rule(db: sqlite3.Connection, rule: Rule, day: date) -> int:
    """Writes a new rule at the end; gives its id."""
    rule_id = new_id(db.execute(INSERT_RULE, {"is_on": int(rule.is_on), "day": day.isoformat()}))
    _write_parts(db, rule_id, rule)
    return rule_id


CHANGE_RULE = "UPDATE rule SET is_on = :is_on, made_on = :day WHERE id = :id"


def change_rule(db: sqlite3.Connection, rule: Rule, day: date) -> None:
    """Writes a rule that is there; its place stays."""
    db.execute(CHANGE_RULE, {"id": rule.id, "is_on": int(rule.is_on), "day": day.isoformat()})
    db.execute("DELETE FROM rule_condition WHERE rule_id = :id", {"id": rule.id})
    db.execute("DELETE FROM rule_action WHERE rule_id = :id", {"id": rule.id})
    _write_parts(db, rule.id, rule)


def change_is_on(db: sqlite3.Connection, rule_id: int, *, is_on: bool) -> None:
    db.execute("UPDATE rule SET is_on = :is_on WHERE id = :id", {"id": rule_id, "is_on": int(is_on)})


def remove_rule(db: sqlite3.Connection, rule_id: int) -> None:
    db.execute("DELETE FROM rule WHERE id = :id", {"id": rule_id})


def change_rule_order(db: sqlite3.Connection, rule_ids: list[int]) -> None:
    """Gives rules the order of the list."""
    sql = "UPDATE rule SET position = :position WHERE id = :id AND position <> :position"
    db.executemany(sql, [{"id": id_, "position": i} for i, id_ in enumerate(rule_ids, 1)])


INSERT_CONDITION = """
    INSERT INTO rule_condition (rule_id, number, kind, how, text, least, most, currency, account_id, member_id, category_id)
    VALUES (:rule_id, :number, :kind, :how, :text, :least, :most, :currency, :account_id, :member_id, :category_id)"""
INSERT_ACTION = """
    INSERT INTO rule_action (rule_id, number, kind, text, category_id, account_id, member_id, series_id, tag_id,
                             amount_minor, share_e6)
    VALUES (:rule_id, :number, :kind, :text, :category_id, :account_id, :member_id, :series_id,
            (SELECT id FROM tag WHERE name = :tag), :amount_minor, :share_e6)"""


def _write_parts(db: sqlite3.Connection, rule_id: int, rule: Rule) -> None:
    rows = [{"rule_id": rule_id, "number": i, **row} for i, one in enumerate(rule.conditions) for row in _condition_rows(one)]
    db.executemany(INSERT_CONDITION, rows)
    tags = [one.text for one in rule.actions if one.kind == "tag"]
    db.executemany("INSERT INTO tag (name) VALUES (:name) ON CONFLICT DO NOTHING", [{"name": name} for name in tags])
    rows = [{"rule_id": rule_id, "number": i, **row} for i, one in enumerate(rule.actions) for row in _action_rows(one)]
    db.executemany(INSERT_ACTION, rows)


def _condition_rows(one: Condition) -> Iterable[dict[str, object]]:
    empty: dict[str, object] = dict.fromkeys((*_IDS.values(), "least", "most"))
    same = empty | {"kind": one.kind, "how": one.how, "currency": one.currency, "text": ""}
    if one.kind in _IDS:
        return [same | {_IDS[one.kind]: id_} for id_ in one.ids]
    if one.kind == "weekday":
        return [same | {"least": id_} for id_ in one.ids]
    if one.texts:
        return [same | {"text": text} for text in one.texts]
    return [same | {"least": one.least, "most": one.most}]


def _action_rows(one: Action) -> Iterable[dict[str, object]]:
    empty: dict[str, object] = dict.fromkeys((*_ACTION_IDS.values(), "amount_minor", "share_e6", "tag"))
    same = empty | {"kind": one.kind, "text": "" if one.kind == "tag" else one.text}
    if one.kind == "split":
        return [
            same | {"category_id": part.category_id, "amount_minor": part.amount_minor, "share_e6": part.share_e6}
            for part in one.parts
        ]
    if one.kind == "transfer":
        return [same | {"account_id": one.id, "category_id": one.set_by_id}]
    if one.kind == "tag":
        return [same | {"tag": one.text}]
    return [same | ({_ACTION_IDS[one.kind]: one.id} if one.kind in _ACTION_IDS else {})]


LIST_FARED = """
    SELECT r.id, r.made_on, count(m.id) AS times, max(m.day) AS last, count(m.before_id) AS late, max(m.before_id) AS before_id
    FROM rule r LEFT JOIN rule_met m ON m.rule_id = r.id GROUP BY r.id"""


def list_fared(db: sqlite3.Connection) -> dict[int, Fared]:
    """How each rule fared."""
    return {
        row["id"]: Fared(
            row["id"],
            date.fromisoformat(row["made_on"]),
            row["times"],
            date.fromisoformat(row["last"]) if row["last"] else None,
            row["late"],
            row["before_id"],
        )
        for row in db.execute(LIST_FARED)
    }


PUT_MET = """
    INSERT INTO rule_met (rule_id, entry_id, day, before_id) VALUES (:rule_id, :entry_id, :day, :before_id)
    ON CONFLICT (rule_id, entry_id) DO UPDATE SET day = excluded.day, before_id = excluded.before_id"""


def put_met(db: sqlite3.Connection, met: Iterable[dict[str, object]]) -> None:
    """Notes entries that rules met: rule_id, entry_id, day, before_id of each."""
    db.executemany(PUT_MET, met)


PUT_FILING = """
    INSERT INTO filing (id, way, rule_id, category_id, words, filed_on)
    VALUES (:entry_id, :way, :rule_id, :category_id, :words, :day)
    ON CONFLICT (id) DO UPDATE SET way = excluded.way, rule_id = excluded.rule_id, category_id = excluded.category_id,
        words = excluded.words, filed_on = excluded.filed_on"""


def put_filings(db: sqlite3.Connection, filed: Iterable[dict[str, object]]) -> None:
    """Notes what filed entries: entry_id, way, rule_id, category_id, words and day of each."""
    db.executemany(PUT_FILING, filed)


def find_filing(db: sqlite3.Connection, entry_id: int) -> sqlite3.Row | None:
    """What filed an entry, if no person did: way, rule_id, category_id, words, filed_on."""
    sql = "SELECT way, rule_id, category_id, words, filed_on FROM filing WHERE id = :id"
    row: sqlite3.Row | None = db.execute(sql, {"id": entry_id}).fetchone()
    return row


COUNT_FILED = """
    SELECT count(*) AS looked_at, count(f.id) AS filed
    FROM (SELECT id FROM entry ORDER BY id DESC LIMIT :most) e
    LEFT JOIN filing f ON f.id = e.id AND f.way = 'rule'"""


def count_filed_lately(db: sqlite3.Connection, most: int) -> tuple[int, int]:
    """Of the newest entries: how many there are, and how many of them rules filed."""
    row = db.execute(COUNT_FILED, {"most": most}).fetchone()
    return row["looked_at"], row["filed"]


SEEN_ENTRIES = """
    SELECT e.id, e.payee_id, p.name AS payee, e.origin FROM json_each(:ids) i CROSS JOIN entry e ON e.id = i.value
    CROSS JOIN payee p ON p.id = e.payee_id"""
SEEN_LINES = """
    SELECT l.entry_id, l.id, l.account_id, l.category_id, l.member_id, l.amount_minor, l.currency, l.day, l.raw_text
    FROM json_each(:ids) i CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = i.value"""
SEEN_TAGS = """
    SELECT x.line_id, t.name FROM json_each(:ids) i CROSS JOIN line l INDEXED BY line_of_entry ON l.entry_id = i.value
    CROSS JOIN line_tag x ON x.line_id = l.id JOIN tag t ON t.id = x.tag_id"""
MADE_ELSEWHERE = """
    SELECT entry_id FROM payday WHERE entry_id IS NOT NULL UNION ALL SELECT entry_id FROM trade WHERE entry_id IS NOT NULL"""
IDS_OF_BATCH = "SELECT id FROM entry WHERE batch_id = :batch_id AND id > :after ORDER BY id LIMIT :most"
# Which ones is decided by an index alone, before anything is read of them.
NEWEST_OF_PAYEES = """
    SELECT e.id FROM json_each(:ids) p CROSS JOIN entry e INDEXED BY entry_of_payee ON e.payee_id = p.value
    ORDER BY e.day DESC, e.id DESC LIMIT :most"""
NEWEST = "SELECT id FROM entry ORDER BY id DESC LIMIT :most"
OWNERS = "SELECT account_id, max(member_id) AS member_id FROM account_owner GROUP BY account_id HAVING count(*) = 1"


_ROLES = frozenset((OPENING, EXCHANGE))
_KEPT = Filed("kept")
_NONE: frozenset[str] = frozenset()


def list_seen(db: sqlite3.Connection, entry_ids: Iterable[int]) -> list[SeenRow]:
    """Entries as rules see them, in the order of the ids; one without an account or a category line is left out."""
    ids = list(entry_ids)
    values = {"ids": json.dumps(ids)}
    owners = {row["account_id"]: row["member_id"] for row in db.execute(OWNERS)}
    asked = {row["entry_id"] for row in db.execute("SELECT entry_id FROM question")}
    kept_out = {row["id"] for row in db.execute("SELECT id FROM kept_out")}
    elsewhere = {row["entry_id"] for row in db.execute(MADE_ELSEWHERE)}
    bare = db.cursor()
    bare.row_factory = None  # tuples: this reads hundreds of thousands
    tags: dict[int, set[str]] = defaultdict(set)
    for line_id, name in bare.execute(SEEN_TAGS, values):
        tags[line_id].add(name)
    near: dict[int, tuple] = {}
    far: dict[int, tuple[int, int, int | None]] = {}
    many: set[int] = set()  # with more lines than two
    for entry_id, line_id, account_id, category_id, member_id, *of_account in bare.execute(SEEN_LINES, values):
        if entry_id in (far if account_id is None else near):
            many.add(entry_id)
        elif account_id is None:
            far[entry_id] = line_id, category_id, member_id
        else:
            near[entry_id] = line_id, account_id, *of_account
    under = {category_id: _KEPT if category_id in _ROLES else Filed("file", category_id) for _, category_id, _ in far.values()}
    found = {}
    for id_, payee_id, payee, origin in bare.execute(SEEN_ENTRIES, values):
        if id_ not in near or id_ not in far:
            continue
        line_id, account_id, amount, currency, day, raw_text = near[id_]
        far_id, category_id, member_id = far[id_]
        is_kept = id_ in many or origin == "value" or id_ in elsewhere
        filed = _KEPT if is_kept else under[category_id]
        told = Told(payee, filed, member_id, frozenset(tags[far_id]) if far_id in tags else _NONE, kept_out=id_ in kept_out)
        seen = Seen(
            id_, raw_text, amount, currency, account_id, date.fromisoformat(day), told, owners.get(account_id), id_ in asked,
            tidy_payee(raw_text) if raw_text else "",
        )  # fmt: skip
        found[id_] = SeenRow(seen, payee_id, line_id, far_id)
    return [found[id_] for id_ in ids if id_ in found]


def list_seen_of_batch(db: sqlite3.Connection, batch_id: int, after: int, most: int) -> list[SeenRow]:
    """The entries a batch made, as rules see them, some at a time."""
    return _next_seen(db, IDS_OF_BATCH, {"batch_id": batch_id, "after": after, "most": most})


def list_seen_of_payees(db: sqlite3.Connection, payee_ids: Iterable[int] | None, most: int) -> list[SeenRow]:
    """The newest entries of some payees, or of all (None), as rules see them."""
    if payee_ids is None:
        rows = db.execute(NEWEST, {"most": most})
    else:
        rows = db.execute(NEWEST_OF_PAYEES, {"ids": json.dumps(list(payee_ids)), "most": most})
    return list_seen(db, [row["id"] for row in rows])


IDS_OF_PAYEES_AFTER = """
    SELECT id FROM entry WHERE id > :after AND payee_id IN (SELECT value FROM json_each(:ids)) ORDER BY id LIMIT :most"""
IDS_AFTER = "SELECT id FROM entry WHERE id > :after ORDER BY id LIMIT :most"


def list_seen_after(db: sqlite3.Connection, payee_ids: Iterable[int] | None, after: int, most: int) -> list[SeenRow]:
    """The entries after one, of some payees or of all (None), as rules see them."""
    sql = IDS_AFTER if payee_ids is None else IDS_OF_PAYEES_AFTER
    return _next_seen(db, sql, {"ids": json.dumps(list(payee_ids or ())), "after": after, "most": most})


def _next_seen(db: sqlite3.Connection, sql: str, values: dict[str, object]) -> list[SeenRow]:
    """The next entries rules see, past those they do not; none when there are no more."""
    while ids := [row["id"] for row in db.execute(sql, values)]:
        if rows := list_seen(db, ids):
            return rows
        values = values | {"after": ids[-1]}
    return []


IDS_UNSORTED = "SELECT DISTINCT entry_id FROM line WHERE category_id = 1 ORDER BY entry_id"


def list_seen_unsorted(db: sqlite3.Connection) -> list[SeenRow]:
    """The entries that wait to be sorted, as rules see them."""
    return list_seen(db, [row["entry_id"] for row in db.execute(IDS_UNSORTED)])
