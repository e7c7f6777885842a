"""The application for tests: as it is served, but its templates are compiled once a process instead of once a test."""

from contextlib import closing
from pathlib import Path
from typing import Any

from flask import Flask
from jinja2 import BytecodeCache
from jinja2.bccache import Bucket

from bolsa.services.house import files, open_files, sessions
from bolsa.services.house.open_files import OpenFiles
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
open_files.PATIENCE_MS = 20_000  # a busy machine takes its time


def point(app: Flask, path: Path) -> None:
    """Lets an application serve another household's file, as if it had been made for it: its routes are not compiled anew."""
    with closing(files.make_file(path)) as db:
        app.config["SECRET_KEY"] = sessions.secret_key(db)
    app.config["DATA_PATH"] = path
    app.extensions["open_files"].close()
    app.extensions["open_files"], app.extensions["jobs"] = OpenFiles(path), {}


_IDLE: list[Flask] = []


def borrow(path: Path, **services: Any) -> Flask:
    """The application as it is served, over a file, from those not in use: making its routes takes its time. Give it back."""
    app = _IDLE.pop() if _IDLE else an_app(path, testing=False)
    point(app, path)
    given = {"bank_url": "", "market_url": "", "mail_folder": None} | services
    app.config.update({name.upper(): value for name, value in given.items()})
    return app


def give_back(app: Flask) -> None:
    """Lets another test have the application."""
    app.extensions["open_files"].close()
    _IDLE.append(app)


def an_app(path: Path, *, testing: bool = True, **services: Any) -> Flask:
    """The application over a file, beside the stand-ins that are named."""
    app = create_app(path, testing=testing, **services)
    app.jinja_env.bytecode_cache = _COMPILED
    return app
