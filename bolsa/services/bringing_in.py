"""Bringing in: from the bytes of a file to a batch in preview, and from there into the books, whole or not at all."""

import hashlib
import sqlite3
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import NoReturn

from bolsa.core.accounts import KIND_BY_KEY, Account
from bolsa.core.bringing import BroughtRow, BroughtStatement
from bolsa.core.entries import Entry, Line
from bolsa.core.matching import DAYS_SAME_ID, Verdict, judge_rows
from bolsa.core.payees import tidy_payee
from bolsa.errors import Conflict, InvalidInput, UnreadableFile
from bolsa.formats.csv_guess import CsvMapping, Guess, guess_mapping
from bolsa.formats.csv_read import read_csv
from bolsa.formats.csv_table import CsvTable, read_table
from bolsa.formats.sniff import READERS, kind_of_file
from bolsa.services.clock import By
from bolsa.store import accounts, brought, connections, entries, household, journal
from bolsa.store.brought import OVERRULED, Batch, StoredRow
from bolsa.store.categories import UNSORTED
from bolsa.store.connection import atomic, attempt
from bolsa.store.connections import Connection

CHUNK = 5000


@dataclass(frozen=True)
class CsvReading:
    """A CSV as it is being read: the table, the mapping in force, where the guess had doubts, and its shape."""

    table: CsvTable
    mapping: CsvMapping
    doubts: tuple[str, ...]
    shape: str
    is_remembered: bool


@dataclass(frozen=True)
class Preview:
    """A waiting batch, its rows, how many are "new", "matched" and "known", and sentences about what was odd."""

    batch: Batch
    rows: tuple[StoredRow, ...]
    counts: dict[str, int]
    csv: CsvReading | None
    left_out: int  # of those counted as known, by the user's own decision

    @property
    def already_here(self) -> int:
        return self.counts["known"] - self.left_out


@dataclass(frozen=True)
class Brought:
    """What a bringing-in did, in rows; `warnings` are sentences about what was odd yet could be read."""

    batch_id: int
    new: int
    matched: int
    known: int
    warnings: tuple[str, ...]
    step_id: int | None = None


def read_csv_file(db: sqlite3.Connection, content: bytes, mapping_json: str = "") -> CsvReading:
    """The table of a CSV with the mapping to read it by: the one given, else the one remembered, else a guess."""
    table = read_table(content)
    guess: Guess = guess_mapping(table)
    if mapping_json:
        mapping = CsvMapping.from_json(mapping_json)
        if mapping.delimiter != table.delimiter:
            table = read_table(content, mapping.delimiter)
        return CsvReading(table, mapping, guess.doubts if mapping == guess.mapping else (), guess.shape, False)
    kept = brought.find_mapping(db, guess.shape)
    if kept:
        # The heads may stand on another line of this file; the columns stay what they were.
        mapping = replace(CsvMapping.from_json(kept), header_line=guess.mapping.header_line)
        return CsvReading(table, mapping, (), guess.shape, True)
    return CsvReading(table, guess.mapping, guess.doubts, guess.shape, False)


def _statement_of(reading: CsvReading, account: Account) -> list[BroughtStatement]:
    return [read_csv(reading.table, reading.mapping, account.currency)]


def preview_file(db: sqlite3.Connection, by: By, account_id: int, name: str, content: bytes) -> int:
    """Keeps a file as a waiting batch with a verdict a row; gives the batch's id.

    A CSV whose columns cannot be told is kept too, without rows: its mapping is asked for. Raises: UnreadableFile.
    """
    account = accounts.get_account(db, account_id)
    if kind_of_file(content) == "csv":
        reading = read_csv_file(db, content)
        with atomic(db):
            batch_id = _insert_file_batch(db, by, account_id, name, content, "csv", reading.mapping.to_json())
            brought.put_upload(db, batch_id, content)
            _stage_csv(db, batch_id, account, reading)
        return batch_id
    kind = kind_of_file(content)
    statements = READERS[kind](content, account.currency)
    with atomic(db):
        batch_id = _insert_file_batch(db, by, account_id, name, content, kind)
        brought.put_warnings(db, batch_id, _stage(db, batch_id, account, statements, kind))
    return batch_id


def _insert_file_batch(
    db: sqlite3.Connection, by: By, account_id: int, name: str, content: bytes, kind: str, mapping: str = ""
) -> int:
    digest = hashlib.sha256(content).hexdigest()
    return brought.insert_batch(
        db, "file", clean_name(name), by.at, format_=kind, sha256=digest, account_id=account_id, mapping=mapping
    )


def _stage_csv(db: sqlite3.Connection, batch_id: int, account: Account, reading: CsvReading) -> str:
    """Stages a CSV as it is read; gives why it cannot be read that way, "" if it can."""
    problem = ""
    try:
        with attempt(db):
            brought.put_warnings(db, batch_id, _stage(db, batch_id, account, _statement_of(reading, account), "csv"))
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


def stage_download(db: sqlite3.Connection, by: By, name: str, found: list[tuple[Account, BroughtStatement]]) -> int:
    """Keeps what a connection downloaded as a waiting batch; gives its id."""
    with atomic(db):
        batch_id = brought.insert_batch(db, "connection", name, by.at)
        for account, statement in found:
            _stage_statements(db, batch_id, account, [statement], "ofx")
    return batch_id


def _stage(
    db: sqlite3.Connection,
    batch_id: int,
    account: Account,
    statements: list[BroughtStatement],
    kind: str,
    *,
    makes_accounts: bool = False,
) -> list[str]:
    """Judges and keeps a file's statements, those of one account together; gives the sentences about what was odd."""
    warnings: list[str] = []
    by_account: dict[int, list[BroughtStatement]] = {}
    for statement in statements:
        chosen = accounts.get_account(db, account.id)  # it may have taken on a number or a currency meanwhile
        target = _target(db, chosen, statement, statements) or (
            _made_account(db, chosen, statement, warnings) if makes_accounts else _refuse_unknown(statements)
        )
        target = _take_on_currency(db, target, statement, warnings)
        by_account.setdefault(target.id, []).append(statement)
    for account_id, members in by_account.items():
        _stage_statements(db, batch_id, accounts.get_account(db, account_id), members, kind)
        warnings += [warning for statement in members for warning in statement.warnings]
    return list(dict.fromkeys(warnings))


def _target(
    db: sqlite3.Connection, chosen: Account, statement: BroughtStatement, statements: list[BroughtStatement]
) -> Account | None:
    """The account a statement goes to: the one with its number; the chosen one, when the file holds one account or this
    is the first that no account here claims; None for any other."""
    numbers = list(dict.fromkeys(_bare(s.number) for s in statements))
    by_number = {a.number: a for a in accounts.list_accounts(db) if a.number}
    if len(numbers) == 1:
        return chosen
    if _bare(statement.number) in by_number:
        return by_number[_bare(statement.number)]
    unclaimed = [number for number in numbers if number not in by_number]
    is_first = chosen.number not in numbers and _bare(statement.number) == unclaimed[0]
    return chosen if is_first and len(unclaimed) == 1 else None


def _bare(number: str) -> str:
    return number.replace(" ", "")


def _refuse_unknown(statements: list[BroughtStatement]) -> NoReturn:
    listed = ", ".join(dict.fromkeys(_bare(s.number) or "one without a number" for s in statements))
    raise InvalidInput(
        f"The file holds several accounts: {listed}. Give each account here its number under Books, then bring it in again.",
        field="account",
    )


def _made_account(db: sqlite3.Connection, chosen: Account, statement: BroughtStatement, warnings: list[str]) -> Account:
    """The chosen account for the first of several unknown accounts in a file, and a new one for each further."""
    number = _bare(statement.number)
    if not chosen.number and not accounts.has_lines(db, chosen.id):
        accounts.change_account(db, replace(chosen, number=number))
        return accounts.get_account(db, chosen.id)
    kind = {"SAVINGS": "savings", "MONEYMRKT": "savings", "CREDITCARD": "card"}.get(statement.kind, "current")
    home = household.get_household(db).home_currency
    currency = statement.currency or home
    made = replace(
        chosen, name=f"{KIND_BY_KEY[kind].label} {number}", kind=kind, side=KIND_BY_KEY[kind].side, number=number,
        currency=currency, everyday=currency == home, note="", group=KIND_BY_KEY[kind].group_for(currency == home),
    )  # fmt: skip
    warnings.append(f"Made the account “{made.name}”, which the file holds beside {chosen.name}.")
    return accounts.get_account(db, accounts.insert_account(db, made))


def _take_on_currency(db: sqlite3.Connection, account: Account, statement: BroughtStatement, warnings: list[str]) -> Account:
    """The account, which takes on the file's currency while it holds nothing. Raises: InvalidInput if it holds something."""
    if not statement.currency or statement.currency == account.currency:
        return account
    if accounts.has_lines(db, account.id):
        raise InvalidInput(
            f"The file is in {statement.currency}, but {account.name} is kept in {account.currency}.", field="account"
        )
    home = household.get_household(db).home_currency
    accounts.change_currency(db, account.id, statement.currency, everyday=account.everyday and statement.currency == home)
    warnings.append(f"{account.name} held nothing yet and is now kept in {statement.currency}, as the file says.")
    return accounts.get_account(db, account.id)


def _stage_statements(
    db: sqlite3.Connection, batch_id: int, account: Account, statements: list[BroughtStatement], kind: str
) -> None:
    rows = [row for statement in statements for row in statement.rows]
    if rows:
        brought.insert_rows(db, batch_id, account.id, zip(rows, _judge(db, account.id, rows, kind), strict=True))
    for statement in statements:
        if statement.balance_minor is not None:
            accounts.insert_bank_balance(db, account.id, statement.balance_day, statement.balance_minor, batch_id)


def get_preview(db: sqlite3.Connection, batch_id: int, most: int = 300) -> Preview:
    """A batch with its first rows. Raises: NotFound."""
    batch = brought.get_batch(db, batch_id)
    reading = None
    if batch.mapping and batch.state == "waiting":
        reading = read_csv_file(db, brought.get_upload(db, batch_id), batch.mapping)
    rows = tuple(brought.list_rows_to_show(db, batch_id, most))
    return Preview(batch, rows, brought.count_verdicts(db, batch_id), reading, brought.count_left_out(db, batch_id))


def overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    """Decides about a row in preview: "bring" it in as new, "leave" it out, or "match" it with the proposed entry."""
    _require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or decision not in ("bring", "leave", "match"):
        raise InvalidInput("That cannot be decided here.")
    if decision == "match" and not row.match_line_id:
        raise InvalidInput("There is no entry to match this row with.")
    verdict = {"bring": "new", "leave": "known", "match": "matched"}[decision]
    brought.change_row_verdict(db, row_id, Verdict(verdict, decision != "leave", OVERRULED, row.match_line_id))


def bring_in(db: sqlite3.Connection, by: By, batch_id: int) -> Brought:
    """Writes what a waiting batch brings, in one transaction: all of it or none. Raises: Conflict."""
    batch = _require_waiting(db, batch_id)
    if brought.is_overtaken(db, batch_id):
        _judge_again(db, batch_id)
    counts = brought.count_verdicts(db, batch_id)
    sentence = f"Brought in {counts['new']} new entries from “{batch.name}”"
    with atomic(db), journal.step(db, sentence, by.at, by.member_id, batch_id=batch_id) as step_id:
        after = 0
        while rows := brought.list_rows(db, batch_id, after_id=after, most=CHUNK):
            _write_rows(db, batch_id, [row for row in rows if row.take])
            after = rows[-1].id
        brought.change_batch_state(db, batch_id, "brought", by.at)
        brought.remove_upload(db, batch_id)
    return Brought(batch_id, **counts, warnings=(), step_id=step_id)


def _judge_again(db: sqlite3.Connection, batch_id: int) -> None:
    """Judges a batch anew when another was brought in while it waited: what that one brought is here now.

    What the user decided stays decided.
    """
    rows = brought.list_rows(db, batch_id)
    with atomic(db):
        for account_id in dict.fromkeys(row.account_id for row in rows):
            members = [row for row in rows if row.account_id == account_id]
            verdicts = _judge(db, account_id, [row.as_brought() for row in members], brought.get_format(db, batch_id))
            for row, verdict in zip(members, verdicts, strict=True):
                if not row.is_overruled:
                    brought.change_row_verdict(db, row.id, verdict)


def _judge(db: sqlite3.Connection, account_id: int, rows: list[BroughtRow], kind: str) -> list[Verdict]:
    """A verdict a row against what is here now."""
    first = min(row.day for row in rows) - timedelta(days=DAYS_SAME_ID)
    last = max(row.day for row in rows) + timedelta(days=DAYS_SAME_ID)
    known = brought.list_known_rows(db, account_id, first, last)
    return judge_rows(rows, known, brought.list_open_lines(db, account_id, first, last), kind)


def _write_rows(db: sqlite3.Connection, batch_id: int, rows: list[StoredRow]) -> None:
    made: list[tuple[int | None, str | None, int]] = []
    fresh: list[StoredRow] = []
    for row in rows:
        before = brought.merge_into_line(db, row) if row.verdict == "matched" else None
        if before:
            made.append((row.match_line_id, before, row.id))
        else:  # new, or the entry it matched is gone meanwhile
            fresh.append(row)
    currencies = {a.id: a.currency for a in accounts.list_accounts(db)}
    tidied = brought.list_learned_payees(db, {row.payee for row in fresh})
    written = []
    for row in fresh:
        if row.payee not in tidied:
            tidied[row.payee] = tidy_payee(row.payee)
        written.append(_entry_of_row(row, tidied[row.payee], currencies[row.account_id], batch_id))
    for row, (_, line_ids) in zip(fresh, entries.insert_entries(db, written), strict=True):
        made.append((line_ids[0], None, row.id))
    brought.set_lines_of_rows(db, made)


def bring_row(db: sqlite3.Connection, row_id: int) -> int:
    """Brings in one row that was left out, or whose entry was deleted; gives the account line's id. It is part of the
    caller's step."""
    row = brought.get_row(db, row_id)
    trash_id = entries.find_trash_of_line(db, row.line_id) if row.line_id else None
    if trash_id:
        entries.restore_from_trash(db, trash_id)
        return row.line_id
    account = accounts.get_account(db, row.account_id)
    payee = brought.list_learned_payees(db, {row.payee}).get(row.payee) or tidy_payee(row.payee)
    _, line_ids = entries.insert_entries(db, [replace(_entry_of_row(row, payee, account.currency, row.batch_id), batch_id=None)])[
        0
    ]
    brought.change_row_verdict(db, row_id, Verdict("new", True, OVERRULED))
    brought.set_lines_of_rows(db, [(line_ids[0], None, row_id)])
    return line_ids[0]


def _entry_of_row(row: StoredRow, payee: str, currency: str, batch_id: int) -> Entry:
    line = Line(
        row.amount_minor, currency, account_id=row.account_id, day=row.day, state="cleared", bank_ref=row.bank_ref,
        value_day=row.value_day, raw_text=row.raw_text,
    )  # fmt: skip
    unsorted = Line(-row.amount_minor, currency, category_id=UNSORTED, day=row.day)
    return Entry(row.day, payee or "Unnamed", (line, unsorted), memo=row.memo[:300], batch_id=batch_id)


def discard(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a waiting batch."""
    _require_waiting(db, batch_id)
    with atomic(db):
        brought.remove_batch(db, batch_id)


def import_file(db: sqlite3.Connection, by: By, account_id: int, name: str, content: bytes, *, dry_run: bool = False) -> Brought:
    """Reads, judges and writes a file in one transaction, as the command line does; a dry run keeps nothing.

    Accounts that a file holds beside the chosen one, and that nobody here knows, are made.

    Raises: UnreadableFile, InvalidInput; nothing is kept then.
    """
    account = accounts.get_account(db, account_id)
    mapping = ""
    if (kind := kind_of_file(content)) == "csv":
        reading = read_csv_file(db, content)
        if not reading.mapping.is_complete:
            raise UnreadableFile("The file is no table of entries: no line has a date and an amount.")
        mapping, statements = reading.mapping.to_json(), _statement_of(reading, account)
    else:
        statements = READERS[kind](content, account.currency)
    done = Brought(0, 0, 0, 0, ())
    with suppress(_NothingKeptError), atomic(db):
        batch_id = _insert_file_batch(db, by, account_id, name, content, kind, mapping)
        warnings = _stage(db, batch_id, account, statements, kind, makes_accounts=True)
        done = replace(bring_in(db, by, batch_id), warnings=tuple(warnings))
        if dry_run:
            raise _NothingKeptError
    return done


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
    return bool(counts["new"] or counts["matched"])


def keep_balances_only(db: sqlite3.Connection, batch_id: int) -> None:
    """Ends a download that brought nothing new: what the bank says the accounts hold is kept, the rows are not."""
    brought.remove_rows(db, batch_id)
    brought.change_batch_state(db, batch_id, "empty")


@dataclass(frozen=True)
class Overview:
    """What the page of bringing in shows: connections, batches in preview, and those brought in, latest first."""

    connections: tuple[Connection, ...]
    waiting: tuple[Batch, ...]
    before: tuple[Batch, ...]


def overview(db: sqlite3.Connection) -> Overview:
    """What is connected, waiting, and brought in before."""
    return Overview(
        tuple(connections.list_connections(db)),
        tuple(brought.list_batches(db, "waiting")),
        tuple(brought.list_batches(db, "brought")),
    )
