"""The number that is another after every change of the household's file."""

import sqlite3


def get_mark(db: sqlite3.Connection) -> int:
    return db.execute("SELECT mark FROM content_mark").fetchone()["mark"]


def renew_mark(db: sqlite3.Connection) -> None:
    """Gives the content another number. It is drawn, not counted: a backup that is put back must not meet a number that stood
    for something else."""
    db.execute("UPDATE content_mark SET mark = random()")


def put_mark(db: sqlite3.Connection, mark: int) -> None:
    """Gives a content that is always the same when it is made a number that is always the same."""
    db.execute("UPDATE content_mark SET mark = :mark", {"mark": mark})
