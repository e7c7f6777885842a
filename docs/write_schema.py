"""Writes docs/whole.schema.json: the JSON Schema of what `bolsa export` writes as whole.json."""

import json
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory

from bolsa.services.house.export_schema import schema_of
from bolsa.store.connection import open_database
from bolsa.store.migrate import migrate

PATH = Path(__file__).with_name("whole.schema.json")


def schema_text() -> str:
    """The schema of this Bolsa's own files, as the document holds it."""
    with TemporaryDirectory() as folder, closing(open_database(Path(folder) / "a.bolsa")) as db:
        migrate(db)
        return json.dumps(schema_of(db), ensure_ascii=False, indent=1) + "\n"


if __name__ == "__main__":
    PATH.write_text(schema_text(), encoding="utf-8")
