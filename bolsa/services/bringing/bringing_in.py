"""Bringing in: a batch in preview is written into the books, whole or not at all; and what was brought in before.

A file on its way: uploads.py. Its accounts and rows: staging.py, judging.py. The preview: previewing.py. What becomes of rows:
written_rows.py.
"""

import json
import sqlite3
from contextlib import suppress
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import AccountState
from bolsa.errors import Conflict, InvalidInput, UnreadableFile
from bolsa.formats.csv_read import read_csv
from bolsa.formats.ofx import has_investments
from bolsa.formats.sniff import kind_of_file
from bolsa.services.bringing import staging
from bolsa.services.bringing.csv_files import find_account_of_csv, read_csv_file, with_card_sign
from bolsa.services.bringing.judging import judge_again
from bolsa.services.bringing.staging import stage_found
from bolsa.services.bringing.uploads import (
    bare_number,
    insert_file_batch,
    list_shares,
    only_account,
    read_statements,
    require_waiting,
)
from bolsa.services.bringing.written_rows import write_rows
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.services.holdings import shares
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought, connections
from bolsa.store.bringing.brought import Batch, BatchCount
from bolsa.store.bringing.connections import Connection, RemoteAccount

CHUNK = 5000


@dataclass(frozen=True)
class Brought:
    """What a bringing-in did, in rows, moves of shares and declared positions; `warnings` are sentences about what was odd yet
    could be read, `shares_of` the accounts whose shares it speaks of, `differing` those that do
    not hold what their bank now says."""

    batch_id: int
    new: int = 0
    matched: int = 0
    known: int = 0
    changed: int = 0
    vanished: int = 0
    moves: int = 0
    positions: int = 0
    shares_of: tuple[int, ...] = ()
    warnings: tuple[str, ...] = ()
    differing: tuple[AccountState, ...] = ()
    step_id: int | None = None


def bring_in(db: sqlite3.Connection, by: By, batch_id: int, report: Report = silent, *, just_judged: bool = False) -> Done:
    """Writes what a waiting batch brings, in one transaction: all of it or none; makes a `Brought`. Raises: Conflict."""
    with note(db):  # one transaction: an account's number is remembered by a step of its own, before the batch's
        batch = require_waiting(db, batch_id)
        if batch.problem:
            raise Conflict(batch.problem)
        if not just_judged:  # what is here may have changed since the preview, whoever changed it
            judge_again(db, batch_id)
        counts = brought.count_verdicts(db, batch_id)
        _remember_numbers(db, by, batch, brought.get_format(db, batch_id))
        with change(db, by, batch_id=batch_id) as done:
            done.sentence = f"Brought in {counts['new']} new entries from “{batch.name}”"
            _write_all(db, by, batch_id, sum(counts.values()), report)
            invested = list_shares(db, batch) if brought.get_format(db, batch_id) != "csv" else []
            moves = sum(shares.write_shares(db, batch_id, account, found) for account, found in invested)
            brought.change_batch_state(db, batch_id, "brought", by.at)
            brought.remove_upload(db, batch_id, keep_containing=b"INVSTMTRS")
    positions = sum(len(found.positions) for _, found in invested)
    moved = {"moves": moves, "positions": positions, "shares_of": tuple(account.id for account, _ in invested)}
    done.made = Brought(batch_id, **counts, **moved, differing=_differing(db, batch_id), step_id=done.step_id)
    return done


def _write_all(db: sqlite3.Connection, by: By, batch_id: int, total: int, report: Report) -> None:
    after = count = 0
    while rows := brought.list_rows(db, batch_id, after_id=after, most=CHUNK):
        write_rows(db, batch_id, [row for row in rows if row.take], by.at)
        after, count = rows[-1].id, count + len(rows)
        report(count, total, f"{count:,} of {total:,} rows")


def _remember_numbers(db: sqlite3.Connection, by: By, batch: Batch, kind: str) -> None:
    """An account without a number takes the one its first file names, so that the next file finds it by itself."""
    numbers = json.loads(batch.mapping).get("numbers", {}) if kind != "csv" and batch.mapping else {}
    for account_id, number in numbers.items():
        account = accounts.get_account(db, int(account_id))
        if not account.number and accounts.find_account_named(db, number) is None:
            with change(db, by) as done:
                done.sentence = f"Remembered {number} as the number of {account.name}"
                accounts.change_account(db, replace(account, number=number))


def _differing(db: sqlite3.Connection, batch_id: int) -> tuple[AccountState, ...]:
    """The accounts of a batch that do not hold what the bank declares with it."""
    states = [accounts.get_account_state(db, id_) for id_ in brought.list_declared_accounts(db, batch_id)]
    return tuple(state for state in states if state.difference_minor)


def import_file(
    db: sqlite3.Connection,
    by: By,
    account_id: int | None,
    name: str,
    content: bytes,
    *,
    dry_run: bool = False,
    report: Report = silent,
) -> Brought:
    """Reads, judges and writes a file in one transaction, as the command line does; a dry run keeps nothing.

    Accounts that a file holds and nobody here knows are made. Raises: UnreadableFile, InvalidInput; nothing is kept then.
    """
    done = Brought(0)
    with suppress(_NothingKeptError), note(db):
        batch_id, warnings = _staged_whole(db, by, account_id, name, content, report)
        is_waiting = brought.get_batch(db, batch_id).state == "waiting"
        done = replace(
            bring_in(db, by, batch_id, report, just_judged=True).made if is_waiting else Brought(batch_id),
            warnings=tuple(warnings),
        )
        if dry_run:
            raise _NothingKeptError
    return done


def _staged_whole(
    db: sqlite3.Connection, by: By, account_id: int | None, name: str, content: bytes, report: Report
) -> tuple[int, list[str]]:
    """A batch that needs no more questions, and the sentences about what was odd."""
    chosen = accounts.get_account(db, account_id) if account_id else None
    kind = kind_of_file(content)
    if kind == "csv":
        reading = read_csv_file(db, content)
        if not reading.mapping.is_complete:
            raise UnreadableFile("The file is no table of entries: no line has a date and an amount.")
        account = chosen or find_account_of_csv(db, name, reading) or only_account(db)
        if account is None:
            raise InvalidInput("The file does not say which account it belongs to. Name it with --account.", field="account")
        reading = with_card_sign(reading, account)
        statement = read_csv(reading.table, reading.mapping, account.currency)
        batch_id = insert_file_batch(db, by, account, name, content, kind, reading.to_json())
        return batch_id, staging.stage(db, batch_id, [statement], {bare_number(statement.number): account}, kind, report)
    statements = read_statements(db, kind, content, chosen)
    found, warnings = [], []
    for one in staging.find_accounts(db, statements, chosen):
        account = one.account
        if account is None and chosen and not chosen.number and not accounts.has_lines(db, chosen.id):
            accounts.change_account(db, replace(chosen, number=one.number))  # the first of several goes where it was told
            account = chosen = accounts.get_account(db, chosen.id)
        elif account is None:
            with change(db, by) as made:
                account = staging.make_account(db, one, chosen, by.today)
                made.sentence = f"Added the account {account.name}, found in “{name}”"
            warnings.append(
                f"Made the account “{account.name}”, which the file holds{f' beside {chosen.name}' if chosen else ''}."
            )
        found.append(replace(one, account=account))
    batch_id = insert_file_batch(db, by, chosen, name, content, kind)
    if has_investments(content):
        brought.put_upload(db, batch_id, content)
    return batch_id, warnings + stage_found(db, batch_id, statements, found, kind, report)


class _NothingKeptError(Exception):
    """Ends a dry run: the transaction is rolled back."""


def has_anything_new(db: sqlite3.Connection, batch_id: int) -> bool:
    """Whether a batch would change anything."""
    counts = brought.count_verdicts(db, batch_id)
    return any(number for kind, number in counts.items() if kind != "known")


def keep_balances_only(db: sqlite3.Connection, batch_id: int) -> None:
    """Ends a download that brought nothing new: what the bank says the accounts hold is kept, the rows are not."""
    brought.remove_rows(db, batch_id)
    brought.change_batch_state(db, batch_id, "empty")


@dataclass(frozen=True)
class Overview:
    """What the page of bringing in shows: connections with the accounts they know, batches in preview, and those brought in
    or taken out again, latest first, with what each brought."""

    connections: tuple[tuple[Connection, tuple[RemoteAccount, ...]], ...]
    waiting: tuple[Batch, ...]
    before: tuple[BatchCount, ...]


def overview(db: sqlite3.Connection) -> Overview:
    """What is connected, waiting, and brought in before."""
    return Overview(
        tuple((c, tuple(connections.list_remote_accounts(db, c.id))) for c in connections.list_connections(db)),
        tuple(brought.list_batches(db, "waiting")),
        tuple(brought.list_history(db)),
    )


def list_waiting(db: sqlite3.Connection) -> list[Batch]:
    """The batches in preview."""
    return brought.list_batches(db, "waiting")
