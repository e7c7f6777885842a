"""Bringing in: a batch in preview is written into the books, whole or not at all; and what was brought in before.

How a file takes its way into preview, and what it asks: taking_in.py. The preview: previewing.py. What becomes of rows:
written_rows.py.
"""

import sqlite3
from contextlib import suppress
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import AccountState
from bolsa.core.bringing.batch import DAYS_UNSAID, Batch, BatchCount, ChangedHere, Connection, RemoteAccount
from bolsa.core.bringing.proof import Proof
from bolsa.errors import Conflict, InvalidInput
from bolsa.formats.table import FORMAT_BY_KEY
from bolsa.services.accounts import openings
from bolsa.services.bringing import previewing
from bolsa.services.bringing.csv_files import doubts_of
from bolsa.services.bringing.judging import judge_again
from bolsa.services.bringing.proving import list_proofs
from bolsa.services.bringing.questions import Answers, Question
from bolsa.services.bringing.taking_in import take_in
from bolsa.services.bringing.uploads import require_waiting
from bolsa.services.bringing.written_rows import write_rows
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.services.holdings import bringing as share_bringing
from bolsa.services.progress import Report, silent
from bolsa.services.sorting.rule_running import run_on_batch
from bolsa.store import journal
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, brought_shares, connections

CHUNK = 5000


@dataclass(frozen=True)
class Brought:
    """What a bringing-in did, in rows, trades and declared positions; `warnings` are sentences about what was odd yet
    could be read, `shares_of` the accounts whose shares it speaks of, `differing` those that do
    not hold what their bank now says, `changed_here` the rows whose entries were changed here since, `proofs` what the file
    declares beside what its accounts come to with it."""

    batch_id: int
    new: int = 0
    matched: int = 0
    known: int = 0
    changed: int = 0
    vanished: int = 0
    left_out: int = 0  # of those known, by the user's own decision
    asked: int = 0  # left out until someone decides: their days are checked already, or they may be here
    moves: int = 0
    positions: int = 0
    shares_of: tuple[int, ...] = ()
    warnings: tuple[str, ...] = ()
    differing: tuple[AccountState, ...] = ()
    changed_here: tuple[ChangedHere, ...] = ()
    proofs: tuple[Proof, ...] = ()
    step_id: int | None = None
    ruled: int = 0  # entries that rules filed
    touched_by_rules: int = 0  # and those they changed in any way


def bring_in(db: sqlite3.Connection, by: By, batch_id: int, report: Report = silent, *, just_judged: bool = False) -> Done:
    """Writes what a waiting batch brings, in one transaction: all of it or none; makes a `Brought`. Raises: Conflict."""
    with note(db):  # one transaction: an account's number is remembered by a step of its own, before the batch's
        batch = require_waiting(db, batch_id)
        if batch.asks:
            raise Conflict(Question(batch.asks, batch.problem).sentence)
        if not just_judged:  # what is here may have changed since the preview, whoever changed it
            judge_again(db, batch_id)
        counts = brought.count_verdicts(db, batch_id)
        changed_here = tuple(brought.list_changed_here(db, batch_id, DAYS_UNSAID))
        proofs = tuple(list_proofs(db, batch_id))
        _remember_numbers(db, by, batch_id)
        with change(db, by, batch_id=batch_id) as done:
            done.sentence = f"Brought in {counts['new']} new entries from “{batch.name}”"
            with journal.set_aside(db, sum(counts.values())):
                _write_all(db, by, batch_id, sum(counts.values()), report)
            ran = run_on_batch(db, by, batch_id)
            openings.take_from_bank(db, batch_id)
            invested = brought_shares.list_shares(db, batch_id)
            moves = sum(
                share_bringing.write_shares(db, batch_id, accounts.get_account(db, id_), said) for id_, said in invested.items()
            )
            batches.change_batch_state(db, batch_id, "brought", by.at)
            _forget_upload(db, batch_id)
    positions = sum(len(said.positions) for said in invested.values())
    done.made = Brought(
        batch_id, moves=moves, positions=positions, shares_of=tuple(invested), differing=_differing(db, batch_id),
        step_id=done.step_id, new=counts["new"], matched=counts["matched"], known=counts["known"], changed=counts["changed"],
        vanished=counts["vanished"], left_out=brought.count_left_out(db, batch_id),
        asked=sum(brought.count_asked(db, batch_id)), changed_here=changed_here,
        proofs=proofs, ruled=ran.filed, touched_by_rules=ran.changed,
    )  # fmt: skip
    return done


def _forget_upload(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets the file, unless its format says that another page will need it."""
    content = batches.find_upload(db, batch_id)
    if content is not None and not FORMAT_BY_KEY[batches.get_format(db, batch_id)].is_kept(content):
        batches.remove_upload(db, batch_id)


def _write_all(db: sqlite3.Connection, by: By, batch_id: int, total: int, report: Report) -> None:
    after = count = 0
    while rows := brought.list_rows(db, batch_id, after_id=after, most=CHUNK):
        write_rows(db, batch_id, [row for row in rows if row.take], by.at)
        after, count = rows[-1].id, count + len(rows)
        report(count, total, f"{count:,} of {total:,} rows")


def _remember_numbers(db: sqlite3.Connection, by: By, batch_id: int) -> None:
    """An account without a number takes the one its first file names, so that the next file finds it by itself."""
    for one in batches.list_batch_accounts(db, batch_id):
        account = accounts.get_account(db, one.account_id) if one.account_id and one.number else None
        if account and not account.number and accounts.find_account_named(db, one.number) is None:
            with change(db, by) as done:
                done.sentence = f"Remembered {one.number} as the number of {account.name}"
                accounts.change_account(db, replace(account, number=one.number))


def _differing(db: sqlite3.Connection, batch_id: int) -> tuple[AccountState, ...]:
    """The accounts of a batch that do not hold what the bank declares with it."""
    states = [accounts.get_account_state(db, id_) for id_ in batches.list_declared_accounts(db, batch_id)]
    return tuple(state for state in states if state.difference_minor)


def import_file(
    db: sqlite3.Connection,
    by: By,
    name: str,
    content: bytes,
    answers: Answers,
    *,
    dry_run: bool = False,
    report: Report = silent,
) -> Brought:
    """Takes a file in and brings it in, in one transaction, as the command line does; a dry run keeps nothing.

    Raises: UnreadableFile; InvalidInput, also for what the answers leave open (`field` is what the question asks); nothing is
    kept then.
    """
    done = Brought(0)
    with suppress(_NothingKeptError), note(db):
        taken = take_in(db, by, name, content, answers, report)
        if taken.question:
            raise InvalidInput(taken.question.sentence, field=taken.question.asks)
        batch = batches.get_batch(db, taken.batch_id)
        if answers.into_checked:
            previewing.decide_asked(db, taken.batch_id, take=True)
        if answers.asked is not None:
            previewing.decide_asked(db, taken.batch_id, take=answers.asked, checked=False)
        warnings = (doubts_of(batch.mapping) if batch.mapping else ()) + batch.warnings
        done = replace(bring_in(db, by, taken.batch_id, report, just_judged=True).made, warnings=warnings)
        if dry_run:
            raise _NothingKeptError
    return done


class _NothingKeptError(Exception):
    """Ends a dry run: the transaction is rolled back."""


def has_anything_new(db: sqlite3.Connection, batch_id: int) -> bool:
    """Whether a batch would change anything, or asks about something."""
    counts = brought.count_verdicts(db, batch_id)
    return any(number for kind, number in counts.items() if kind != "known") or brought.is_newly_asked(db, batch_id)


def keep_balances_only(db: sqlite3.Connection, batch_id: int) -> None:
    """Ends a download that brought nothing new: what the bank says the accounts hold is kept, the rows are not."""
    brought.remove_rows(db, batch_id)
    batches.change_batch_state(db, batch_id, "empty")


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
        tuple(batches.list_batches(db, "waiting")),
        tuple(batches.list_history(db)),
    )


def list_waiting(db: sqlite3.Connection) -> list[Batch]:
    """The batches in preview."""
    return batches.list_batches(db, "waiting")
