"""A sequence that keeps what does not fit into its share of memory in a file without a name.

Files of a hundred thousand rows are read in passes: the first ones find out what all rows have in common (a currency, how the
file says in and out), the last one makes the rows. The rows of a pass wait here for the next.
"""

import pickle
import tempfile
import weakref
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import IO, ClassVar, TypeVar, overload

from bolsa.core.known import known

Item = TypeVar("Item")
CHUNK = 2_000  # items that are written, and read back, together


class Spool(Sequence[Item]):
    """Items in the order they came; at most two chunks of them are in memory. Items can be added until it is dropped.

    What is read back is what this process wrote: the file has no name that another could open.
    """

    shared: ClassVar[IO[bytes] | None] = None  # where all of them write in a process whose rows another one reads

    def __init__(self, items: Iterable[Item] = ()):
        self._places: list[int] = []  # where in the file each full chunk begins
        self._tail: list[Item] = []  # the newest items, less than a chunk
        self._read: tuple[int, list[Item]] = (-1, [])  # the chunk that was read last, and its number
        self._file: IO[bytes] | None = None
        for item in items:
            self.append(item)

    def append(self, item: Item) -> None:
        """Adds an item at the end."""
        self._tail.append(item)
        if len(self._tail) == CHUNK:
            if self._file is None and Spool.shared:
                self._file = Spool.shared
            elif self._file is None:
                self._file = tempfile.TemporaryFile(prefix="bolsa-")  # noqa: SIM115 (closed when the spool is dropped)
                weakref.finalize(self, self._file.close)
            self._places.append(self._file.seek(0, 2))
            kind = type(self._tail[0])
            make = getattr(kind, "_make", None)
            # Named tuples are written as bare ones: a tenth of the time, and there are a hundred thousand.
            written = list(map(tuple, self._tail)) if make else self._tail  # type: ignore[arg-type]
            pickle.dump((make, written), self._file, pickle.HIGHEST_PROTOCOL)
            self._tail = []

    def parts(self) -> tuple[IO[bytes] | None, list[int], list[Item]]:
        """The file its full chunks stand in, where they begin, and the items that are not written."""
        if self._file is not None:
            self._file.flush()
        return self._file, self._places, self._tail

    @classmethod
    def over(cls, file: IO[bytes] | None, places: list[int], tail: list[Item]) -> "Spool[Item]":
        """A spool of what another process wrote."""
        made = cls()
        made._file, made._places, made._tail = file, places, tail
        return made

    def __len__(self) -> int:
        return len(self._places) * CHUNK + len(self._tail)

    def _chunk(self, number: int) -> list[Item]:
        if number == len(self._places):
            return self._tail
        if self._read[0] != number:
            file = known(self._file)
            file.seek(self._places[number])
            make, written = pickle.load(file)  # noqa: S301 (our own writing, see above)
            self._read = number, [make(item) for item in written] if make else written
        return self._read[1]

    def __iter__(self) -> Iterator[Item]:
        for number in range(len(self._places) + 1):
            yield from self._chunk(number)

    def __reversed__(self) -> Iterator[Item]:
        for number in range(len(self._places), -1, -1):
            yield from reversed(self._chunk(number))

    @overload
    def __getitem__(self, place: int) -> Item: ...
    @overload
    def __getitem__(self, place: slice) -> list[Item]: ...
    def __getitem__(self, place: int | slice) -> Item | list[Item]:
        if isinstance(place, slice):
            first, last, step = place.indices(len(self))
            return list(islice(self.from_place(first), 0, max(0, last - first), step))
        wanted = place + len(self) if place < 0 else place
        if not 0 <= wanted < len(self):
            raise IndexError(place)
        return self._chunk(wanted // CHUNK)[wanted % CHUNK]

    def from_place(self, first: int) -> Iterator[Item]:
        """The items from a place on."""
        for number in range(first // CHUNK, len(self._places) + 1):
            yield from islice(self._chunk(number), first % CHUNK if number == first // CHUNK else 0, None)
