"""Commands about the household's file: init, day, check, steps, undo, export, backup, restore."""

import argparse
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from bolsa.cli.common import Commands, a_day, household, path_of, say, show
from bolsa.errors import UnreadableFile
from bolsa.services import changes
from bolsa.services.clock import by_now
from bolsa.services.house import backups, exports, files, households, whole
from bolsa.services.house.households import Household
from bolsa.services.ledger import listing


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    init = commands.add("init", run_init)
    init.add_argument("--currency", default="EUR", help="the home currency (default: EUR)")
    init.add_argument("--name", default="Our household", help="the household's name")
    init.add_argument("--member", action="append", default=[], metavar="NAME", help="a member; may be given several times")
    init.add_argument("--time-zone", default="UTC", help="such as Europe/Lisbon")
    init.add_argument("--from", dest="source", type=Path, default=None, metavar="DIR", help="bring in what “export” wrote there")
    init.add_argument("--day", type=a_day, default=None, metavar="DAY", help="set its clock to a day, for trials and tests")
    day = commands.add("day", run_day, as_json=True)
    which = day.add_mutually_exclusive_group(required=True)
    which.add_argument("day", nargs="?", type=a_day, metavar="DAY")
    which.add_argument("--machine", action="store_true", help="let it follow the machine's clock again")
    commands.add("check", run_check, as_json=True)
    steps = commands.add("steps", run_steps, as_json=True)
    steps.add_argument("--last", type=int, default=20, metavar="N", help="how many (default: 20)")
    undo = commands.add("undo", run_undo, as_json=True)
    undo.add_argument("step", type=int, metavar="STEP")
    undo.add_argument("--with-later", action="store_true", help="undo what changed the same things later as well, as one step")
    export = commands.add("export", run_export)
    export.add_argument("folder", type=Path, metavar="DIR")
    backup = commands.add("backup", run_backup)
    backup.add_argument("file", type=Path, metavar="FILE")
    restore = commands.add("restore", run_restore)
    restore.add_argument("file", type=Path, metavar="FILE")


def run_init(options: argparse.Namespace) -> None:
    path = path_of(options)
    if options.source is not None:
        whole.bring_whole(options.source, path)
        print(f"Brought the household of {options.source} into {path}.")
        return
    with closing(files.make_file(path)) as db:
        kept = Household(options.name, options.currency.upper(), options.time_zone, options.day)
        households.make_household(db, by_now(db), kept, options.member or ["Me"])
    print(f"Made the household “{options.name}” in {path}.")


def run_day(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        say(options, households.set_day(db, by, options.day))


def run_check(options: argparse.Namespace) -> int:
    sealed = backups.check_sealed(path_of(options))
    try:
        if sealed is None:
            with household(options) as (db, _):
                breaches = listing.check(db)
        else:
            breaches = sealed
    except (UnreadableFile, sqlite3.DatabaseError):
        breaches = backups.list_damage(path_of(options))  # so damaged that it cannot be opened as a household
        if not breaches:
            raise

    def lines() -> Iterator[str]:
        yield from (f"{breach.promise}: {breach.row}" for breach in breaches)
        yield "Everything holds." if not breaches else f"{len(breaches)} rows break a promise."

    show(options, {"holds": not breaches, "breaches": [vars(breach) for breach in breaches]}, lines())
    return int(bool(breaches))


def run_steps(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        found = changes.list_steps(db, most=max(1, options.last))
    told = [
        {
            "id": s.id,
            "sentence": s.sentence,
            "who": s.member,
            "when": s.at,
            "undone": s.undone_by is not None,
            "batch": s.batch_id,
        }
        for s in found
    ]
    show(options, told, (f"{s.id:>6}  {s.at}  {s.sentence}{' (undone)' if s.undone_by else ''}" for s in found))


def run_undo(options: argparse.Namespace) -> None:
    with household(options) as (db, by):
        done = (changes.undo_with_later if options.with_later else changes.undo_step)(db, by, options.step)
    say(options, done)


def run_export(options: argparse.Namespace) -> None:
    with household(options) as (db, _):
        for path in exports.export_all(db, options.folder):
            print(path)


def run_backup(options: argparse.Namespace) -> int:
    with household(options) as (db, _):
        breaches = backups.back_up(db, options.file)
    print(f"Wrote {options.file} and checked it: {'everything holds' if not breaches else 'something does not hold'}.")
    return int(bool(breaches))


def run_restore(options: argparse.Namespace) -> None:
    former = backups.restore(options.file, path_of(options))
    print(f"Restored {options.file}." + (f" The former file is kept as {former}." if former else ""))
