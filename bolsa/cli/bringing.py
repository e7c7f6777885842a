"""The command that brings files in: import. What a page would ask is answered by options, or refused."""

import argparse
import json
import sqlite3
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from bolsa.cli.common import Commands, household
from bolsa.core.accounts.account import AccountState
from bolsa.core.bringing.batch import ChangedHere
from bolsa.core.bringing.proof import Proof
from bolsa.core.holdings.trades import KIND_BY_KEY
from bolsa.core.known import known
from bolsa.core.money import decimal_text
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import BolsaError, InvalidInput
from bolsa.formats.csv_guess import CsvMapping
from bolsa.formats.csv_table import CsvTable
from bolsa.formats.dates import ORDERS
from bolsa.formats.table import recognise
from bolsa.formats.trades_guess import CASH, LEFT_OUT, TradeMapping
from bolsa.services.accounts import accounts
from bolsa.services.bringing import bringing_in, doubles
from bolsa.services.bringing.csv_files import HELD, ROWS, TRADES, read_csv_file
from bolsa.services.bringing.questions import Answers, Choice
from bolsa.services.bringing.uploads import bare_number
from bolsa.services.house import files
from bolsa.services.progress import silent

LEAVE = "leave"
COLUMN_ROLES = (
    "day", "value_day", "payee", "memo", "amount", "money_in", "money_out", "sign", "balance", "bank_ref", "currency", "number",
)  # fmt: skip
TO_HELP = f"the account a file calls NUMBER is NAME here, or “{LEAVE}”; those not named are found by number, or made"
TRADE_ROLES = (
    "day", "kind", "name", "code", "shares", "price", "total", "gross", "fee", "withheld", "cost", "basis_day", "currency",
    "number", "bank_ref", "memo",
)  # fmt: skip
COLUMNS_HELP = (
    f"what the columns of a CSV hold, as day=1,payee=Shop,amount=3; roles of a bank's rows: {', '.join(COLUMN_ROLES)}; of a"
    f" broker's table: {', '.join(TRADE_ROLES)}"
)
MEANS_HELP = "what a broker's word for what happened means: a kind of trade, “cash”, or “left out”"
OPTION_FOR = {"account": " Name it with --account.", "accounts": " Say it with --to.", "columns": " Say it with --columns."}


def enter(commands: Commands) -> None:
    """Enters the commands of this module."""
    importing = commands.add("import", run_import)
    importing.add_argument("files", nargs="+", type=Path, metavar="FILE", help="a file, or a folder whose files are all tried")
    importing.add_argument("--account", default="", metavar="NAME", help="where they go; without it each file says so itself")
    importing.add_argument("--to", action="append", default=[], metavar="NUMBER=NAME", help=TO_HELP)
    importing.add_argument("--columns", default="", metavar="COLUMNS", help=COLUMNS_HELP)
    importing.add_argument("--holds", choices=(ROWS, TRADES, HELD), default="", help="what a CSV holds; found out otherwise")
    importing.add_argument("--means", action="append", default=[], metavar="WORD=KIND", help=MEANS_HELP)
    importing.add_argument("--dates", choices=sorted(ORDERS), help="the order of day, month and year in a CSV")
    importing.add_argument("--decimal", choices=(".", ","), help="the decimal mark of a CSV")
    importing.add_argument("--flip", action=argparse.BooleanOptionalAction, default=None, help="turn every sign of a CSV, or not")
    importing.add_argument("--into-checked", action="store_true", help="bring rows into days that are checked already too")
    importing.add_argument("--asked", choices=("new", "here"), help="what rows are that may be here already and are asked about")
    importing.add_argument("--dry-run", action="store_true", help="say what would happen, and change nothing")
    importing.add_argument("--json", action="store_true", help="print one JSON object a file, a line each")
    duplicates = commands.add("duplicates", run_duplicates, as_json=True)
    duplicates.add_argument("--remove", action="store_true", help="move one of each two to the trash")


def run_duplicates(options: argparse.Namespace) -> None:
    """The bookings that stand twice, told by two files."""
    with household(options) as (db, by):
        found = doubles.list_doubles(db)
        done = doubles.take_out_doubles(db, by) if options.remove and any(not one.problem for one in found) else None
        if options.json:
            pairs = [
                {
                    "account": one.account.name, "amount": decimal_text(one.amount_minor, one.account.currency),
                    "stays": one.stays.id, "stays_from": one.stays_from, "goes": one.goes.id, "goes_from": one.goes_from,
                    "day": one.stays.day.isoformat(), "payee": one.stays.payee, "problem": one.problem,
                }
                for one in found
            ]  # fmt: skip
            removed = done.made if done else 0
            print(
                json.dumps({"duplicates": pairs, "removed": removed, "step": done.step_id if done else None}, ensure_ascii=False)
            )
            return
        for one in found:
            why = f" (left alone: {one.problem})" if one.problem else ""
            amount = Money(one.amount_minor, one.account.currency)
            print(f"{one.stays.day}  {amount!s:>14}  {one.stays.payee}: {one.stays_from} and {one.goes_from}{why}")
        print(done.sentence if done else f"{counted(len(found), 'booking')} here twice")


def run_import(options: argparse.Namespace) -> int:
    """Each file by itself: one that is refused leaves the others untouched."""
    failed = False
    with household(options) as (db, by):
        known = _answers(db, options)
        for path in files.list_uploads(options.files):
            said = {"file": str(path), "new": 0, "matched": 0, "known": 0, "refused": 0, "error": None, "differs": []}
            said |= {"changed_here": [], "asked": 0, "proof": []}
            try:
                content = files.read_upload(path)
                report = _say_progress if sys.stderr.isatty() else silent
                answers = replace(known, columns=_columns(db, content, options))
                done = bringing_in.import_file(db, by, path.name, content, answers, dry_run=options.dry_run, report=report)
                said |= {"new": done.new, "matched": done.matched, "known": done.known - done.asked, "asked": done.asked}
                said |= {"filed_by_rules": done.ruled}
                said |= {"warnings": list(done.warnings)}
                said |= {"step": done.step_id, "batch": done.batch_id or None}
                said |= {"share_moves": done.moves, "positions": done.positions}
                said["differs"] = [_difference(state) for state in done.differing]
                said["proof"] = [_proof(one) for one in done.proofs]
                said["changed_here"] = [_changed_here(db, one) for one in done.changed_here]
            except BolsaError as error:
                failed = True
                said |= {"refused": 1, "error": f"{error.sentence}{OPTION_FOR.get(error.field or '', '')}"}
            _print_import(said, options)
    return int(failed)


def _answers(db: sqlite3.Connection, options: argparse.Namespace) -> Answers:
    """The options that answer for every file of the call. Raises: InvalidInput."""
    choices = {}
    for said in options.to:
        number, separator, name = said.partition("=")
        if not separator or not name.strip():
            raise InvalidInput(f"“{said}” is not NUMBER=NAME.")
        here = name.strip()
        choices[bare_number(number)] = Choice("leave") if here == LEAVE else Choice("here", accounts.resolve_account(db, here).id)
    account_id = accounts.resolve_account(db, options.account).id if options.account else None
    asked = options.asked == "new" if options.asked else None
    more = {"flip": options.flip, "holds": options.holds, "into_checked": options.into_checked, "asked": asked}
    return Answers(account_id, choices, "new", **more)


def _columns(db: sqlite3.Connection, content: bytes, options: argparse.Namespace) -> CsvMapping | TradeMapping | None:
    """How a CSV is read, where options say so; the rest is as remembered or guessed. Raises: InvalidInput, UnreadableFile."""
    said = options.columns or options.dates or options.decimal or options.means
    if not said or not recognise(content).needs_mapping:
        return None
    reading = read_csv_file(db, content, holds=options.holds)
    mapping = reading.mapping
    changed: dict[str, Any] = {"date_order": options.dates or mapping.date_order}
    changed |= {"decimal_mark": options.decimal or mapping.decimal_mark}
    if isinstance(mapping, TradeMapping):
        changed |= {"kinds": {**mapping.kinds, **_meanings(options.means)}}
    if options.columns:
        roles = TRADE_ROLES if isinstance(mapping, TradeMapping) else COLUMN_ROLES
        changed |= dict.fromkeys(roles) | _roles(reading.table, mapping.header_line, options.columns, roles)
        changed |= {} if isinstance(mapping, TradeMapping) else {"more_memo": ()}
    return replace(mapping, **changed)


def _meanings(said: list[str]) -> dict[str, str]:
    """By word for what happened: what it means. Raises: InvalidInput."""
    meanings = {}
    for one in said:
        word, separator, kind = (part.strip() for part in one.rpartition("="))
        if not separator or kind not in (*KIND_BY_KEY, CASH, LEFT_OUT):
            raise InvalidInput(f"“{one}” is not WORD=KIND; kinds: {', '.join((*KIND_BY_KEY, CASH, LEFT_OUT))}.")
        meanings[word.casefold()] = kind
    return meanings


def _roles(table: CsvTable, header_line: int, said: str, known_roles: tuple[str, ...]) -> dict[str, int]:
    """By role: the column meant, by its head or by its number from 1. Raises: InvalidInput."""
    heads = next(([cell.strip().casefold() for cell in row.cells] for row in table.rows if row.line == header_line), [])
    roles = {}
    for part in said.split(","):
        role, _, column = (word.strip() for word in part.partition("="))
        if role not in known_roles:
            raise InvalidInput(f"“{role}” is not what a column can hold: {', '.join(known_roles)}.")
        if column.casefold() in heads:
            roles[role] = heads.index(column.casefold())
        elif column.isdecimal() and 1 <= int(column) <= table.width:
            roles[role] = int(column) - 1
        else:
            raise InvalidInput(f"The file has no column “{column}”; it has {table.width}.")
    return roles


def _say_progress(done: int, total: int, words: str) -> None:
    """How far a long import is, on one line of a terminal."""
    print(f"\r{words:<40}", end="" if done < total else "\r", file=sys.stderr, flush=True)


def _difference(state: AccountState) -> dict[str, str]:
    return {"account": state.account.name, "by": decimal_text(known(state.difference_minor), state.account.currency)}


def _proof(one: Proof) -> dict[str, Any]:
    """What a file declares for an account, what the account comes to with it, and what would explain the rest."""
    currency = one.account.currency
    declared, came, by = (decimal_text(n, currency) for n in (one.declared_minor, one.comes_to_minor, one.difference_minor))
    explained = [
        {
            "day": row.day.isoformat(), "amount": decimal_text(row.amount_minor, currency), "payee": row.payee,
            "reason": row.reason, "entry": row.entry_id,
        }
        for row in one.explained
    ]  # fmt: skip
    before = {"day": one.before[0].isoformat(), "by": decimal_text(one.before[1], currency)} if one.before else None
    account = {"account": one.account.name, "day": one.day.isoformat()}
    explained_by = {"explained": explained, "together": one.takes_both}
    return account | {"declared": declared, "comes_to": came, "by": by, "before": before} | explained_by


def _changed_here(db: sqlite3.Connection, one: ChangedHere) -> dict[str, str | int]:
    currency = accounts.get_account(db, one.account_id).currency
    bank, here = (decimal_text(minor, currency) for minor in (one.amount_minor, one.here_minor))
    days = {"day": one.here_day.isoformat(), "bank_day": one.day.isoformat()}
    return {"entry": one.entry_id, "payee": one.payee, "here": here, "bank": bank, **days}


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
        if said["asked"]:
            print(f"  {counted(said['asked'], 'row')} left out until you decide (--asked, --into-checked)")
        for one in said["changed_here"]:
            print(
                f"  {one['payee']} is here with {one['here']} on {one['day']}; the bank says {one['bank']} on {one['bank_day']}"
            )
        for one in said["differs"]:
            print(f"  {one['account']} differs from what its bank declares by {one['by']}; see Check")
        for row in (row for one in said["proof"] for row in one["explained"]):
            print(f"    {row['day']}  {row['amount']:>12}  {row['payee']} {row['reason']}")
