"""The formats Bolsa reads: how each is recognised (by content, never by name) and read, whether it must be told what its columns
mean, and whether its file is kept after it was brought in. A further format is one more entry of FORMATS."""

from collections.abc import Callable
from dataclasses import dataclass

from bolsa.core.bringing.rows import BroughtStatement
from bolsa.errors import UnreadableFile
from bolsa.formats.camt import looks_like_camt, read_camt
from bolsa.formats.letters import looks_like_letter
from bolsa.formats.mt940 import looks_like_mt940, read_mt940
from bolsa.formats.ofx import has_investments, looks_like_ofx, read_ofx

MOST_SNIFFED = 4096


def _never(_content: bytes) -> bool:
    return False


def _looks_like_text(content: bytes) -> bool:
    """Whether it may be a table: whatever is not plainly something else. Raises: UnreadableFile for XML of another kind."""
    head = content[:MOST_SNIFFED].replace(b"\x00", b"").lstrip(b"\xef\xbb\xbf\xff\xfe\r\n\t ")
    if head[:5].lower() == b"<?xml" or head[:1] == b"<":
        raise UnreadableFile("The file is XML, but neither OFX nor camt.", line=1, found=head[:60].decode("latin-1"))
    return True


@dataclass(frozen=True)
class Format:
    """A format. `read` gives a file's statements, amounts without a currency in the one given; None where the file does not say
    what its columns mean: it is read by a mapping (csv_read.py)."""

    key: str
    label: str
    looks_like_it: Callable[[bytes], bool]
    read: Callable[[bytes, str], list[BroughtStatement]] | None = None
    is_kept: Callable[[bytes], bool] = _never

    @property
    def needs_mapping(self) -> bool:
        return self.read is None


FORMATS = (
    Format("ofx", "OFX", looks_like_ofx, read_ofx, is_kept=has_investments),  # what it says of lots is for Holdings
    Format("camt", "camt", looks_like_camt, read_camt),
    Format("mt940", "MT940", looks_like_mt940, read_mt940),
    Format("letter", "letter", looks_like_letter),
    Format("csv", "CSV", _looks_like_text),
)
FORMAT_BY_KEY = {one.key: one for one in FORMATS}


def recognise(content: bytes) -> Format:
    """The format of a file. Raises: UnreadableFile for what is plainly something else."""
    return next(one for one in FORMATS if one.looks_like_it(content))
