"""Bringing in: from the bytes of a file to a batch in preview, and from there into the books, whole or not at all.

Which account a file speaks of and what its rows are: staging.py. What becomes of the rows: written_rows.py.
"""

import hashlib
import json
import sqlite3
from contextlib import suppress
from dataclasses import dataclass, replace

from bolsa.core.accounts import Account, AccountState
from bolsa.core.bringing import BroughtShares, BroughtStatement
from bolsa.core.matching import Verdict
from bolsa.errors import Conflict, InvalidInput, UnreadableFile
from bolsa.formats.csv_guess import CsvMapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.ofx import has_investments
from bolsa.formats.sniff import READERS, kind_of_file
from bolsa.services import shares, staging
from bolsa.services.clock import By
from bolsa.services.csv_files import CsvReading, find_account_of_csv, read_csv_file, with_card_sign
from bolsa.services.progress import Report, silent
from bolsa.services.settling import settle
from bolsa.services.shares import SharesToBring
from bolsa.services.staging import FoundAccount, bare_number
from bolsa.services.written_rows import write_rows
from bolsa.store import accounts, brought, connections, household, journal, merging
from bolsa.store.brought import OVERRULED, Batch, BatchCount, StoredRow
from bolsa.store.connection import atomic, attempt
from bolsa.store.connections import Connection, RemoteAccount

CHUNK = 5000
CHOOSE = "Say which account here each of these is."


@dataclass(frozen=True)
class Preview:
    """A batch, its rows, how many are "new", "matched", "known", "changed" and "vanished", and, of a waiting file, how its CSV
    is read, which of its accounts nobody here knows, and what it says of shares."""

    batch: Batch
    rows: tuple[StoredRow, ...]
    counts: dict[str, int]
    csv: CsvReading | None
    found: tuple[FoundAccount, ...]
    left_out: int  # of those counted as known, by the user's own decision
    shares: tuple[SharesToBring, ...] = ()

    @property
    def already_here(self) -> int:
        return self.counts["known"] - self.left_out

    @property
    def to_bring(self) -> int:
        moved = sum(len(one.new) + len(one.brought.positions) for one in self.shares)
        return sum(self.counts.values()) - self.counts["known"] + moved


@dataclass(frozen=True)
class Brought:
    """What a bringing-in did, in rows, moves of shares and declared positions; `warnings` are sentences about what was odd yet
    could be read, `differing` the accounts that do not hold what their bank now says."""

    batch_id: int
    new: int = 0
    matched: int = 0
    known: int = 0
    changed: int = 0
    vanished: int = 0
    moves: int = 0
    positions: int = 0
    warnings: tuple[str, ...] = ()
    differing: tuple[AccountState, ...] = ()
    step_id: int | None = None


def preview_file(
    db: sqlite3.Connection, by: By, account_id: int | None, name: str, content: bytes, report: Report = silent
) -> int:
    """Keeps a file as a waiting batch with a verdict a row; gives the batch's id.

    Without an account the file says itself where it belongs. A CSV whose columns cannot be told, and a file with accounts
    nobody here knows, are kept without rows: the preview asks. Raises: UnreadableFile, InvalidInput.
    """
    chosen = accounts.get_account(db, account_id) if account_id else None
    kind = kind_of_file(content)
    report(0, 0, "Reading the file")
    if kind == "csv":
        return _preview_csv(db, by, chosen, name, content)
    statements = _read(db, kind, content, chosen)
    only = _only_account(db)
    found = staging.find_accounts(db, statements, chosen or (only if only and not only.number else None))
    rows = sum(one.rows for one in found)
    report(0, rows, f"Comparing {rows:,} rows with what is here")
    with atomic(db):
        batch_id = _insert_file_batch(db, by, chosen, name, content, kind)
        is_known = all(one.account for one in found)
        if not is_known or has_investments(content):
            brought.put_upload(db, batch_id, content)
        if is_known:
            _stage_found(db, batch_id, statements, found, kind)
        else:
            brought.change_batch_mapping(db, batch_id, "", CHOOSE)
    return batch_id


def _read(db: sqlite3.Connection, kind: str, content: bytes, chosen: Account | None) -> list[BroughtStatement]:
    return READERS[kind](content, chosen.currency if chosen else household.get_household(db).home_currency)


def _preview_csv(db: sqlite3.Connection, by: By, chosen: Account | None, name: str, content: bytes) -> int:
    reading = read_csv_file(db, content)
    account = chosen or find_account_of_csv(db, name, reading) or _only_account(db)
    if account is None:
        raise InvalidInput("This file does not say which account it belongs to. Choose the account.", field="account_id")
    with atomic(db):
        reading = with_card_sign(reading, account)
        batch_id = _insert_file_batch(db, by, account, name, content, "csv", reading.mapping.to_json())
        brought.put_upload(db, batch_id, content)
        _stage_csv(db, batch_id, account, reading)
    return batch_id


def _only_account(db: sqlite3.Connection) -> Account | None:
    """The household's account, if it has just one that is open."""
    open_ones = [account for account in accounts.list_accounts(db) if account.closed_on is None]
    return open_ones[0] if len(open_ones) == 1 else None


def _insert_file_batch(
    db: sqlite3.Connection, by: By, account: Account | None, name: str, content: bytes, kind: str, mapping: str = ""
) -> int:
    digest = hashlib.sha256(content).hexdigest()
    account_id = account.id if account else None
    return brought.insert_batch(
        db, "file", clean_name(name), by.at, format_=kind, sha256=digest, account_id=account_id, mapping=mapping
    )


def _stage_found(
    db: sqlite3.Connection, batch_id: int, statements: list[BroughtStatement], found: list[FoundAccount], kind: str
) -> list[str]:
    """Stages a file whose accounts are known; remembers which number is whose until it is brought in."""
    targets = {one.number: one.account for one in found if one.account}
    warnings = [
        f"The file names the account {number}; it is brought to {account.name}, as you chose."
        for number, account in targets.items()
        if number and account.number and account.number != number
    ]
    warnings += staging.stage(db, batch_id, statements, targets, kind)
    numbers = {str(account.id): number for number, account in targets.items() if number and not account.number}
    invested = {bare_number(s.number): targets.get(bare_number(s.number)) for s in statements if s.shares}
    for account in invested.values():
        if account and not shares.may_hold_shares(account):
            warnings.append(f"{account.name} is of a kind that holds no shares; those in the file are not brought to it.")
    holding = {number: account.id for number, account in invested.items() if account and shares.may_hold_shares(account)}
    kept = {"numbers": numbers, "shares": holding}
    brought.put_warnings(db, batch_id, warnings)
    brought.change_batch_mapping(db, batch_id, json.dumps(kept) if numbers or holding else "", "")
    return warnings


def _list_shares(db: sqlite3.Connection, batch: Batch) -> list[tuple[Account, BroughtShares]]:
    """What a batch's file says of shares, with the account each investment statement goes to; read anew from the file."""
    holding = json.loads(batch.mapping).get("shares", {}) if batch.mapping else {}
    if not holding:
        return []
    statements = _read(db, brought.get_format(db, batch.id), brought.get_upload(db, batch.id), None)
    return [
        (accounts.get_account(db, holding[bare_number(s.number)]), s.shares)
        for s in statements
        if s.shares and bare_number(s.number) in holding
    ]


def _stage_csv(db: sqlite3.Connection, batch_id: int, account: Account, reading: CsvReading) -> str:
    """Stages a CSV as it is read; gives why it cannot be read that way, "" if it can."""
    problem = ""
    try:
        with attempt(db):
            statement = read_csv(reading.table, reading.mapping, account.currency)
            warnings = staging.stage(db, batch_id, [statement], {bare_number(statement.number): account}, "csv")
            brought.put_warnings(db, batch_id, warnings)
    except (InvalidInput, UnreadableFile) as error:
        problem = error.sentence
    brought.change_batch_mapping(db, batch_id, reading.mapping.to_json(), problem)
    return problem


def change_mapping(db: sqlite3.Connection, by: By, batch_id: int, mapping: CsvMapping) -> None:
    """Reads a waiting CSV anew by another mapping, and remembers it for files of this shape if it can be read so."""
    batch = _require_waiting(db, batch_id)
    account = accounts.get_account(db, batch.account_id)
    reading = read_csv_file(db, brought.get_upload(db, batch_id), mapping.to_json())
    with atomic(db):
        brought.remove_rows(db, batch_id)
        brought.remove_bank_balances(db, batch_id)
        if not _stage_csv(db, batch_id, account, reading):
            with journal.step(db, f"Remembered how files like “{batch.name}” are read", by.at, by.member_id):
                brought.put_mapping(db, reading.shape, mapping.to_json())


@dataclass(frozen=True)
class Choice:
    """What the user says of one account of a file: "leave" it out, a "new" account of a name and kind, or one that is here."""

    what: str
    account_id: int | None = None
    name: str = ""
    kind: str = ""


def choose_accounts(db: sqlite3.Connection, by: By, batch_id: int, choices: dict[str, Choice]) -> None:
    """Stages a waiting file whose accounts were not all known, each where the user says; new accounts are made at once.

    `choices` are by the number in the file. Raises: InvalidInput; nothing is made then.
    """
    batch = _require_waiting(db, batch_id)
    kind = brought.get_format(db, batch_id)
    statements = _read(db, kind, brought.get_upload(db, batch_id), None)
    found = []
    with atomic(db):
        for one in staging.find_accounts(db, statements, None):
            choice = choices.get(one.number, Choice("leave"))
            account = None
            if choice.what == "new":
                with journal.step(db, f"Added the account {choice.name}, found in “{batch.name}”", by.at, by.member_id):
                    account = staging.make_account(db, staging.as_kind(one, choice.kind), None, choice.name.strip())
            elif choice.what == "here":
                account = accounts.get_account(db, choice.account_id)
            found.append(replace(one, account=account))
        if not any(one.account for one in found):
            raise InvalidInput("Choose at least one account, or put the file aside.", field="account")
        _stage_found(db, batch_id, statements, found, kind)


def stage_download(db: sqlite3.Connection, by: By, name: str, found: list[tuple[Account, BroughtStatement]]) -> int:
    """Keeps what a connection downloaded as a waiting batch; gives its id."""
    with atomic(db):
        batch_id = brought.insert_batch(db, "connection", name, by.at)
        for account, statement in found:
            staging.stage_statements(db, batch_id, account, [statement], "ofx")
    return batch_id


def get_preview(db: sqlite3.Connection, batch_id: int, most: int = 300) -> Preview:
    """A batch with its first rows. Raises: NotFound."""
    batch = brought.get_batch(db, batch_id)
    reading, found = None, ()
    kind = brought.get_format(db, batch_id)
    if batch.state == "waiting" and kind == "csv":
        reading = read_csv_file(db, brought.get_upload(db, batch_id), batch.mapping)
    elif batch.state == "waiting" and batch.problem == CHOOSE:
        statements = _read(db, kind, brought.get_upload(db, batch_id), None)
        found = tuple(staging.find_accounts(db, statements, None))
    rows = tuple(brought.list_rows_to_show(db, batch_id, most))
    counts = brought.count_verdicts(db, batch_id)
    waits = batch.state == "waiting" and kind != "csv" and not batch.problem
    invested = tuple(shares.sort_out(db, *one) for one in _list_shares(db, batch)) if waits else ()
    return Preview(batch, rows, counts, reading, found, brought.count_left_out(db, batch_id), invested)


def overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    """Decides about a row in preview: "bring" it in as new, "leave" it out, or "match" it with the proposed entry."""
    _require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or decision not in ("bring", "leave", "match"):
        raise InvalidInput("That cannot be decided here.")
    if decision == "match" and not row.match_line_id:
        raise InvalidInput("There is no entry to match this row with.")
    if row.verdict == "vanished" and decision == "bring":
        raise InvalidInput("The bank sent no such row; it can be left as it is.")
    verdict = {"bring": "new", "leave": "known", "match": "matched"}[decision]
    brought.change_row_verdict(db, row_id, Verdict(verdict, decision != "leave", OVERRULED, row.match_line_id))


def list_candidates(db: sqlite3.Connection, row_id: int) -> list[merging.Candidate]:
    """The lines a row could be matched with by hand, the nearest in amount and day first."""
    return merging.list_candidates(db, brought.get_row(db, row_id))


def account_of_row(db: sqlite3.Connection, row_id: int) -> int:
    """The id of the account a row in preview goes to. Raises: NotFound."""
    return brought.get_row(db, row_id).account_id


def match_by_hand(db: sqlite3.Connection, batch_id: int, row_id: int, line_id: int) -> None:
    """Says that a row in preview is an entry that is here, whatever its amount or day. Raises: InvalidInput, Conflict."""
    _require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or line_id not in {c.line_id for c in merging.list_candidates(db, row)}:
        raise InvalidInput("That entry cannot be matched with this row.")
    brought.change_row_verdict(db, row_id, Verdict("matched", True, OVERRULED, line_id))


def bring_in(db: sqlite3.Connection, by: By, batch_id: int, report: Report = silent) -> Brought:
    """Writes what a waiting batch brings, in one transaction: all of it or none. Raises: Conflict."""
    batch = _require_waiting(db, batch_id)
    if batch.problem:
        raise Conflict(batch.problem)
    if brought.is_overtaken(db, batch_id):
        staging.judge_again(db, batch_id)
    counts = brought.count_verdicts(db, batch_id)
    total = sum(counts.values())
    sentence = f"Brought in {counts['new']} new entries from “{batch.name}”"
    with atomic(db):
        _remember_numbers(db, by, batch, brought.get_format(db, batch_id))
        with journal.step(db, sentence, by.at, by.member_id, batch_id=batch_id) as step_id:
            after = done = 0
            while rows := brought.list_rows(db, batch_id, after_id=after, most=CHUNK):
                write_rows(db, batch_id, [row for row in rows if row.take], by.at)
                after, done = rows[-1].id, done + len(rows)
                report(done, total, f"{done:,} of {total:,} rows")
            invested = _list_shares(db, batch) if brought.get_format(db, batch_id) != "csv" else []
            moves = sum(shares.write_shares(db, batch_id, account, found) for account, found in invested)
            brought.change_batch_state(db, batch_id, "brought", by.at)
            brought.remove_upload(db, batch_id, keep_containing=b"INVSTMTRS")
            for account_id in brought.list_accounts_of_batch(db, batch_id):
                settle(db, account_id)
    positions = sum(len(found.positions) for _, found in invested)
    moved = {"moves": moves, "positions": positions}
    return Brought(batch_id, **counts, **moved, differing=_differing(db, batch_id), step_id=step_id)


def _remember_numbers(db: sqlite3.Connection, by: By, batch: Batch, kind: str) -> None:
    """An account without a number takes the one its first file names, so that the next file finds it by itself."""
    numbers = json.loads(batch.mapping).get("numbers", {}) if kind != "csv" and batch.mapping else {}
    for account_id, number in numbers.items():
        account = accounts.get_account(db, int(account_id))
        if not account.number and accounts.find_account_named(db, number) is None:
            with journal.step(db, f"Remembered {number} as the number of {account.name}", by.at, by.member_id):
                accounts.change_account(db, replace(account, number=number))


def _differing(db: sqlite3.Connection, batch_id: int) -> tuple[AccountState, ...]:
    """The accounts of a batch that do not hold what the bank declares with it."""
    states = [accounts.get_account_state(db, id_) for id_ in brought.list_declared_accounts(db, batch_id)]
    return tuple(state for state in states if state.difference_minor)


def discard(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a waiting batch."""
    _require_waiting(db, batch_id)
    with atomic(db):
        brought.remove_batch(db, batch_id)


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
    with suppress(_NothingKeptError), atomic(db):
        batch_id, warnings = _staged_whole(db, by, account_id, name, content)
        is_waiting = brought.get_batch(db, batch_id).state == "waiting"
        done = replace(bring_in(db, by, batch_id, report) if is_waiting else Brought(batch_id), warnings=tuple(warnings))
        if dry_run:
            raise _NothingKeptError
    return done


def _staged_whole(db: sqlite3.Connection, by: By, account_id: int | None, name: str, content: bytes) -> tuple[int, list[str]]:
    """A batch that needs no more questions, and the sentences about what was odd."""
    chosen = accounts.get_account(db, account_id) if account_id else None
    kind = kind_of_file(content)
    if kind == "csv":
        reading = read_csv_file(db, content)
        if not reading.mapping.is_complete:
            raise UnreadableFile("The file is no table of entries: no line has a date and an amount.")
        account = chosen or find_account_of_csv(db, name, reading) or _only_account(db)
        if account is None:
            raise InvalidInput("The file does not say which account it belongs to. Name it with --account.", field="account")
        reading = with_card_sign(reading, account)
        statement = read_csv(reading.table, reading.mapping, account.currency)
        batch_id = _insert_file_batch(db, by, account, name, content, kind, reading.mapping.to_json())
        return batch_id, staging.stage(db, batch_id, [statement], {bare_number(statement.number): account}, kind)
    statements = _read(db, kind, content, chosen)
    found, warnings = [], []
    for one in staging.find_accounts(db, statements, chosen):
        account = one.account
        if account is None and chosen and not chosen.number and not accounts.has_lines(db, chosen.id):
            accounts.change_account(db, replace(chosen, number=one.number))  # the first of several goes where it was told
            account = chosen = accounts.get_account(db, chosen.id)
        elif account is None:
            account = staging.make_account(db, one, chosen)
            warnings.append(
                f"Made the account “{account.name}”, which the file holds{f' beside {chosen.name}' if chosen else ''}."
            )
        found.append(replace(one, account=account))
    batch_id = _insert_file_batch(db, by, chosen, name, content, kind)
    if has_investments(content):
        brought.put_upload(db, batch_id, content)
    return batch_id, warnings + _stage_found(db, batch_id, statements, found, kind)


class _NothingKeptError(Exception):
    """Ends a dry run: the transaction is rolled back."""


def clean_name(name: str) -> str:
    """A file's name without folders and control characters, for showing."""
    bare = name.replace("\\", "/").rpartition("/")[2]
    return "".join(c for c in bare if c.isprintable())[:120] or "file"


def _require_waiting(db: sqlite3.Connection, batch_id: int) -> Batch:
    batch = brought.get_batch(db, batch_id)
    if batch.state != "waiting":
        raise Conflict("This was decided already.")
    return batch


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
