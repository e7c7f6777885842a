"""Attaching images and documents to entries and trades: the type is read from the content, and a small picture is made once."""

import hashlib
import sqlite3
import subprocess
import sys
import threading

from bolsa.core.holdings.trades import KIND_WORDS
from bolsa.core.known import known
from bolsa.core.ledger.belongings import Attachment
from bolsa.errors import InvalidInput
from bolsa.services.bringing.uploads import clean_name
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.holdings import trading
from bolsa.services.ledger import looker
from bolsa.store.holdings import securities
from bolsa.store.ledger import attachments, entries

MOST_BYTES = 10 * 1024 * 1024
MOST_ATTACHED = 20
LOOK_SECONDS = 20
UNREADABLE = "That file cannot be read within the time and memory a picture takes. It is damaged, or made to do harm."
_LOOKERS = threading.BoundedSemaphore(2)  # at once; the others wait their turn


def attach(db: sqlite3.Connection, by: By, entry_id: int, name: str, content: bytes) -> Done:
    """Attaches a file to an entry. Raises: InvalidInput naming what is wrong with it."""
    looked = look_at(content)
    with change(db, by) as done:
        payee = entries.get_entry(db, entry_id).payee
        _keep(db, by, done, payee, Attachment(0, entry_id, clean_name(name), *looked[:3]), content, looked[3])
    return done


def attach_to_trade(db: sqlite3.Connection, by: By, trade_id: int, name: str, content: bytes) -> Done:
    """Attaches a file to a trade. Raises: InvalidInput naming what is wrong with it."""
    looked = look_at(content)
    with change(db, by) as done:
        owner = _words_of_trade(db, trade_id)
        _keep(db, by, done, owner, Attachment(0, None, clean_name(name), *looked[:3], trade_id), content, looked[3])
    return done


def _keep(
    db: sqlite3.Connection, by: By, done: Done, owner: str, attachment: Attachment, content: bytes, thumbnail: bytes
) -> None:
    """Keeps a file with its owner, as part of the caller's step."""
    if len(_list_beside(db, attachment)) >= MOST_ATTACHED:
        raise InvalidInput(f"Up to {MOST_ATTACHED} files can lie with one.", field="attachment")
    done.sentence = f"Attached {attachment.name} to {owner}"
    attachments.put_file(db, attachment.sha256, content, thumbnail)
    done.made = attachments.insert_attachment(db, attachment, by.at)


def _list_beside(db: sqlite3.Connection, attachment: Attachment) -> list[Attachment]:
    if attachment.trade_id is not None:
        return attachments.list_of_trade(db, attachment.trade_id)
    return attachments.list_attachments(db, known(attachment.entry_id))


def _words_of_trade(db: sqlite3.Connection, trade_id: int) -> str:
    trade = trading.get_trade(db, trade_id)
    return f"{securities.get_security(db, trade.security_id).name}, {KIND_WORDS[trade.kind]} {trade.day}"


def detach(db: sqlite3.Connection, by: By, attachment_id: int) -> Done:
    """Takes a file off what it lies with; its bytes stay until the trash is emptied."""
    with change(db, by) as done:
        found = attachments.get_attachment(db, attachment_id)
        is_of_trade = found.trade_id is not None
        owner = _words_of_trade(db, known(found.trade_id)) if is_of_trade else entries.get_entry(db, known(found.entry_id)).payee
        done.sentence = f"Took {found.name} off {owner}"
        attachments.remove_attachment(db, attachment_id)
    return done


def look_at(content: bytes) -> tuple[str, int, str, bytes]:
    """The type the content shows, whatever its name says, its size, its hash, and a small picture of it as PNG.

    Raises: InvalidInput.
    """
    if not content:
        raise InvalidInput("Choose an image or a PDF first.", field="attachment")
    if len(content) > MOST_BYTES:
        raise InvalidInput("That file is larger than 10 MB. A smaller picture will do.", field="attachment")
    media_type, thumbnail = _picture_of(content)
    return media_type, len(content), hashlib.sha256(content).hexdigest(), thumbnail


def _picture_of(content: bytes) -> tuple[str, bytes]:
    """The media type and a small picture, as looker.py tells them. Raises: InvalidInput."""
    with _LOOKERS:
        try:
            found = subprocess.run(
                [sys.executable, "-I", looker.__file__],
                input=content,
                capture_output=True,
                timeout=LOOK_SECONDS,
                env={},
                check=False,
            )
        except subprocess.TimeoutExpired as error:
            raise InvalidInput(UNREADABLE, field="attachment") from error
    media_type, _, picture = found.stdout.partition(b"\n")
    if found.returncode or not media_type:
        raise InvalidInput(UNREADABLE, field="attachment")
    if media_type.startswith(b"!"):
        raise InvalidInput(media_type[1:].decode(), field="attachment")
    return media_type.decode(), picture


def list_attachments(db: sqlite3.Connection, entry_id: int) -> list[Attachment]:
    """An entry's attachments in the order they were added."""
    return attachments.list_attachments(db, entry_id)


def list_of_trade(db: sqlite3.Connection, trade_id: int) -> list[Attachment]:
    """A trade's attachments in the order they were added."""
    return attachments.list_of_trade(db, trade_id)


def get_file(db: sqlite3.Connection, attachment_id: int) -> tuple[Attachment, bytes]:
    """An attachment and its bytes. Raises: NotFound."""
    found = attachments.get_attachment(db, attachment_id)
    return found, attachments.get_content(db, found.sha256)


def get_thumbnail(db: sqlite3.Connection, attachment_id: int) -> bytes:
    """The small picture of an attachment, PNG. Raises: NotFound."""
    return attachments.get_thumbnail(db, attachments.get_attachment(db, attachment_id).sha256)
