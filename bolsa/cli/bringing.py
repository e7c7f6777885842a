"""The command that brings files in: import. What a page would ask is answered by options, or refused."""

import argparse
import json
import sys
from pathlib import Path

from bolsa.cli.common import Commands, household
from bolsa.core.accounts.account import AccountState
from bolsa.core.money import decimal_text
from bolsa.errors import BolsaError
from bolsa.services.accounts import accounts
from bolsa.services.bringing import bringing_in
from bolsa.services.house import files
from bolsa.services.progress import silent


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    importing = commands.add("import", run_import)
    importing.add_argument("files", nargs="+", type=Path, metavar="FILE", help="a file, or a folder whose files are all tried")
    importing.add_argument("--account", default="", metavar="NAME", help="where they go; without it each file says so itself")
    importing.add_argument("--dry-run", action="store_true", help="say what would happen, and change nothing")
    importing.add_argument("--json", action="store_true", help="print one JSON object a file, a line each")


def run_import(options: argparse.Namespace) -> int:
    """Each file by itself: one that is refused leaves the others untouched."""
    failed = False
    with household(options) as (db, by):
        account_id = accounts.resolve_account(db, options.account).id if options.account else None
        for path in files.list_uploads(options.files):
            said = {"file": str(path), "new": 0, "matched": 0, "known": 0, "refused": 0, "error": None, "differs": []}
            try:
                content = files.read_upload(path)
                report = _say_progress if sys.stderr.isatty() else silent
                done = bringing_in.import_file(db, by, account_id, path.name, content, dry_run=options.dry_run, report=report)
                said |= {"new": done.new, "matched": done.matched, "known": done.known, "warnings": list(done.warnings)}
                said |= {"step": done.step_id, "batch": done.batch_id or None}
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
