"""Which reader a file needs, by its content and never by its name."""

from bolsa.errors import UnreadableFile
from bolsa.formats.ofx import looks_like_ofx

MOST_SNIFFED = 4096


def kind_of_file(content: bytes) -> str:
    """ "ofx" or "csv". Raises: UnreadableFile for what is plainly something else."""
    head = content[:MOST_SNIFFED].replace(b"\x00", b"").lstrip(b"\xef\xbb\xbf\xff\xfe\r\n\t ")
    if looks_like_ofx(content):
        return "ofx"
    if head[:5].lower() == b"<?xml" or head[:1] == b"<":
        raise UnreadableFile("The file is XML, but not OFX: it has no <OFX> element.", line=1, found=head[:60].decode("latin-1"))
    return "csv"
