"""The application for tests: as it is served, but its templates are compiled once a process instead of once a test."""

from pathlib import Path
from typing import Any

from flask import Flask
from jinja2 import BytecodeCache
from jinja2.bccache import Bucket

from bolsa.web.app import create_app


class _InMemory(BytecodeCache):
    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}

    def load_bytecode(self, bucket: Bucket) -> None:
        if bucket.key in self.kept:
            bucket.bytecode_from_string(self.kept[bucket.key])

    def dump_bytecode(self, bucket: Bucket) -> None:
        self.kept[bucket.key] = bucket.bytecode_to_string()


_COMPILED = _InMemory()


def an_app(path: Path, *, testing: bool = True, **services: Any) -> Flask:
    """The application over a file, beside the stand-ins that are named."""
    app = create_app(path, testing=testing, **services)
    app.jinja_env.bytecode_cache = _COMPILED
    return app
