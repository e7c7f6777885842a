"""Whole copies of the household's file, checked before they are trusted, and put back."""

import glob
import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path

from bolsa.core.house.kept import Breach
from bolsa.errors import BolsaError, FileUnusable, UnreadableFile
from bolsa.services.changes import note
from bolsa.services.house.files import bring_to_newest
from bolsa.store import mishaps, private
from bolsa.store.connection import open_database, open_read_only
from bolsa.store.house import copying, exports, household, seals
from bolsa.store.invariants import find_breaches, find_damage
from bolsa.store.migrate import migrate

_ENDINGS = ("-wal", "-shm", "-journal", "")  # the file itself goes last


def back_up(db: sqlite3.Connection, target: Path) -> list[Breach]:
    """Writes one file that holds everything, seals it, and checks it by opening it; gives what does not hold in it.

    The copy gets its name only when it is whole. Raises: BolsaError if the file is there already or cannot be written.
    """
    if target.exists() or target.is_symlink():
        raise BolsaError(f"{target} is there already. Choose another name.")
    partial = target.with_name(target.name + ".part")
    _remove(partial)
    try:
        private.require_room(target.parent, exports.size_of(db))
        exports.copy_whole(db, partial)
        seals.seal(partial)
        breaches = check_file(partial)
        os.replace(partial, target)
    except (OSError, sqlite3.Error) as error:
        raise _in_words(error, target) from error
    finally:
        _remove(partial)
    return breaches


def check_file(path: Path) -> list[Breach]:
    """What does not hold in a file. Raises: UnreadableFile if it is no household."""
    try:
        with closing(open_read_only(path)) as db:
            if household.find_household(db) is None:
                raise UnreadableFile(f"{path} holds no household.")
            return find_breaches(db)
    except mishaps.BROKEN as error:
        raise mishaps.in_words(error, path) or UnreadableFile(f"{path} is not a Bolsa household.") from error


def check_sealed(path: Path) -> list[Breach] | None:
    """What does not hold in a backup that was not used as a household yet, which stays sealed; None for any other file."""
    try:
        if not path.is_file() or seals.find_seal(path) is None:
            return None
        if not seals.is_whole(path):
            return [Breach("a backup is as it was written, byte by byte", str(path)), *list_damage(path)]
    except sqlite3.DatabaseError:
        return None
    return check_file(path)


def list_damage(path: Path) -> list[Breach]:
    """What of a file is not as SQLite wrote it, also of one that cannot be opened as a household."""
    with closing(open_read_only(path)) as db:
        return find_damage(db)


def restore(backup: Path, target: Path) -> Path | None:
    """Puts a backup in the place of the household's file, after checking it; what was there is kept beside it, under its day
    and time.

    The file stays the same one: its pages are replaced in one transaction, under the lock that every writer takes, so that a
    server that has it open sees the backup from its next request on and mixes nothing. Gives where what was there is kept,
    None if there was nothing. Raises: UnreadableFile, BolsaError; nothing is changed then.
    """
    if not backup.is_file():
        raise BolsaError(f"{backup} is not there.")
    if target.is_symlink():
        raise FileUnusable(f"{target} is a link to another file. Name that file itself.")
    private.make_folder(target.parent)
    partial = target.with_name(target.name + ".part")
    _remove(partial)
    try:
        sizes = [path.stat().st_size for path in (*_parts_of(backup), target) if path.exists()]
        private.require_room(target.parent, 2 * sum(sizes))
        _check_out(backup, partial)
        former, is_readable = _keep_former(target)
        if is_readable:
            with closing(open_read_only(partial)) as source, closing(open_database(target)) as db:
                exports.replace_whole(source, db)
        else:
            for ending in filter(None, _ENDINGS):  # a log must never be read with another file; what it says is kept
                Path(f"{target}{ending}").unlink(missing_ok=True)
            os.replace(partial, target)
        with closing(open_database(target)) as db:
            breaches = _damage(find_breaches(db))
    except (OSError, sqlite3.Error) as error:
        raise _in_words(error, target) from error
    finally:
        _remove(partial)
    if breaches:
        raise BolsaError(f"{target} is not as the backup was: {breaches[0].promise}. What was there before is {former}.")
    return former


def list_formers(target: Path) -> list[Path]:
    """What restoring kept beside a household's file, the latest first."""
    return sorted(target.parent.glob(f"{glob.escape(target.name)}.*.before-restore"), reverse=True)


def _check_out(backup: Path, partial: Path) -> None:
    """Writes what the backup holds, brought to the newest schema, to a file of its own, if everything in it holds."""
    try:
        if not seals.is_whole(backup):
            raise UnreadableFile(f"{backup} is damaged: it is not as it was written, byte by byte.")
        with _opened(backup, partial) as source, closing(open_database(partial)) as db:
            migrate(db, until=copying.schema_of(source))
            copying.copy_rows(source, db)
            bring_to_newest(db)
            with note(db):
                copying.index_words(db)
            if household.find_household(db) is None:
                raise UnreadableFile("It holds no household.")
            breaches = _damage(find_breaches(db))
            db.execute("PRAGMA journal_mode = DELETE")
    except UnreadableFile as error:
        raise UnreadableFile(error.sentence if backup.name in error.sentence else f"{backup}: {error.sentence}") from error
    except (sqlite3.Error, UnicodeDecodeError) as error:
        raise mishaps.in_words(error, backup) or UnreadableFile(f"{backup} is not a Bolsa household: {error}.") from error
    if breaches:
        raise UnreadableFile(f"{backup} is damaged: {breaches[0].promise} — {breaches[0].row}.")


@contextmanager
def _opened(backup: Path, partial: Path) -> Iterator[sqlite3.Connection]:
    """The backup, to be read. What a running program had written last stands in a log beside a copy of its file: both are copied,
    and read together there."""
    if not any(path.stat().st_size for path in _parts_of(backup)[1:]):
        with closing(open_read_only(backup)) as source:
            yield source
        return
    copied = Path(f"{partial}.log")
    _remove(copied)
    try:
        for path in _parts_of(backup):
            into = Path(f"{copied}{path.name.removeprefix(backup.name)}")
            private.create(into)
            shutil.copyfile(path, into)
        with closing(open_database(copied)) as db:
            db.execute("PRAGMA journal_mode = DELETE")  # which folds the log in
        with closing(open_read_only(copied)) as source:
            yield source
    finally:
        _remove(copied)


def _parts_of(path: Path) -> list[Path]:
    """A file, and its log, of what is there."""
    return [one for one in (path, Path(f"{path}-wal"), Path(f"{path}-journal")) if one.is_file()]


def _damage(breaches: list[Breach]) -> list[Breach]:
    return [breach for breach in breaches if breach.is_damage]


def _keep_former(target: Path) -> tuple[Path | None, bool]:
    """Keeps a copy of what is there now beside it; gives where, and whether it can be read. Of a file that cannot, every byte is
    kept, with its log."""
    parts = _parts_of(target)
    if not parts:
        return None, False
    former = _free_name(target)
    try:
        if target not in parts:
            raise UnreadableFile(f"{target} is gone.")
        with closing(open_database(target)) as db:
            exports.copy_whole(db, former)
            if not find_damage(db):
                return former, True
    except (sqlite3.DatabaseError, UnreadableFile) as error:
        if isinstance(error, sqlite3.Error) and not isinstance(mishaps.in_words(error), UnreadableFile):
            _remove(former)
            raise
    _remove(former)
    try:
        for path in parts:
            into = Path(f"{former}{path.name.removeprefix(target.name)}")
            private.create(into)
            shutil.copyfile(path, into)
    except OSError:
        _remove(former)
        raise
    return former, False


def _free_name(target: Path) -> Path:
    """A name beside the file that nothing has, with the present moment in it."""
    stamp = datetime.now(UTC).strftime("%Y-%m-%dT%H-%M-%SZ")
    names = (f"{target.name}.{stamp}{again}.before-restore" for again in ("", *(f"-{i}" for i in range(2, 1000))))
    return next(path for name in names if not (path := target.with_name(name)).exists())


def _in_words(error: Exception, path: Path) -> BolsaError:
    """What went wrong with a file or the disk, for a person. Raises: the error itself, if it is a mistake of ours."""
    if isinstance(error, OSError):
        return FileUnusable(f"{path} cannot be written: {error.strerror}.")
    if isinstance(error, sqlite3.Error) and (told := mishaps.in_words(error, path)):
        return told
    raise error


def _remove(path: Path) -> None:
    """Takes a partial file away, with what SQLite puts beside one."""
    for ending in _ENDINGS:
        Path(f"{path}{ending}").unlink(missing_ok=True)
