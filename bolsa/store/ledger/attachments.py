"""Images and documents attached to entries and trades; the bytes are kept once, however often they are attached."""

import sqlite3

from bolsa.core.ledger.belongings import Attachment
from bolsa.errors import NotFound
from bolsa.store.connection import new_id

COLUMNS = "id, entry_id, name, media_type, bytes, sha256, trade_id"


def list_attachments(db: sqlite3.Connection, entry_id: int) -> list[Attachment]:
    """An entry's attachments in the order they were added."""
    rows = db.execute(f"SELECT {COLUMNS} FROM attachment WHERE entry_id = :id ORDER BY id", {"id": entry_id})
    return [Attachment(**row) for row in rows]


def list_of_trade(db: sqlite3.Connection, trade_id: int) -> list[Attachment]:
    """A trade's attachments in the order they were added."""
    rows = db.execute(f"SELECT {COLUMNS} FROM attachment WHERE trade_id = :id ORDER BY id", {"id": trade_id})
    return [Attachment(**row) for row in rows]


def get_attachment(db: sqlite3.Connection, attachment_id: int) -> Attachment:
    row = db.execute(f"SELECT {COLUMNS} FROM attachment WHERE id = :id", {"id": attachment_id}).fetchone()
    if row is None:
        raise NotFound("That attachment is not here any more.")
    return Attachment(**row)


PUT_FILE = """
    INSERT INTO attachment_file (sha256, content, thumbnail) VALUES (:sha256, :content, :thumbnail) ON CONFLICT DO NOTHING"""
INSERT_ATTACHMENT = """
    INSERT INTO attachment (entry_id, trade_id, name, media_type, bytes, sha256, added_at)
    VALUES (:entry_id, :trade_id, :name, :media_type, :bytes, :sha256, :at)"""


def put_file(db: sqlite3.Connection, sha256: str, content: bytes, thumbnail: bytes) -> None:
    """Keeps the bytes, and a small picture of them, under their hash."""
    db.execute(PUT_FILE, {"sha256": sha256, "content": content, "thumbnail": thumbnail})


def insert_attachment(db: sqlite3.Connection, attachment: Attachment, at: str) -> int:
    """Attaches a file whose bytes are kept; gives the attachment's id."""
    return new_id(db.execute(INSERT_ATTACHMENT, {**vars(attachment), "at": at}))


def remove_attachment(db: sqlite3.Connection, attachment_id: int) -> None:
    db.execute("DELETE FROM attachment WHERE id = :id", {"id": attachment_id})


def get_content(db: sqlite3.Connection, sha256: str) -> bytes:
    return db.execute("SELECT content FROM attachment_file WHERE sha256 = :sha256", {"sha256": sha256}).fetchone()["content"]


def get_thumbnail(db: sqlite3.Connection, sha256: str) -> bytes:
    return db.execute("SELECT thumbnail FROM attachment_file WHERE sha256 = :sha256", {"sha256": sha256}).fetchone()["thumbnail"]


REMOVE_UNUSED = """
    DELETE FROM attachment_file WHERE NOT EXISTS (SELECT 1 FROM attachment a WHERE a.sha256 = attachment_file.sha256)
        AND NOT EXISTS (SELECT 1 FROM trash t, json_each(t.snapshot, '$.attachment') j
                        WHERE json_extract(j.value, '$.sha256') = attachment_file.sha256)
        AND NOT EXISTS (SELECT 1 FROM aim WHERE aim.sha256 = attachment_file.sha256)"""


def remove_unused_files(db: sqlite3.Connection) -> None:
    """Forgets bytes that no entry and no entry in the trash refers to."""
    db.execute(REMOVE_UNUSED)


def move_all(db: sqlite3.Connection, entry_id: int, into_id: int) -> None:
    """Gives the files attached to one entry to another."""
    db.execute("UPDATE attachment SET entry_id = :into WHERE entry_id = :id", {"id": entry_id, "into": into_id})
