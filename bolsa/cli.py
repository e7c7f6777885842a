"""The command line: each command parses, calls one service, and prints."""

import argparse
import json
import sqlite3
import sys
from contextlib import closing
from datetime import date
from pathlib import Path

from bolsa import settings
from bolsa.core.accounts.account import KIND_BY_KEY, AccountState
from bolsa.core.amounts import parse_amount
from bolsa.core.money import decimal_text
from bolsa.errors import BolsaError, InvalidInput
from bolsa.services.accounts import accounts as account_service
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.bringing import bringing_in
from bolsa.services.clock import by_now
from bolsa.services.house import exports, files, households
from bolsa.services.house.households import Household
from bolsa.services.ledger import listing
from bolsa.services.progress import silent


def main(arguments: list[str] | None = None) -> int:
    """Runs one command; gives the exit code: 0 done, 1 refused or something does not hold, 2 wrongly called."""
    options = _parser().parse_args(arguments)
    try:
        return options.run(options) or 0
    except BolsaError as error:
        print(f"bolsa: {error.sentence}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 0
    except sqlite3.OperationalError as error:
        print(f"bolsa: the household's file cannot be used: {error}.", file=sys.stderr)
        return 1


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text}” is not a day. Write it like 2026-05-14.") from error


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="bolsa", description="Keep a household's money in order.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    data = argparse.ArgumentParser(add_help=False)
    data.add_argument("--data", type=Path, default=None, metavar="FILE", help="the household's file")

    def command(name: str, run, help_: str) -> argparse.ArgumentParser:
        one = commands.add_parser(name, help=help_, description=help_, parents=[data])
        one.set_defaults(run=run)
        return one

    demo = command("demo", run_demo, "Serve the demo household and the bank stand-in.")
    demo.add_argument("--fresh", action="store_true", help="begin the demo anew, forgetting what was done in it")
    demo.add_argument("--port", type=int, default=None, help="the port on loopback (0 takes a free one)")
    serve = command("serve", run_serve, "Serve a household's pages on loopback.")
    serve.add_argument("--host", default="127.0.0.1", help="a loopback address; others are refused until there is a sign-in")
    serve.add_argument("--port", type=int, default=None, help="the port (0 takes a free one)")
    init = command("init", run_init, "Make a new household.")
    init.add_argument("--currency", default="EUR", help="the home currency (default: EUR)")
    init.add_argument("--name", default="Our household", help="the household's name")
    init.add_argument("--member", action="append", default=[], metavar="NAME", help="a member; may be given several times")
    init.add_argument("--time-zone", default="UTC", help="such as Europe/Lisbon")
    account = command("account", run_account_add, "Add an account.")
    account.add_argument("action", choices=["add"])
    account.add_argument("name")
    account.add_argument("--kind", required=True, choices=list(KIND_BY_KEY))
    account.add_argument("--currency", default="")
    account.add_argument("--opening", default="0", metavar="AMOUNT", help="what it held on that day; a debt is negative")
    account.add_argument("--on", type=_day, default=None, metavar="DATE", help="the day of the opening balance")
    account.add_argument("--number", default="", help="the bank's identifier, by which a file finds its account")
    balances = command("balances", run_balances, "Print what every account holds.")
    balances.add_argument("--on", type=_day, default=None, metavar="DATE")
    balances.add_argument("--json", action="store_true")
    importing = command("import", run_import, "Bring in files (OFX, camt, MT940, CSV), or folders of them.")
    importing.add_argument("files", nargs="+", type=Path, metavar="FILE", help="a file, or a folder whose files are all tried")
    importing.add_argument("--account", default="", metavar="NAME", help="where they go; without it each file says so itself")
    importing.add_argument("--dry-run", action="store_true", help="say what would happen, and change nothing")
    importing.add_argument("--json", action="store_true", help="print one JSON object a file, a line each")
    entries = command("entries", run_entries, "Print the entries of an account.")
    entries.add_argument("--account", required=True, metavar="NAME")
    entries.add_argument("--from", dest="first", type=_day, default=None, metavar="DATE")
    entries.add_argument("--to", dest="last", type=_day, default=None, metavar="DATE")
    entries.add_argument("--json", action="store_true")
    command("check", run_check, "Check everything that must hold; exit 1 with the rows that break it.")
    export = command("export", run_export, "Write everything as CSV and JSON into a folder.")
    export.add_argument("folder", type=Path, metavar="DIR")
    backup = command("backup", run_backup, "Write everything into one file, and check it.")
    backup.add_argument("file", type=Path, metavar="FILE")
    restore = command("restore", run_restore, "Put a backup in the place of the household's file.")
    restore.add_argument("file", type=Path, metavar="FILE")
    bench = command("bench", run_bench, "Measure Bolsa against the least that does the same work.")
    bench.add_argument("--sizes", default="10000,100000,500000", help="how many entries, comma-separated")
    bench.add_argument("--json", action="store_true")
    return parser


def _path(options: argparse.Namespace) -> Path:
    return options.data or settings.data_path()


def _open(options: argparse.Namespace) -> sqlite3.Connection:
    return files.open_household(_path(options))


def run_demo(options: argparse.Namespace) -> None:
    from bolsa.demo.run import run_demo as run  # the demo needs the web, which scripts should not wait for

    run(options.data, fresh=options.fresh, port=options.port)


def run_serve(options: argparse.Namespace) -> None:
    from bolsa.web.serving import serve  # scripts should not wait for the web

    serve(_path(options), host=options.host, port=options.port)


def run_init(options: argparse.Namespace) -> None:
    path = _path(options)
    with closing(files.make_file(path)) as db:
        kept = Household(options.name, options.currency.upper(), options.time_zone, None)
        households.make_household(db, by_now(db), kept, options.member or ["Me"])
    print(f"Made the household “{options.name}” in {path}.")


def run_account_add(options: argparse.Namespace) -> None:
    with closing(_open(options)) as db:
        by = by_now(db)
        currency = options.currency.upper() or account_service.home_currency(db)
        opening = parse_amount(options.opening, currency, field="opening")
        new = NewAccount(options.name, options.kind, currency, opening, options.on, number=options.number)
        account_service.add_account(db, by, new)
    print(f"Added {options.name}: {decimal_text(opening, currency)} {currency} on {options.on or by.today}.")


def run_balances(options: argparse.Namespace) -> None:
    with closing(_open(options)) as db:
        found = listing.balances_on(db, options.on or by_now(db).today)
    if options.json:
        print(json.dumps([vars(b) | {"everyday": b.everyday} for b in found], ensure_ascii=False))
        return
    for b in found:
        print(f"{b.account:<30} {b.balance:>14} {b.currency}")


def run_import(options: argparse.Namespace) -> int:
    """Each file by itself: one that is refused leaves the others untouched."""
    failed = False
    with closing(_open(options)) as db:
        account_id = account_service.resolve_account(db, options.account).id if options.account else None
        for path in files.list_uploads(options.files):
            said = {"file": str(path), "new": 0, "matched": 0, "known": 0, "refused": 0, "error": None, "differs": []}
            try:
                content = files.read_upload(path)
                report = _say_progress if sys.stderr.isatty() else silent
                done = bringing_in.import_file(
                    db, by_now(db), account_id, path.name, content, dry_run=options.dry_run, report=report
                )
                said |= {"new": done.new, "matched": done.matched, "known": done.known, "warnings": list(done.warnings)}
                said |= {"share_moves": done.moves, "positions": done.positions}
                said["differs"] = [_difference(state) for state in done.differing]
            except BolsaError as error:
                failed = True
                said |= {"refused": 1, "error": error.sentence}
            _print_import(said, options)
    return int(failed)


def _say_progress(done: int, total: int, words: str) -> None:
    """How far a long import is, on one line of a terminal."""
    print(f"\r{words:<40}", end="" if done < total else "\r", file=sys.stderr, flush=True)


def _difference(state: AccountState) -> dict[str, str]:
    return {"account": state.account.name, "by": decimal_text(state.difference_minor, state.account.currency)}


def _print_import(said: dict, options: argparse.Namespace) -> None:
    if options.json:
        print(json.dumps(said, ensure_ascii=False), flush=True)
    elif said["error"]:
        print(f"bolsa: {said['file']}: {said['error']}", file=sys.stderr)
    else:
        would = "would bring " if options.dry_run else ""
        print(f"{said['file']}: {would}{said['new']} new, {said['matched']} matched, {said['known']} already here")
        if said["share_moves"] or said["positions"]:
            print(f"  shares: {said['share_moves']} new, {said['positions']} listed")
        for warning in said["warnings"]:
            print(f"  {warning}")
        for one in said["differs"]:
            print(f"  {one['account']} differs from what its bank declares by {one['by']}; see Check")


def run_entries(options: argparse.Namespace) -> None:
    with closing(_open(options)) as db:
        account = account_service.resolve_account(db, options.account)
        found = list(listing.entries_of(db, account, options.first, options.last))
    if options.json:
        print(json.dumps([vars(e) for e in found], ensure_ascii=False))
        return
    for e in found:
        print(f"{e.date}  {e.amount:>12}  {e.state:<10}  {e.payee} — {e.category}")


def run_check(options: argparse.Namespace) -> int:
    with closing(_open(options)) as db:
        breaches = listing.check(db)
    for breach in breaches:
        print(f"{breach.promise}: {breach.row}")
    print("Everything holds." if not breaches else f"{len(breaches)} rows break a promise.")
    return int(bool(breaches))


def run_export(options: argparse.Namespace) -> None:
    with closing(_open(options)) as db:
        for path in exports.export_all(db, options.folder):
            print(path)


def run_backup(options: argparse.Namespace) -> int:
    with closing(_open(options)) as db:
        breaches = exports.back_up(db, options.file)
    print(f"Wrote {options.file} and checked it: {'everything holds' if not breaches else 'something does not hold'}.")
    return int(bool(breaches))


def run_restore(options: argparse.Namespace) -> None:
    former = exports.restore(options.file, _path(options))
    print(f"Restored {options.file}." + (f" The former file is kept as {former}." if former else ""))


def run_bench(options: argparse.Namespace) -> None:
    from bolsa import bench  # scripts should not wait for it

    try:
        sizes = [int(size) for size in options.sizes.split(",")]
    except ValueError as error:
        raise InvalidInput("Sizes are whole numbers, such as 10000,100000.") from error
    bench.run(sizes, as_json=options.json)
