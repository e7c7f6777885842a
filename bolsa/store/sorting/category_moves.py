"""What hangs on a category, and giving all of it to another."""

import json
import re
import sqlite3

from bolsa.core.sorting.category import UNSORTED

COUNT_HELD = """
    SELECT (SELECT count(*) FROM line WHERE category_id = :id AND account_id IS NULL) AS lines,
        (SELECT count(*) FROM line WHERE category_id = :id AND account_id IS NOT NULL) AS set_by,
        (SELECT coalesce(sum(amount_minor), 0) FROM placed_month WHERE category_id = :id) AS placed_minor,
        (SELECT count(*) FROM expected WHERE category_id = :id) AS expected,
        (SELECT count(*) FROM aim WHERE id = :id) AS aims,
        (SELECT count(DISTINCT rule_id) FROM (SELECT rule_id FROM rule_condition WHERE category_id = :id
            UNION SELECT rule_id FROM rule_action WHERE category_id = :id)) AS rules,
        (SELECT count(*) FROM payee WHERE category_id = :id) AS payees,
        (SELECT count(*) FROM series WHERE category_id = :id) AS series,
        (SELECT count(*) FROM pay_line WHERE category_id = :id) AS pay_lines,
        (SELECT count(*) FROM account_terms WHERE :id IN (interest_category_id, set_by_id)) AS accounts,
        (SELECT count(DISTINCT trial_id) FROM trial_cell WHERE category_id = :id) AS trials,
        (SELECT count(*) FROM closed_category WHERE category_id = :id) AS closed_months,
        (SELECT count(*) FROM trash t WHERE EXISTS (
            SELECT 1 FROM json_each(t.snapshot, '$.line') l WHERE l.value ->> 'category_id' = :id)) AS trashed"""


def count_held(db: sqlite3.Connection, category_id: int) -> dict[str, int]:
    """How much hangs on a category, by what it is."""
    return dict(db.execute(COUNT_HELD, {"id": category_id}).fetchone())


# Simple references, each to be given to the other category.
MOVES = (
    "UPDATE line SET category_id = :into WHERE category_id = :id",
    "UPDATE filing SET category_id = :into WHERE category_id = :id",
    "UPDATE payee SET category_id = :into WHERE category_id = :id",
    "UPDATE series SET category_id = :into WHERE category_id = :id",
    "UPDATE pay_line SET category_id = :into WHERE category_id = :id",
    "UPDATE account_terms SET interest_category_id = :into WHERE interest_category_id = :id",
    "UPDATE account_terms SET set_by_id = :into WHERE set_by_id = :id",
    "UPDATE placing SET category_id = :into WHERE category_id = :id",
    "UPDATE placing SET other_id = :into WHERE other_id = :id",
    """DELETE FROM rule_condition WHERE category_id = :id AND EXISTS (SELECT 1 FROM rule_condition o
       WHERE o.rule_id = rule_condition.rule_id AND o.number = rule_condition.number AND o.category_id = :into)""",
    "UPDATE rule_condition SET category_id = :into WHERE category_id = :id",
    "UPDATE rule_action SET category_id = :into WHERE category_id = :id",
    """DELETE FROM trial_cell WHERE category_id = :id AND EXISTS (SELECT 1 FROM trial_cell o
       WHERE o.trial_id = trial_cell.trial_id AND o.month = trial_cell.month AND o.category_id = :into)""",
    "UPDATE trial_cell SET category_id = :into WHERE category_id = :id",
    """DELETE FROM trial_aim WHERE category_id = :id AND EXISTS (SELECT 1 FROM trial_aim o
       WHERE o.trial_id = trial_aim.trial_id AND o.category_id = :into)""",
    "UPDATE trial_aim SET category_id = :into WHERE category_id = :id",
    """UPDATE closed_category SET placed_minor = closed_category.placed_minor + o.placed_minor,
           spent_minor = closed_category.spent_minor + o.spent_minor, left_minor = closed_category.left_minor + o.left_minor
       FROM closed_category o WHERE closed_category.category_id = :into AND o.category_id = :id
           AND o.closed_id = closed_category.closed_id""",
    """DELETE FROM closed_category WHERE category_id = :id AND EXISTS (SELECT 1 FROM closed_category o
       WHERE o.closed_id = closed_category.closed_id AND o.category_id = :into)""",
    "UPDATE closed_category SET category_id = :into WHERE category_id = :id",
    """UPDATE category SET member_id = coalesce(member_id, (SELECT member_id FROM category WHERE id = :id)) WHERE id = :into""",
)
# Without another category: entries wait again, what was planned goes, and rules that named it go with it.
ENDS = (
    "UPDATE line SET category_id = 1 WHERE category_id = :id AND account_id IS NULL",
    "UPDATE line SET category_id = NULL WHERE category_id = :id AND account_id IS NOT NULL",
    "DELETE FROM filing WHERE category_id = :id",
    "UPDATE payee SET category_id = NULL WHERE category_id = :id",
    "UPDATE series SET category_id = NULL WHERE category_id = :id",
    "UPDATE pay_line SET category_id = NULL WHERE category_id = :id",
    "UPDATE account_terms SET interest_category_id = NULL WHERE interest_category_id = :id",
    "UPDATE account_terms SET set_by_id = NULL WHERE set_by_id = :id",
    "UPDATE placing SET other_id = NULL WHERE other_id = :id",
    """DELETE FROM rule WHERE id IN (SELECT rule_id FROM rule_condition WHERE category_id = :id
       UNION SELECT rule_id FROM rule_action WHERE category_id = :id)""",
)


def move_all(db: sqlite3.Connection, category_id: int, into_id: int) -> None:
    """Gives what hangs on a category to another, but for expected amounts and aims."""
    for sql in MOVES:
        db.execute(sql, {"id": category_id, "into": into_id})
    _rename_in_trash(db, category_id, into_id)
    _rename_in_filters(db, category_id, into_id)


# A row with another id is another row to the journal: the aim is written anew, and what hangs on it follows.
MOVE_AIM = (
    """INSERT INTO aim (id, kind, amount_minor, by_day, each_minor, repeat, since, mark, sha256)
       SELECT :into, kind, amount_minor, by_day, each_minor, repeat, since, mark, sha256 FROM aim WHERE id = :id""",
    "UPDATE aim_account SET aim_id = :into WHERE aim_id = :id",
    "DELETE FROM aim WHERE id = :id",
)


def move_aim(db: sqlite3.Connection, category_id: int, into_id: int) -> None:
    """Gives a category's aim to another that has none."""
    for sql in MOVE_AIM:
        db.execute(sql, {"id": category_id, "into": into_id})


def let_go(db: sqlite3.Connection, category_id: int) -> None:
    """Takes a category out of everything that names it."""
    for sql in ENDS:
        db.execute(sql, {"id": category_id})
    _rename_in_trash(db, category_id, UNSORTED)


def remove_category(db: sqlite3.Connection, category_id: int) -> None:
    """Takes the category out, and its group if nothing else is in it."""
    db.execute("DELETE FROM expected WHERE category_id = :id", {"id": category_id})
    db.execute("DELETE FROM placing WHERE category_id = :id", {"id": category_id})
    group = db.execute("SELECT group_id FROM category WHERE id = :id", {"id": category_id}).fetchone()
    db.execute("DELETE FROM category WHERE id = :id", {"id": category_id})
    sql = "DELETE FROM category_group WHERE id = :id AND NOT EXISTS (SELECT 1 FROM category WHERE group_id = :id)"
    db.execute(sql, {"id": group["group_id"]})


def _rename_in_trash(db: sqlite3.Connection, category_id: int, into_id: int) -> None:
    """What lies in the trash names the other category, so that it can come back."""
    for row in db.execute("SELECT id, snapshot FROM trash").fetchall():
        snapshot = json.loads(row["snapshot"])
        lines = snapshot.get("line", [])
        if any(line.get("category_id") == category_id for line in lines):
            changed = [line | {"category_id": into_id} if line.get("category_id") == category_id else line for line in lines]
            if into_id == UNSORTED:  # money set by is set by from nothing
                changed = [
                    line | {"category_id": None} if line.get("account_id") and line["category_id"] == into_id else line
                    for line in changed
                ]
            said = json.dumps(snapshot | {"line": changed}, ensure_ascii=False)
            db.execute("UPDATE trash SET snapshot = :snapshot WHERE id = :id", {"id": row["id"], "snapshot": said})


def _rename_in_filters(db: sqlite3.Connection, category_id: int, into_id: int) -> None:
    """Filters and questions saved under a name ask for the other category."""
    named = re.compile(rf"(category(?:=|\.|%2E)){category_id}(?!\d)")
    for row in db.execute("SELECT id, address FROM saved_filter").fetchall():
        address = named.sub(rf"\g<1>{into_id}", row["address"])
        if address != row["address"]:
            db.execute("UPDATE saved_filter SET address = :address WHERE id = :id", {"id": row["id"], "address": address})


LIST_USE = """
    SELECT c.id, (SELECT count(*) FROM line l INDEXED BY line_of_category WHERE l.category_id = c.id) AS lines,
        (SELECT count(*) FROM line l INDEXED BY line_of_category WHERE l.category_id = c.id AND l.day >= :since) AS lately,
        (SELECT max(l.day) FROM line l INDEXED BY line_of_category WHERE l.category_id = c.id) AS last
    FROM category c"""


def list_use(db: sqlite3.Connection, since: str) -> dict[int, sqlite3.Row]:
    """How often each category is used: lines in all, those since a day, the last day."""
    return {row["id"]: row for row in db.execute(LIST_USE, {"since": since})}


def rename_group(db: sqlite3.Connection, group_id: int, name: str) -> None:
    db.execute("UPDATE category_group SET name = :name WHERE id = :id", {"id": group_id, "name": name})


def change_group_order(db: sqlite3.Connection, group_ids: list[int]) -> None:
    """Gives groups the order of the list."""
    sql = "UPDATE category_group SET position = :position WHERE id = :id AND position <> :position"
    db.executemany(sql, [{"id": id_, "position": i} for i, id_ in enumerate(group_ids, 1)])
