"""The demo household's file for tests: made once, before the processes of a run are forked, so that all of them have it."""

import tempfile
from contextlib import closing
from functools import cache
from pathlib import Path

from bolsa.demo.run import prepare_demo
from bolsa.services.house import files


@cache
def demo_file() -> bytes:
    """The file as it is first made; each test begins with a copy."""
    with tempfile.TemporaryDirectory() as folder:
        made, copy = Path(folder) / "made.bolsa", Path(folder) / "copy.bolsa"
        prepare_demo(made)
        with closing(files.make_file(made)) as db:
            db.execute("VACUUM INTO ?", (str(copy),))
        return copy.read_bytes()
