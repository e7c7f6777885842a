"""What an attached file is, read in a process of its own: a hostile image or PDF takes that one down and nothing else.

Run as a script with the file on its standard input, it prints the media type, or "!" and what is wrong, on one line, and a small
picture as PNG after it. It imports nothing of Bolsa's, so that it starts at once and holds nothing of the household.
"""

import io
import resource
import sys

import pypdfium2
from PIL import Image, ImageOps, UnidentifiedImageError

MOST_PIXELS = 50_000_000  # a phone's largest picture; beyond it a small file unfolds into gigabytes
MOST_MEMORY = 2 * 1024 * 1024 * 1024  # bytes of addresses; the libraries themselves take a third of one
MOST_SECONDS = 10  # of a processor
THUMBNAIL = (240, 240)
TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp", "GIF": "image/gif"}
PDF = "application/pdf"


def main() -> None:
    """Reads the file and prints what it is."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    try:
        media_type, picture = picture_of(sys.stdin.buffer.read())
    except ValueError as error:
        media_type, picture = f"!{error}", b""
    except MemoryError:
        media_type, picture = "!That picture takes more memory than any photograph. Make it smaller first.", b""
    sys.stdout.buffer.write(media_type.encode() + b"\n" + picture)


def picture_of(content: bytes) -> tuple[str, bytes]:
    """The media type and a small picture as PNG. Raises: ValueError with what is wrong."""
    if content[:5] == b"%PDF-":
        return PDF, _picture_of_pdf(content)
    try:
        with Image.open(io.BytesIO(content), formats=list(TYPES)) as image:
            if image.width * image.height > MOST_PIXELS:
                raise _TooLargeError
            return TYPES[image.format or ""], _small(ImageOps.exif_transpose(image))
    except (_TooLargeError, Image.DecompressionBombError) as error:
        raise ValueError("That picture has more than 50 million points. Make it smaller first.") from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise ValueError("This is no image (JPEG, PNG, WebP, GIF) and no PDF, or it is damaged.") from error


class _TooLargeError(Exception):
    """A picture of more points than any camera takes."""


def _picture_of_pdf(content: bytes) -> bytes:
    try:
        document = pypdfium2.PdfDocument(content)
        try:
            page = document[0]
            scale = min(2.0, THUMBNAIL[0] / max(page.get_size()))
            return _small(page.render(scale=scale).to_pil())
        finally:
            document.close()
    except (pypdfium2.PdfiumError, IndexError, ValueError, ZeroDivisionError) as error:
        raise ValueError("The PDF is damaged, or locked with a password.") from error


def _small(image: Image.Image) -> bytes:
    small = image.convert("RGB")
    small.thumbnail(THUMBNAIL)
    out = io.BytesIO()
    small.save(out, "PNG")
    return out.getvalue()


if __name__ == "__main__":
    main()
