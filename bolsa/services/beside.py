"""Reading in a process of its own: a file that takes long, or more memory than any file should, holds up no page and takes
nothing down with it; and it can be stopped.

Run as a script it is that process: standard input says which function is called with what, standard output what came of it. Rows
by the hundred thousand do not go that way: both processes have the file open in which spools keep them (formats/spool.py).
"""

import importlib
import io
import os
import pickle
import resource
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, TypeVar, cast

from bolsa.errors import BolsaError, UnreadableFile
from bolsa.formats.spool import Spool
from bolsa.services.progress import Report

LARGE = 256 * 1024  # bytes; what is smaller is read before a process has begun
MOST_MEMORY = 2 * 1024 * 1024 * 1024  # bytes of addresses
MOST_SECONDS = 120  # of a processor
DEADLINE_SECONDS = 300
LOOK_EVERY_SECONDS = 0.1  # how soon one that is to be stopped is

Answer = TypeVar("Answer")


def call(function: Callable[..., Answer], *given: object, report: Report, words: str) -> Answer:
    """What a function of a module gives. Both it and what it is given can be pickled; spools are shared.

    Raises: UnreadableFile if it takes too long or too much; what the function raises, and what the report raises to stop it.
    """
    with tempfile.TemporaryFile(prefix="bolsa-") as began:
        shared = _Shared(io.FileIO(os.dup(began.fileno()), "r+"))
    asked = io.BytesIO()
    packer = _Packer(asked, [shared])
    packer.dump((function.__module__, function.__qualname__, given))
    command = [sys.executable, "-m", __spec__.name, *(str(file.fileno()) for file in packer.files)]
    process = subprocess.Popen(
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        env={"PYTHONPATH": str(Path(__file__).parents[2])},
        pass_fds=[file.fileno() for file in packer.files],
    )
    said: list[bytes] = []
    talk = threading.Thread(target=lambda: said.append(process.communicate(asked.getvalue())[0]), daemon=True)
    talk.start()
    deadline = time.monotonic() + DEADLINE_SECONDS
    try:
        while talk.is_alive() and time.monotonic() < deadline:
            report(0, 0, words)
            talk.join(LOOK_EVERY_SECONDS)
    finally:
        if process.poll() is None and talk.is_alive():
            process.kill()
        talk.join()
    if process.returncode or not (said and said[0]):
        raise UnreadableFile("The file takes longer to read, or more memory, than any statement does.")
    answer, error = _Unpacker(io.BytesIO(said[0]), packer.files).load()
    if error is not None:
        raise error
    return cast("Answer", answer)


class _Shared(io.BufferedRandom):
    """A file without a name that is closed when the last spool over it is dropped."""

    def __del__(self) -> None:
        self.close()


class _Packer(pickle.Pickler):
    """Writes what goes over; of a spool only where its rows stand in the files both processes have."""

    def __init__(self, out: IO[bytes], files: list[IO[bytes]]):
        super().__init__(out, pickle.HIGHEST_PROTOCOL)
        self.files = files

    def persistent_id(self, thing: object) -> object:
        if not isinstance(thing, Spool):
            return None
        file, places, tail = thing.parts()
        if file is not None and file not in self.files:
            self.files.append(file)
        return (self.files.index(file) if file else None, places, tail)


class _Unpacker(pickle.Unpickler):
    """Reads what came over. It is what this program wrote itself, on the other side."""

    def __init__(self, told: IO[bytes], files: list[IO[bytes]]):
        super().__init__(told)
        self._files = files

    def persistent_load(self, known: Any) -> Spool:
        at, places, tail = known
        return Spool.over(None if at is None else self._files[at], places, tail)


def main() -> None:
    """Calls what it is told to, and tells what came of it."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    files: list[IO[bytes]] = [os.fdopen(int(number), "r+b") for number in sys.argv[1:]]
    module, name, given = _Unpacker(sys.stdin.buffer, files).load()
    Spool.shared = files[0]
    answer, error = None, None
    try:
        answer = getattr(importlib.import_module(module), name)(*given)
    except BolsaError as refused:
        error = refused
    except MemoryError:
        error = UnreadableFile("The file takes more memory to read than any statement does.")
    told = io.BytesIO()
    _Packer(told, files).dump((answer, error))
    for file in files:
        file.flush()
    sys.stdout.buffer.write(told.getvalue())


if __name__ == "__main__":
    main()
