"""Whole copies of the household's file, checked before they are trusted, and put back."""

import os
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

from bolsa.core.house.kept import Breach
from bolsa.errors import BolsaError, UnreadableFile
from bolsa.services.house.files import bring_to_newest
from bolsa.store.connection import open_database, open_read_only
from bolsa.store.house import exports, household
from bolsa.store.invariants import find_breaches


def back_up(db: sqlite3.Connection, target: Path) -> list[Breach]:
    """Writes one file that holds everything, and checks it by opening it; gives what does not hold in it.

    The copy gets its name only when it is whole. Raises: BolsaError if the file is there already or cannot be written.
    """
    if target.exists():
        raise BolsaError(f"{target} is there already. Choose another name.")
    partial = target.with_name(target.name + ".part")
    try:
        partial.unlink(missing_ok=True)
        exports.copy_whole(db, partial)
        breaches = check_file(partial)
        os.replace(partial, target)
    except OSError as error:
        raise BolsaError(f"{target} cannot be written: {error.strerror}.") from error
    return breaches


def check_file(path: Path) -> list[Breach]:
    """What does not hold in a file. Raises: UnreadableFile if it is no household."""
    db = open_read_only(path)
    try:
        if household.find_household(db) is None:
            raise UnreadableFile(f"{path} holds no household.")
        return find_breaches(db)
    except sqlite3.DatabaseError as error:
        raise UnreadableFile(f"{path} is not a Bolsa household.") from error
    finally:
        db.close()


def restore(backup: Path, target: Path) -> Path | None:
    """Puts a backup in the place of the household's file, after checking it; what was there is kept beside it, under its day
    and time.

    The file stays the same one: its pages are replaced in one transaction, under the lock that every writer takes, so that a
    server that has it open sees the backup from its next request on and mixes nothing. Gives where what was there is kept,
    None if there was nothing. Raises: UnreadableFile, BolsaError; nothing is changed then.
    """
    if not backup.is_file():
        raise BolsaError(f"{backup} is not there.")
    partial = target.with_name(target.name + ".part")
    partial.unlink(missing_ok=True)
    try:
        _check_out(backup, partial)
        former = _keep_former(target)
        if target.exists():
            with closing(open_read_only(partial)) as source, closing(open_database(target)) as db:
                exports.replace_whole(source, db)
        else:
            os.replace(partial, target)
    finally:
        partial.unlink(missing_ok=True)
    with closing(open_database(target)) as db:
        breaches = _damage(find_breaches(db))
    if breaches:
        raise BolsaError(f"{target} is not as the backup was: {breaches[0].promise}. What was there before is {former}.")
    return former


def _check_out(backup: Path, partial: Path) -> None:
    """Writes the backup, brought to the newest schema, to a file of its own, if everything in it holds."""
    try:
        with closing(open_read_only(backup)) as source:
            exports.copy_whole(source, partial)
        with closing(open_database(partial)) as db:
            bring_to_newest(db)  # what must hold is asked of the newest schema: an older one has not all that is asked about
        breaches = _damage(check_file(partial))
    except sqlite3.DatabaseError as error:
        raise UnreadableFile(f"{backup} is not a Bolsa household.") from error
    if breaches:
        raise UnreadableFile(f"{backup} is damaged: {breaches[0].promise} — {breaches[0].row}.")


def _damage(breaches: list[Breach]) -> list[Breach]:
    return [breach for breach in breaches if breach.is_damage]


def _keep_former(target: Path) -> Path | None:
    """Keeps what is there now beside it; a file that cannot be read is moved there with its log."""
    if not target.exists():
        return None
    former = _free_name(target)
    try:
        with closing(open_database(target)) as db:
            exports.copy_whole(db, former)
    except (sqlite3.DatabaseError, UnreadableFile):
        for ending in filter(lambda ending: Path(f"{target}{ending}").exists(), ("-wal", "-shm", "")):
            os.replace(f"{target}{ending}", f"{former}{ending}")
    return former


def _free_name(target: Path) -> Path:
    """A name beside the file that nothing has, with the present moment in it."""
    stamp = datetime.now(UTC).strftime("%Y-%m-%dT%H-%M-%SZ")
    names = (f"{target.name}.{stamp}{again}.before-restore" for again in ("", *(f"-{i}" for i in range(2, 1000))))
    return next(path for name in names if not (path := target.with_name(name)).exists())
