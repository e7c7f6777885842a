"""Whether the committed stylesheet is the one its inputs make: a digest of the inputs stands beside it."""

import hashlib
import sys
from pathlib import Path

WEB = Path(__file__).parents[2] / "bolsa" / "web"
DIGEST = WEB / "styles" / "inputs.sha256"


def digest_of_inputs() -> str:
    """A digest of everything the stylesheet is made from: styles, templates, scripts, the pinned builder, and the result."""
    inputs = sorted(
        [*WEB.glob("styles/*.css"), *WEB.rglob("*.html"), *(p for p in WEB.rglob("static/**/*.js") if "vendor" not in p.parts)],
        key=lambda p: p.as_posix(),
    )
    digest = hashlib.sha256()
    for path in [*inputs, WEB.parents[1] / "package-lock.json", WEB / "static" / "bolsa.css"]:
        digest.update(path.relative_to(WEB.parents[1]).as_posix().encode() + b"\0" + path.read_bytes() + b"\0")
    return digest.hexdigest()


if __name__ == "__main__" and "--write" in sys.argv:
    DIGEST.write_text(digest_of_inputs() + "\n")
