"""What SQLite says of a file or a disk, in words for people. https://www.sqlite.org/rescode.html"""

import sqlite3

from bolsa.errors import BolsaError, FileUnusable, UnreadableFile

BUSY = "The household’s file is busy in another program. Try again in a moment."
FULL = "The disk is full. Nothing was changed; make room and try again."
_UNUSABLE = {
    sqlite3.SQLITE_BUSY: BUSY,
    sqlite3.SQLITE_LOCKED: BUSY,
    sqlite3.SQLITE_FULL: FULL,
    sqlite3.SQLITE_READONLY: "{name} may be read, but not written. Nothing was changed.",
    sqlite3.SQLITE_PERM: "{name} may not be opened.",
    sqlite3.SQLITE_CANTOPEN: "{name} cannot be opened. Is it there, and may it be read and written?",
    sqlite3.SQLITE_IOERR: "The disk failed at {name}. Nothing was changed.",
}
_UNREADABLE = {
    sqlite3.SQLITE_NOTADB: "{name} is not a Bolsa household: it is no SQLite database.",
    sqlite3.SQLITE_CORRUPT: "{name} is damaged. “bolsa check” says where; “bolsa restore” puts a backup in its place.",
}


# What is raised where a file's bytes are not what SQLite or its text should be: in a damaged one its own message can be no text.
BROKEN = (sqlite3.DatabaseError, UnicodeDecodeError)


def in_words(error: Exception, name: object = "The household’s file") -> BolsaError | None:
    """What a person is told of it; None if it says nothing of the file or the disk, and is a mistake of ours."""
    if isinstance(error, UnicodeDecodeError):
        return UnreadableFile(_UNREADABLE[sqlite3.SQLITE_CORRUPT].format(name=name))
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF  # the primary code; the rest says more than a person can use
    if code in _UNUSABLE:
        return FileUnusable(_UNUSABLE[code].format(name=name))
    if code in _UNREADABLE:
        return UnreadableFile(_UNREADABLE[code].format(name=name))
    return None
