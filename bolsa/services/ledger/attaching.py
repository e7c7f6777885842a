"""Attaching images and documents to entries: the type is read from the content, and a small picture is made once."""

import hashlib
import io
import sqlite3

import pypdfium2
from PIL import Image, ImageOps, UnidentifiedImageError

from bolsa.core.ledger.belongings import Attachment
from bolsa.errors import InvalidInput
from bolsa.services.bringing.uploads import clean_name
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.ledger import attachments, entries

MOST_BYTES = 10 * 1024 * 1024
MOST_PIXELS = 50_000_000  # a phone's largest picture; beyond it a small file unfolds into gigabytes
MOST_ATTACHED = 20
THUMBNAIL = (240, 240)
_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp", "GIF": "image/gif"}


def attach(db: sqlite3.Connection, by: By, entry_id: int, name: str, content: bytes) -> Done:
    """Attaches a file to an entry. Raises: InvalidInput naming what is wrong with it."""
    if not content:
        raise InvalidInput("Choose an image or a PDF first.", field="attachment")
    if len(content) > MOST_BYTES:
        raise InvalidInput("That file is larger than 10 MB. A smaller picture will do.", field="attachment")
    media_type, thumbnail = _look_at(content)
    digest = hashlib.sha256(content).hexdigest()
    with change(db, by) as done:
        entry = entries.get_entry(db, entry_id)
        if len(attachments.list_attachments(db, entry_id)) >= MOST_ATTACHED:
            raise InvalidInput(f"An entry holds up to {MOST_ATTACHED} files.", field="attachment")
        name = clean_name(name)
        done.sentence = f"Attached {name} to {entry.payee}"
        attachments.put_file(db, digest, content, thumbnail)
        done.made = attachments.insert_attachment(db, entry_id, name, media_type, len(content), digest, by.at)
    return done


def detach(db: sqlite3.Connection, by: By, attachment_id: int) -> Done:
    """Takes a file off its entry; its bytes stay until the trash is emptied."""
    with change(db, by) as done:
        found = attachments.get_attachment(db, attachment_id)
        done.sentence = f"Took {found.name} off {entries.get_entry(db, found.entry_id).payee}"
        attachments.remove_attachment(db, attachment_id)
    return done


def _look_at(content: bytes) -> tuple[str, bytes]:
    """The type the content shows, whatever its name says, and a small picture of it as PNG."""
    if content[:5] == b"%PDF-":
        return "application/pdf", _picture_of_pdf(content)
    try:
        with Image.open(io.BytesIO(content), formats=list(_TYPES)) as image:
            if image.width * image.height > MOST_PIXELS:
                raise InvalidInput("That picture has more than 50 million points. Make it smaller first.", field="attachment")
            return _TYPES[image.format or ""], _small(ImageOps.exif_transpose(image))
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        words = "This is no image (JPEG, PNG, WebP, GIF) and no PDF, or it is damaged."
        raise InvalidInput(words, field="attachment") from error


def _picture_of_pdf(content: bytes) -> bytes:
    try:
        document = pypdfium2.PdfDocument(content)
        try:
            page = document[0]
            scale = min(2.0, THUMBNAIL[0] / max(page.get_size()))
            return _small(page.render(scale=scale).to_pil())
        finally:
            document.close()
    except (pypdfium2.PdfiumError, IndexError, ValueError) as error:
        raise InvalidInput("The PDF is damaged, or locked with a password.", field="attachment") from error


def _small(image: Image.Image) -> bytes:
    small = image.convert("RGB")
    small.thumbnail(THUMBNAIL)
    out = io.BytesIO()
    small.save(out, "PNG")
    return out.getvalue()


def list_attachments(db: sqlite3.Connection, entry_id: int) -> list[Attachment]:
    """An entry's attachments in the order they were added."""
    return attachments.list_attachments(db, entry_id)


def get_file(db: sqlite3.Connection, attachment_id: int) -> tuple[Attachment, bytes]:
    """An attachment and its bytes. Raises: NotFound."""
    found = attachments.get_attachment(db, attachment_id)
    return found, attachments.get_content(db, found.sha256)


def get_thumbnail(db: sqlite3.Connection, attachment_id: int) -> bytes:
    """The small picture of an attachment, PNG. Raises: NotFound."""
    return attachments.get_thumbnail(db, attachments.get_attachment(db, attachment_id).sha256)
