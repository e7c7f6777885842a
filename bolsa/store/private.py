"""Files that only their owner reads: a household's holds the tokens of its institutions, and its copies hold them too."""

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from bolsa.errors import BolsaError, FileUnusable

FILE_MODE, FOLDER_MODE = 0o600, 0o700
SPARE_BYTES = 16 * 1024 * 1024  # what is left free beside what is written


def make_folder(folder: Path) -> None:
    """Makes a folder, with those above it, if it is not there. Raises: FileUnusable."""
    try:
        for missing in [one for one in (folder, *folder.parents) if not one.exists()][::-1]:
            missing.mkdir(mode=FOLDER_MODE, exist_ok=True)
        if not folder.is_dir():
            raise FileUnusable(f"{folder} is a file, not a folder.")
    except OSError as error:
        raise FileUnusable(f"The folder {folder} cannot be made: {error.strerror}.") from error


def create(path: Path) -> None:
    """Makes an empty file; one that is there is closed to others. Raises: FileUnusable, also if it is a link: what lies behind
    one may be another's.

    A file that is there is never opened: closing any handle of a file drops all locks this process has on it, and SQLite's with
    them (sqlite.org/howtocorrupt, section 2.2).
    """
    if path.is_symlink():
        raise FileUnusable(f"{path} is a link to another file. Name that file itself.")
    try:
        with suppress(FileExistsError):
            os.close(os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, FILE_MODE))
        found = path.stat()
        if found.st_mode & 0o077 and found.st_uid == os.geteuid():
            path.chmod(FILE_MODE)
    except OSError as error:
        raise FileUnusable(f"{path} cannot be opened: {error.strerror}.") from error


def write_text(path: Path, text: str) -> None:
    """Writes a text as it is, in UTF-8; what is there already is kept until all of it is written. Raises: FileUnusable."""
    write_bytes(path, text.encode())


def write_bytes(path: Path, content: bytes) -> None:
    """Writes a file; what is there already is kept until all of it is written. Raises: FileUnusable."""
    with being_written(path) as partial:
        partial.write_bytes(content)


@contextmanager
def being_written(path: Path) -> Iterator[Path]:
    """An empty file to write into, which takes the place of another when all of it is written. Raises: FileUnusable."""
    partial = path.with_name(path.name + ".part")
    try:
        partial.unlink(missing_ok=True)
        create(partial)
        yield partial
        partial.replace(path)
    except OSError as error:
        raise FileUnusable(f"{path} cannot be written: {error.strerror}.") from error
    finally:
        partial.unlink(missing_ok=True)


def require_room(folder: Path, needed: int) -> None:
    """Nothing, if so many bytes can be written into a folder that is there. Raises: BolsaError."""
    free = shutil.disk_usage(folder).free
    if free < needed + SPARE_BYTES:
        need, have = (max(1, -(-size // 1_000_000)) for size in (needed + SPARE_BYTES, free))
        raise BolsaError(f"There is too little room in {folder}: {need} MB are needed, {have} MB are free. Nothing was changed.")
