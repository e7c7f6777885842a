"""The one way a file takes into preview, from a page and from the command line: recognised, read, asked about what it does not
say itself, staged. What is still open comes back as a Question; the answers to it take the same way again.

Which account each statement goes to, and its rows: staging.py. How a CSV is read: csv_files.py.
"""

import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.batch import Batch
from bolsa.core.bringing.rows import BroughtStatement
from bolsa.core.known import known
from bolsa.errors import InvalidInput, UnreadableFile
from bolsa.formats.csv_read import read_csv
from bolsa.formats.table import FORMAT_BY_KEY, Format, recognise
from bolsa.formats.trades_read import currencies_of, read_trades
from bolsa.services import beside
from bolsa.services.bringing import staging
from bolsa.services.bringing.csv_files import ROWS, CsvReading, find_account_of_csv, holds_of, read_csv_file, with_card_sign
from bolsa.services.bringing.questions import NOTHING_SAID, Answers, Choice, Question
from bolsa.services.bringing.staging import FoundAccount
from bolsa.services.bringing.uploads import (
    bare_number,
    insert_file_batch,
    only_account,
    only_account_with_shares,
    require_waiting,
)
from bolsa.services.changes import change, note
from bolsa.services.clock import By
from bolsa.services.holdings import trading
from bolsa.services.house.files import require_room
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, coverage
from bolsa.store.house import household

MANY_ROWS = 5_000  # of a table; fewer are read before a process has begun


@dataclass(frozen=True)
class Taken:
    """A file in preview, and what it still asks, None if it can be brought in as it is."""

    batch_id: int
    question: Question | None


@dataclass(frozen=True)
class _ReadFile:
    """A file as it was read: its statements, or, of a CSV, its table and how it is read."""

    format: Format
    statements: list[BroughtStatement]
    csv: CsvReading | None


def take_in(
    db: sqlite3.Connection, by: By, name: str, content: bytes, answers: Answers = NOTHING_SAID, report: Report = silent
) -> Taken:
    """Keeps a file as a waiting batch with a verdict a row, as far as the answers reach.

    Raises: UnreadableFile, InvalidInput; nothing is kept then.
    """
    require_room(db, len(content))
    report(0, 0, "Reading the file")
    file = _read(db, recognise(content), content, answers, report)
    with note(db):
        _chosen(db, answers)
        batch_id = insert_file_batch(db, by, answers.account_id, name, content, file.format.key)
        question = _stage(db, by, batches.get_batch(db, batch_id), file, answers, report)
        if question or file.csv or file.format.is_kept(content):
            batches.put_upload(db, batch_id, content)
    return Taken(batch_id, question)


def answer(db: sqlite3.Connection, by: By, batch_id: int, answers: Answers, report: Report = silent) -> Question | None:
    """Reads a waiting file anew by the answers; gives what it still asks. A mapping of columns that reads the file is remembered
    for files of this shape. Raises: InvalidInput, Conflict; nothing is changed then."""
    batch = require_waiting(db, batch_id)
    content = batches.get_upload(db, batch_id)
    holds = answers.holds or (holds_of(batch.mapping) if batch.mapping and not answers.columns else "")
    answers = replace(answers, account_id=answers.account_id or batch.account_id, holds=holds)
    file = _read(db, FORMAT_BY_KEY[batches.get_format(db, batch_id)], content, answers, report)
    with note(db):
        batch = require_waiting(db, batch_id)
        brought.remove_rows(db, batch_id)
        batches.remove_bank_balances(db, batch_id)
        coverage.remove_coverage(db, batch_id)
        question = _stage(db, by, batch, file, answers, report)
        if file.csv and answers.columns and not question:
            with change(db, by) as done:
                done.sentence = f"Remembered how files like “{batch.name}” are read"
                batches.put_mapping(db, file.csv.shape, answers.columns.to_json())
    return question


def _chosen(db: sqlite3.Connection, answers: Answers) -> Account | None:
    """The account the whole file goes to, if that is said. Raises: NotFound."""
    return accounts.get_account(db, answers.account_id) if answers.account_id is not None else None


def _read(db: sqlite3.Connection, format_: Format, content: bytes, answers: Answers, report: Report) -> _ReadFile:
    """A file read: a large one in a process of its own."""
    if format_.read is None:
        return _ReadFile(format_, [], read_csv_file(db, content, answers.columns, answers.holds, report))
    chosen = _chosen(db, answers)
    currency = chosen.currency if chosen else household.get_household(db).home_currency
    if len(content) < beside.LARGE:
        return _ReadFile(format_, format_.read(content, currency), None)
    return _ReadFile(format_, beside.call(format_.read, content, currency, report=report, words="Reading the file"), None)


def _stage(db: sqlite3.Connection, by: By, batch: Batch, file: _ReadFile, answers: Answers, report: Report) -> Question | None:
    """Stages a file as far as it and the answers say how, and keeps what it still asks."""
    chosen = _chosen(db, answers)
    if file.csv:
        question = _stage_table(db, batch, file.csv, chosen, answers, report)
    else:
        question = _stage_statements(db, by, batch, file, chosen, answers, report)
    batches.put_question(db, batch.id, question.asks if question else "", question.reason if question else "")
    return question


def _stage_table(
    db: sqlite3.Connection, batch: Batch, reading: CsvReading, chosen: Account | None, answers: Answers, report: Report
) -> Question | None:
    if reading.holds != ROWS:
        return _stage_trades(db, batch, reading, chosen, report)
    account = chosen or find_account_of_csv(db, batch.name, reading) or only_account(db)
    if account and answers.flip is not None:
        reading = replace(reading, mapping=replace(reading.rows, flip=answers.flip))
    elif account and not answers.columns:
        reading = with_card_sign(reading, account)
    batches.put_mapping_of_batch(db, batch.id, reading.to_json(), account.id if account else None)
    if account is None:
        return Question("account")
    try:
        # Whatever is wrong shows before the first row is kept, so there is nothing to take back.
        if len(reading.table.rows) < MANY_ROWS:
            statement = read_csv(reading.table, reading.rows, account.currency)
        else:
            given = (reading.table, reading.rows, account.currency)
            statement = beside.call(read_csv, *given, report=report, words="Reading the rows")
    except (InvalidInput, UnreadableFile) as error:
        return Question("columns", error.sentence)
    targets = {bare_number(statement.number): account}
    batches.put_warnings(db, batch.id, staging.stage(db, batch.id, [statement], targets, report))
    return None


def _stage_trades(
    db: sqlite3.Connection, batch: Batch, reading: CsvReading, chosen: Account | None, report: Report
) -> Question | None:
    """Stages a broker's table: its trades, and the money paid in or out as rows."""
    account = (
        chosen
        or find_account_of_csv(db, batch.name, reading)
        or only_account_with_shares(db, currencies_of(reading.table, reading.trades))
    )
    batches.put_mapping_of_batch(db, batch.id, reading.to_json(), account.id if account else None)
    if account is None:
        return Question("account")
    account = trading.account_with_shares(db, account.id)
    try:
        statement = read_trades(reading.table, reading.trades, account.currency, account.opened_on)
    except (InvalidInput, UnreadableFile) as error:
        return Question("columns", error.sentence)
    targets = {bare_number(statement.number): account}
    warnings = staging.stage(db, batch.id, [statement], targets, report)
    batches.put_warnings(db, batch.id, warnings + staging.stage_shares(db, batch.id, [statement], targets))
    return None


def _stage_statements(
    db: sqlite3.Connection, by: By, batch: Batch, file: _ReadFile, chosen: Account | None, answers: Answers, report: Report
) -> Question | None:
    only = only_account(db)
    chosen = chosen or (only if only and not only.number else None)
    found, warnings, is_open = [], [], False
    for one in staging.find_accounts(db, file.statements, chosen):
        choice = answers.accounts.get(one.number) or (Choice(answers.others) if one.account is None else None)
        if choice and choice.what == "ask":
            is_open = True
        elif choice:
            settled, chosen, warning = _settle(db, by, batch, one, choice, chosen)
            warnings += [warning] if warning else []
            found.append(settled)
            continue
        found.append(one)
    batches.put_batch_accounts(db, batch.id, [one.as_brought() for one in found])
    if is_open:
        return Question("accounts")
    if found and not any(one.account for one in found):
        raise InvalidInput("Choose at least one account, or put the file aside.", field="account")
    rows = sum(one.rows for one in found)
    report(0, rows, f"Comparing {rows:,} rows with what is here")
    staging.stage_found(db, batch.id, file.statements, found, warnings, report)
    return None


def _settle(
    db: sqlite3.Connection, by: By, batch: Batch, one: FoundAccount, choice: Choice, chosen: Account | None
) -> tuple[FoundAccount, Account | None, str]:
    """An account of the file with the one here that was chosen for it; the account still free to take one; what was odd."""
    if choice.what == "leave":
        return replace(one, account=None), chosen, ""
    if choice.what == "here":
        return replace(one, account=accounts.get_account(db, known(choice.account_id))), chosen, ""
    if not choice.name and chosen and not chosen.number and not accounts.was_written_on(db, chosen.id):
        accounts.change_account(db, replace(chosen, number=one.number))  # the first of several goes where it was told
        chosen = accounts.get_account(db, chosen.id)
        return replace(one, account=chosen), chosen, ""
    with change(db, by) as made:
        wanted = staging.as_kind(one, choice.kind) if choice.kind else one
        account = staging.make_account(db, wanted, None if choice.name else chosen, by.today, choice.name.strip(), batch.id)
        made.sentence = f"Added the account {account.name}, found in “{batch.name}”"
    beside = f" beside {chosen.name}" if chosen else ""
    warning = "" if choice.name else f"Made the account “{account.name}”, which the file holds{beside}."
    return replace(one, account=account), chosen, warning
