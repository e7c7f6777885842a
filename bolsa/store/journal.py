"""The journal: what was done, by whom, and every row before and after, so that any step can be undone.

Row images are written by triggers made from the schema itself, so that no change can slip past and a new column needs no
thought. They write only while a step is being recorded (`step`), which the services always do; bringing in a large file
records its batch instead of row images.
"""

import json
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from bolsa.core.house.kept import Step
from bolsa.errors import Conflict, NotFound
from bolsa.store.connection import as_household, new_id, without_triggers
from bolsa.store.tables import JOURNALLED

MANY = 500  # rows from which on setting the journal aside pays


def rebuild_triggers(db: sqlite3.Connection) -> None:
    """Makes the triggers that record the rows of the journalled tables, as the schema is now."""
    for table in JOURNALLED:
        columns = [row["name"] for row in db.execute(f"PRAGMA table_info({table})")]
        if "id" not in columns:  # a table of a later step, or one that had no id yet
            continue
        for event, before, after in (("INSERT", None, "NEW"), ("UPDATE", "OLD", "NEW"), ("DELETE", "OLD", None)):
            name = f"journal_{table}_{event.lower()}"
            images = [_image(row, columns) for row in (before, after)]
            db.execute(f"DROP TRIGGER IF EXISTS {name}")
            db.execute(
                f"CREATE TRIGGER {name} AFTER {event} ON {table} WHEN EXISTS (SELECT 1 FROM journal_step_now) BEGIN "
                "INSERT INTO journal_change (step_id, table_name, row_id, before, after) "
                f"SELECT step_id, '{table}', {after or before}.id, {images[0]}, {images[1]} FROM journal_step_now; END"
            )


def _image(row: str | None, columns: list[str]) -> str:
    if row is None:
        return "NULL"
    return "json_object(" + ", ".join(f"'{name}', {row}.{name}" for name in columns) + ")"


INSERT_STEP = "INSERT INTO journal_step (at, member_id, sentence, batch_id) VALUES (:at, :member_id, :sentence, :batch_id)"


def begin_step(db: sqlite3.Connection, at: str, member_id: int | None, *, batch_id: int | None = None) -> int:
    """Begins to record a step and gives its id. With `batch_id` no row images are kept: the batch knows what it made."""
    household = as_household(db)
    if batch_id is None and household.records_nothing:
        raise RuntimeError("a step cannot be recorded while the journal is set aside")
    values = {"at": at, "member_id": member_id, "sentence": "", "batch_id": batch_id}
    step_id = new_id(db.execute(INSERT_STEP, values))
    household.running_step = step_id
    if batch_id is None:
        db.execute("INSERT INTO journal_step_now (step_id) VALUES (:id)", {"id": step_id})
    return step_id


@contextmanager
def set_aside(db: sqlite3.Connection, rows: int) -> Iterator[None]:
    """While a batch writes its rows, which no step records, keeps the journal from asking for each of them whether one does."""
    if rows < MANY or db.execute("SELECT EXISTS (SELECT 1 FROM journal_step_now)").fetchone()[0]:
        yield
        return
    tables, events = ("brought_row", "entry", "line"), ("insert", "update")
    household = as_household(db)
    household.records_nothing = True
    try:
        with without_triggers(db, [f"journal_{table}_{event}" for table in tables for event in events]):
            yield
    finally:
        household.records_nothing = False


def find_running(db: sqlite3.Connection) -> int | None:
    """The step that is being recorded, if any: what happens now is part of it."""
    return as_household(db).running_step


NAME_STEP = "UPDATE journal_step SET sentence = :sentence WHERE id = :id AND sentence = ''"


def name_step(db: sqlite3.Connection, step_id: int, sentence: str) -> None:
    """Says what a step did, unless that is said already."""
    db.execute(NAME_STEP, {"id": step_id, "sentence": sentence})


IS_EMPTY = """
    SELECT batch_id IS NULL AND NOT EXISTS (SELECT 1 FROM journal_change c WHERE c.step_id = s.id)
        AND NOT EXISTS (SELECT 1 FROM journal_step o WHERE o.undone_by = s.id) AS is_empty
    FROM journal_step s WHERE id = :id"""


def end_step(db: sqlite3.Connection, step_id: int, sentence: str) -> bool:
    """Ends a step, named by the sentence if there is one; one that changed nothing is forgotten. Gives whether it is kept."""
    db.execute("DELETE FROM journal_step_now")
    as_household(db).running_step = None
    if db.execute(IS_EMPTY, {"id": step_id}).fetchone()["is_empty"]:
        db.execute("DELETE FROM journal_step WHERE id = :id", {"id": step_id})
        return False
    if sentence:
        db.execute("UPDATE journal_step SET sentence = :sentence WHERE id = :id", {"id": step_id, "sentence": sentence})
    return True


SELECT_STEP = """
    SELECT s.id, s.at, coalesce(m.name, '') AS member, s.sentence, s.batch_id, s.undone_by
    FROM journal_step s LEFT JOIN member m ON m.id = s.member_id"""


def get_step(db: sqlite3.Connection, step_id: int) -> Step:
    row = db.execute(SELECT_STEP + " WHERE s.id = :id", {"id": step_id}).fetchone()
    if row is None:
        raise NotFound("The journal has no such step.")
    return Step(**row)


def list_steps(db: sqlite3.Connection, *, before_id: int = 2**62, most: int = 50) -> list[Step]:
    """The newest steps with an id below `before_id`, newest first."""
    rows = db.execute(SELECT_STEP + " WHERE s.id < :before ORDER BY s.id DESC LIMIT :most", {"before": before_id, "most": most})
    return [Step(**row) for row in rows]


LIST_STEPS_OF_ENTRY = (
    SELECT_STEP
    + """
    WHERE s.id IN (
        SELECT step_id FROM journal_change WHERE table_name = 'entry' AND row_id = :entry_id
        UNION SELECT step_id FROM journal_change WHERE table_name = 'line'
              AND row_id IN (SELECT id FROM line WHERE entry_id = :entry_id)
        UNION SELECT step_id FROM journal_change WHERE table_name = 'attachment'
              AND row_id IN (SELECT id FROM attachment WHERE entry_id = :entry_id))
    ORDER BY s.id DESC LIMIT 50"""
)


def list_steps_of_entry(db: sqlite3.Connection, entry_id: int) -> list[Step]:
    """What was done to an entry or its lines, newest first."""
    return [Step(**row) for row in db.execute(LIST_STEPS_OF_ENTRY, {"entry_id": entry_id})]


# A change of an entry's line changes the entry, wherever the line is now.
FIND_VERSION = """
    SELECT coalesce(max(id), 0) FROM (
        SELECT max(id) AS id FROM journal_change WHERE table_name = :table AND row_id = :id
        UNION ALL SELECT max(c.id) FROM journal_change c WHERE :table = 'entry' AND c.table_name = 'line' AND c.row_id IN (
            SELECT id FROM line WHERE entry_id = :id))"""


def find_version(db: sqlite3.Connection, table: str, row_id: int) -> int:
    """The number of the latest change of a row, and of an entry's lines; 0 if the journal knows none."""
    return db.execute(FIND_VERSION, {"table": table, "id": row_id}).fetchone()[0]


FIND_STEP_OF_CHANGE = SELECT_STEP + " WHERE s.id = (SELECT step_id FROM journal_change WHERE id = :change_id)"


def find_step_since(db: sqlite3.Connection, table: str, row_id: int, seen: int) -> Step | None:
    """The latest step that changed a row after the version seen, None if none did."""
    version = find_version(db, table, row_id)
    if version <= seen:
        return None
    row = db.execute(FIND_STEP_OF_CHANGE, {"change_id": version}).fetchone()
    return Step(**row) if row else None


def find_last_change(db: sqlite3.Connection) -> int:
    """The number of the latest change of all, 0 if there is none."""
    return db.execute("SELECT coalesce(max(id), 0) FROM journal_change").fetchone()[0]


FIND_STEP_ABOUT = (
    SELECT_STEP
    + """
    WHERE s.id = (SELECT c.step_id FROM journal_change c WHERE c.id > :seen AND c.table_name = :table AND NOT EXISTS (
        SELECT 1 FROM json_each(:keys) k WHERE coalesce(c.after, c.before) ->> k.key IS NOT k.value)
        ORDER BY c.id DESC LIMIT 1)"""
)


def find_step_about(db: sqlite3.Connection, table: str, keys: dict[str, int | str], seen: int) -> Step | None:
    """The latest step after the change `seen` that touched a table's row with these values, None if none did."""
    row = db.execute(FIND_STEP_ABOUT, {"table": table, "keys": json.dumps(keys), "seen": seen}).fetchone()
    return Step(**row) if row else None


LIST_CHANGES_OF_ENTRY = """
    SELECT c.step_id, c.table_name, c.before, c.after FROM journal_change c
    WHERE c.step_id IN (SELECT value FROM json_each(:steps)) AND (
        (c.table_name = 'entry' AND c.row_id = :entry_id)
        OR (c.table_name IN ('line', 'attachment') AND coalesce(c.after, c.before) ->> 'entry_id' = :entry_id))
    ORDER BY c.id"""


def list_changes_of_entry(
    db: sqlite3.Connection, entry_id: int, step_ids: list[int]
) -> dict[int, list[tuple[str, str | None, str | None]]]:
    """By step: what it changed on an entry, as (table, row before, row after), the rows as JSON."""
    found: dict[int, list[tuple[str, str | None, str | None]]] = {}
    for row in db.execute(LIST_CHANGES_OF_ENTRY, {"steps": json.dumps(step_ids), "entry_id": entry_id}):
        found.setdefault(row["step_id"], []).append((row["table_name"], row["before"], row["after"]))
    return found


LIST_CHANGES = """
    SELECT id, table_name, row_id, before, after FROM journal_change WHERE step_id = :step_id ORDER BY id DESC"""


def reverse_changes(db: sqlite3.Connection, step_id: int) -> None:
    """Puts every row the step changed back as it was.

    Raises: Conflict naming the step that changed a row again since; nothing is changed then (the caller's transaction rolls
    back). What changed a row since and is no step that could be undone (a bringing-in, what follows from something else) keeps
    what it wrote beside what is put back.
    """
    db.execute("PRAGMA defer_foreign_keys = ON")
    reckoned = _list_reckoned(db, step_id)
    for change in db.execute(LIST_CHANGES, {"step_id": step_id}).fetchall():
        table, row_id = change["table_name"], change["row_id"]
        before = json.loads(change["before"]) if change["before"] else None
        after = json.loads(change["after"]) if change["after"] else None
        row = db.execute(f"SELECT * FROM {_known(table)} WHERE id = :id", {"id": row_id}).fetchone()
        # A step written before a migration knows fewer columns than the row has now.
        now = {name: row[name] for name in after} if row and after else (dict(row) if row else None)
        if (table, row_id) in reckoned:
            continue
        if now != after and table != "payee":
            later = find_step_in_the_way(db, step_id, table, row_id, change["id"])
            if later is not None:
                what = later.sentence or "A later change"
                error = Conflict(f"“{what}” changed something of this later. Undo that first.")
                error.step_id = later.id
                raise error
            if now is None or after is None:
                continue  # it went, or came back, by itself: there is nothing of it to take back
            before = before and {**now, **{name: value for name, value in before.items() if value != after.get(name)}}
        _put_row(db, table, row_id, before)


LIST_LATER = (
    SELECT_STEP
    + """
    WHERE s.undone_by IS NULL AND s.id <> :step AND s.id IN (
        SELECT step_id FROM journal_change WHERE table_name = :table AND row_id = :row AND id > :after)
    ORDER BY s.id DESC"""
)
LIST_UNDONE_BY = """
    SELECT s.id, EXISTS (SELECT 1 FROM journal_change c WHERE c.step_id = s.id AND c.table_name = :table AND c.row_id = :row
                         AND c.id > :after) AS is_after
    FROM journal_step s WHERE s.undone_by = :step"""


def find_step_in_the_way(db: sqlite3.Connection, step_id: int, table: str, row_id: int, change_id: int) -> Step | None:
    """The latest step that changed a row after a change and stands: neither undone, nor the undoing of what came after as
    well."""
    about: dict[str, str | int] = {"table": table, "row": row_id, "after": change_id}

    def stands(id_: int) -> bool:
        undone = db.execute(LIST_UNDONE_BY, about | {"step": id_}).fetchall()
        return not any(row["is_after"] and stands(row["id"]) for row in undone)

    for found in db.execute(LIST_LATER, about | {"step": step_id}).fetchall():
        if stands(found["id"]):
            return Step(**found)
    return None


# A batch writes its rows without noting each: the step that brought it in stands for them.
BATCH_OF = {
    table: f"SELECT batch_id FROM {table} WHERE id = :row" for table in ("brought_row", "coverage", "bank_balance", "entry")
} | {"line": "SELECT e.batch_id FROM line l JOIN entry e ON e.id = l.entry_id WHERE l.id = :row"}
STEP_OF_BATCH = SELECT_STEP + " WHERE s.batch_id = ({}) AND s.undone_by IS NULL ORDER BY s.id LIMIT 1"
LAST_STEP_OF = (
    SELECT_STEP
    + """
    WHERE s.id = (SELECT max(c.step_id) FROM journal_change c JOIN journal_step o ON o.id = c.step_id AND o.undone_by IS NULL
                  WHERE c.table_name = :table AND c.row_id = :row AND c.step_id <> :now)"""
)


def find_step_left_hanging(db: sqlite3.Connection, now: int) -> Step | None:
    """The latest step, but the one under way, that wrote a row which refers to nothing any more; None if every reference leads
    somewhere, or no step wrote it."""
    steps = []
    for table, row_id, _, _ in db.execute("PRAGMA foreign_key_check").fetchall():
        row = db.execute(LAST_STEP_OF, {"table": table, "row": row_id, "now": now}).fetchone()
        if row is None and table in BATCH_OF:
            row = db.execute(STEP_OF_BATCH.format(BATCH_OF[table]), {"row": row_id}).fetchone()
        steps += [Step(**row)] if row else []
    return max(steps, key=lambda step: step.id, default=None)


def find_batch_left_hanging(db: sqlite3.Connection) -> str | None:
    """The name of a batch of which a row refers to an account that is there no more, None if none does."""
    for table, row_id, parent, _ in db.execute("PRAGMA foreign_key_check").fetchall():
        if table in BATCH_OF and parent == "account":
            row = db.execute(f"SELECT name FROM batch WHERE id = ({BATCH_OF[table]})", {"row": row_id}).fetchone()
            if row:
                return row["name"]
    return None


LIST_RECKONED = """
    WITH changed AS (
        SELECT c.table_name, c.row_id, coalesce(c.after ->> 'entry_id', c.row_id) AS entry_id,
            json_remove(c.before, '$.day', '$.amount_minor') = json_remove(c.after, '$.day', '$.amount_minor') AS is_moved_alone
        FROM journal_change c WHERE c.step_id = :step AND c.table_name IN ('entry', 'line'))
    SELECT table_name, row_id FROM changed JOIN known_balance k USING (entry_id)
    WHERE NOT EXISTS (SELECT 1 FROM changed o WHERE o.entry_id = changed.entry_id AND o.is_moved_alone IS NOT 1)
        AND NOT EXISTS (SELECT 1 FROM journal_change o
                        WHERE o.step_id = :step AND o.table_name = 'known_balance' AND o.row_id = k.id)"""


def _list_reckoned(db: sqlite3.Connection, step_id: int) -> set[tuple[str, int]]:
    """The rows of opening entries of which a step moved the day and the amount alone, unsaid: reckoned, as they will be again.
    Table and id."""
    return {(row["table_name"], row["row_id"]) for row in db.execute(LIST_RECKONED, {"step": step_id})}


def _put_row(db: sqlite3.Connection, table: str, row_id: int, image: dict | None) -> None:
    exists = db.execute(f"SELECT 1 FROM {_known(table)} WHERE id = :id", {"id": row_id}).fetchone()
    if image is None and table == "payee":
        return  # later entries may use the name by now, and a name that nobody uses does no harm
    if image is None:
        db.execute(f"DELETE FROM {table} WHERE id = :id", {"id": row_id})
    elif exists:
        pairs = ", ".join(f"{name} = :{name}" for name in image)
        db.execute(f"UPDATE {table} SET {pairs} WHERE id = :id", image)
    else:
        names = ", ".join(image)
        db.execute(f"INSERT INTO {table} ({names}) VALUES ({', '.join(':' + n for n in image)})", image)


def _known(table: str) -> str:
    if table not in JOURNALLED:
        raise ValueError(f"{table} is not journalled")
    return table


def mark_undone(db: sqlite3.Connection, step_id: int, by_step_id: int) -> None:
    db.execute("UPDATE journal_step SET undone_by = :by WHERE id = :id", {"by": by_step_id, "id": step_id})


MARK_BATCH_UNDONE = "UPDATE journal_step SET undone_by = :by WHERE batch_id = :batch_id"


def mark_batch_undone(db: sqlite3.Connection, batch_id: int, by_step_id: int) -> None:
    """Marks a batch's steps as undone, the undoing itself too: bringing the file in again is the way back."""
    db.execute(MARK_BATCH_UNDONE, {"by": by_step_id, "batch_id": batch_id})
