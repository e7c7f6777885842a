"""What lies in the mail folder, and writing it there."""

from dataclasses import dataclass
from datetime import datetime
from email.message import EmailMessage
from email.utils import format_datetime
from pathlib import Path


@dataclass(frozen=True)
class SentLetter:
    """One letter: its words, and the same as HTML where the sender writes that too."""

    key: str
    sender: str
    subject: str
    sent: datetime
    words: str
    html: str = ""


def letter_bytes(letter: SentLetter) -> bytes:
    """The letter as it lies in the folder (RFC 5322)."""
    message = EmailMessage()
    message["From"] = letter.sender
    message["To"] = "Noor Quist <noor@alkyon.example>"
    message["Subject"] = letter.subject
    message["Date"] = format_datetime(letter.sent)
    message["Message-ID"] = f"<{letter.key}@stand-in.example>"
    message.set_content(letter.words)
    if letter.html:
        message.add_alternative(letter.html, subtype="html")
        message.set_boundary(f"=-{letter.key}-=")
    return message.as_bytes()


def write_letters(folder: Path, letters: tuple[SentLetter, ...]) -> None:
    """Puts letters into the folder; one that lies there already stays as it is."""
    folder.mkdir(parents=True, exist_ok=True)
    for letter in letters:
        path = folder / f"{letter.key}.eml"
        if not path.exists():
            path.write_bytes(letter_bytes(letter))
