"""What every command shares: its options, opening the household, days, months and names as typed, and saying what was done."""

import argparse
import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from datetime import date
from pathlib import Path

from bolsa import settings
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done
from bolsa.services.clock import By, by_now
from bolsa.services.house import files

Run = Callable[[argparse.Namespace], int | None]


class Commands:
    """Where modules enter their commands: each takes --data, and --json where it says so. `words` say what each does."""

    def __init__(self, parsers: "argparse._SubParsersAction[argparse.ArgumentParser]", words: dict[str, str]):
        self._parsers, self._words = parsers, words

    def add(self, name: str, run: Run, help_: str = "", *, as_json: bool = False) -> argparse.ArgumentParser:
        """A command run by a function of its options."""
        words = help_ or self._words[name]
        one = self._parsers.add_parser(name, help=words, description=words)
        self.set_up(one, run, as_json=as_json)
        return one

    def group(self, name: str) -> "Commands":
        """A word with commands of its own, such as `account add`."""
        one = self._parsers.add_parser(name, help=self._words[name], description=self._words[name])
        return Commands(one.add_subparsers(dest="action", required=True, metavar="ACTION"), {})

    @staticmethod
    def set_up(one: argparse.ArgumentParser, run: Run, *, as_json: bool) -> None:
        one.set_defaults(run=run)
        one.add_argument("--data", type=Path, default=None, metavar="FILE", help="the household's file")
        if as_json:
            one.add_argument("--json", action="store_true", help="print JSON, amounts as exact decimal text")


def a_day(text: str) -> date:
    """A day as an option names it."""
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text}” is not a day. Write it like 2026-05-14.") from error


def a_month(text: str) -> Month:
    """A month as an option names it."""
    try:
        return Month.parse(text)
    except InvalidInput as error:
        raise argparse.ArgumentTypeError(error.sentence) from error


def path_of(options: argparse.Namespace) -> Path:
    """The household's file: the one named, else the setting's."""
    return options.data or settings.data_path()


@contextmanager
def household(options: argparse.Namespace) -> Iterator[tuple[sqlite3.Connection, By]]:
    """The household that is there, and who does something in it now."""
    with closing(files.open_household(path_of(options))) as db:
        yield db, by_now(db)


def say(options: argparse.Namespace, done: Done, **made: object) -> None:
    """Prints what a change did: its sentence, or as JSON the sentence, the step and what it made."""
    if options.json:
        print(json.dumps({"step": done.step_id, "sentence": done.sentence, **made}, ensure_ascii=False))
    elif done.step_id is None:
        print("Nothing had to be changed.")
    else:
        also = "".join(f" {name} {value}." for name, value in made.items())
        print(f"{done.sentence}.{also} Step {done.step_id}.")


def show(options: argparse.Namespace, value: object, lines: Iterator[str]) -> None:
    """Prints a value as JSON, or in lines for reading."""
    if options.json:
        print(json.dumps(value, ensure_ascii=False))
        return
    for line in lines:
        print(line)
