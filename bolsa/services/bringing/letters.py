"""Brokers' letters in a folder: which are there, what became of each, and taking those that tell of a trade into preview."""

import hashlib
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from bolsa.errors import BolsaError, Conflict, UnreadableFile
from bolsa.formats.letters import MOST_LETTER, describe_letter, looks_like_letter, read_letter
from bolsa.services.bringing import taking_in
from bolsa.services.changes import note
from bolsa.services.clock import By
from bolsa.store.bringing import batches

NEW_STATES = ("", "undone")  # of the batch a letter became: none, or one that was taken out again
MOST_LISTED = 200  # letters, the newest first


@dataclass(frozen=True)
class Letter:
    """A letter in the folder: its file's name, subject and sender; the batch it became with its state ("" if it is new), and why
    it cannot be read, "" if it can."""

    name: str
    subject: str
    sender: str
    state: str = ""
    batch_id: int = 0
    problem: str = ""

    @property
    def is_new(self) -> bool:
        return self.state in NEW_STATES and not self.problem


def list_letters(db: sqlite3.Connection, folder: Path | None) -> list[Letter]:
    """The letters in the folder, the newest first. A folder that is not there holds none."""
    if folder is None or not folder.is_dir():
        return []
    paths = sorted(folder.glob("*.eml"), key=lambda path: (path.stat().st_mtime, path.name), reverse=True)[:MOST_LISTED]
    contents = {path: content for path in paths if (content := _content_of(path)) is not None}
    known = batches.find_batches_of(db, [_digest(content) for content in contents.values()])
    return [_letter(path, content, known.get(_digest(content), (0, ""))) for path, content in contents.items()]


def _letter(path: Path, content: bytes, became: tuple[int, str]) -> Letter:
    subject, sender = describe_letter(content)
    batch_id, state = became
    problem = "" if state else _problem_of(content)
    return Letter(path.name, subject, sender, state, batch_id, problem)


def _problem_of(content: bytes) -> str:
    """Why a letter cannot be read, "" if it can."""
    try:
        if not looks_like_letter(content):
            return "This is no letter."
        read_letter(content)
    except UnreadableFile as error:
        return error.sentence
    return ""


def _content_of(path: Path) -> bytes | None:
    """A letter's bytes; None where it is no plain file in the folder, too large, or gone meanwhile."""
    try:
        is_plain = path.is_file() and not path.is_symlink() and path.stat().st_size <= MOST_LETTER
        return path.read_bytes() if is_plain else None
    except OSError:
        return None


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def take_in_letters(db: sqlite3.Connection, by: By, folder: Path | None, names: list[str]) -> list[int]:
    """Takes letters of the folder into preview, all or none; without names every new one that can be read.

    Gives the batches' ids. Raises: BolsaError.
    """
    wanted = [one for one in list_letters(db, folder) if one.is_new and (not names or one.name in names)]
    if folder is None or not wanted:
        raise BolsaError("No new letter there tells of a trade.")
    contents = {letter: content for letter in wanted if (content := _content_of(folder / letter.name)) is not None}
    made = []
    with note(db):
        taken = batches.find_batches_of(db, [_digest(content) for content in contents.values()])  # by another request, meanwhile
        for letter, content in contents.items():
            if taken.get(_digest(content), (0, ""))[1] in NEW_STATES:
                made.append(taking_in.take_in(db, by, letter.subject, content).batch_id)
        if not made:
            raise Conflict("Those letters were taken in a moment ago; they wait below.")
    return made
