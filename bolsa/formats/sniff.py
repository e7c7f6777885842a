"""Which reader a file needs, by its content and never by its name; READERS is the table of those that need no mapping."""

from collections.abc import Callable

from bolsa.core.bringing.rows import BroughtStatement
from bolsa.errors import UnreadableFile
from bolsa.formats.camt import looks_like_camt, read_camt
from bolsa.formats.mt940 import looks_like_mt940, read_mt940
from bolsa.formats.ofx import looks_like_ofx, read_ofx

MOST_SNIFFED = 4096
READERS: dict[str, Callable[[bytes, str], list[BroughtStatement]]] = {"ofx": read_ofx, "camt": read_camt, "mt940": read_mt940}
_SIGNS = {"ofx": looks_like_ofx, "camt": looks_like_camt, "mt940": looks_like_mt940}


def kind_of_file(content: bytes) -> str:
    """The key of READERS, or "csv". Raises: UnreadableFile for what is plainly something else."""
    for kind, looks_like_it in _SIGNS.items():
        if looks_like_it(content):
            return kind
    head = content[:MOST_SNIFFED].replace(b"\x00", b"").lstrip(b"\xef\xbb\xbf\xff\xfe\r\n\t ")
    if head[:5].lower() == b"<?xml" or head[:1] == b"<":
        found = head[:60].decode("latin-1")
        raise UnreadableFile("The file is XML, but neither OFX nor camt.", line=1, found=found)
    return "csv"
