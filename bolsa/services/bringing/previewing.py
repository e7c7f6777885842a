"""A file or a download in preview: kept with a verdict a row, read another way, overruled, matched by hand, or put aside."""

import sqlite3
from dataclasses import dataclass, replace

from bolsa.core.accounts.account import Account
from bolsa.core.bringing.matching import Verdict
from bolsa.core.bringing.rows import BroughtStatement
from bolsa.errors import InvalidInput
from bolsa.formats.csv_guess import CsvMapping
from bolsa.formats.ofx import has_investments
from bolsa.formats.sniff import kind_of_file
from bolsa.services.bringing import staging
from bolsa.services.bringing.csv_files import CsvReading, find_account_of_csv, read_csv_file, read_head, with_card_sign
from bolsa.services.bringing.staging import FoundAccount, stage_csv, stage_found
from bolsa.services.bringing.uploads import CHOOSE, insert_file_batch, list_shares, only_account, read_statements, require_waiting
from bolsa.services.changes import change, note
from bolsa.services.clock import By
from bolsa.services.holdings import shares
from bolsa.services.holdings.shares import SharesToBring
from bolsa.services.progress import Report, silent
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought, merging
from bolsa.store.bringing.brought import OVERRULED, Batch, StoredRow
from bolsa.store.holdings import shares as share_store


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
    moved: int = 0  # moves of shares it brought

    @property
    def already_here(self) -> int:
        return self.counts["known"] - self.left_out

    @property
    def to_bring(self) -> int:
        moved = sum(len(one.new) + len(one.brought.positions) for one in self.shares)
        return sum(self.counts.values()) - self.counts["known"] + moved


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
        return _preview_csv(db, by, chosen, name, content, report)
    statements = read_statements(db, kind, content, chosen)
    only = only_account(db)
    found = staging.find_accounts(db, statements, chosen or (only if only and not only.number else None))
    rows = sum(one.rows for one in found)
    report(0, rows, f"Comparing {rows:,} rows with what is here")
    with note(db):
        batch_id = insert_file_batch(db, by, chosen, name, content, kind)
        is_known = all(one.account for one in found)
        if not is_known or has_investments(content):
            brought.put_upload(db, batch_id, content)
        if is_known:
            stage_found(db, batch_id, statements, found, kind, report)
        else:
            brought.change_batch_mapping(db, batch_id, "", CHOOSE)
    return batch_id


def _preview_csv(db: sqlite3.Connection, by: By, chosen: Account | None, name: str, content: bytes, report: Report) -> int:
    reading = read_csv_file(db, content)
    account = chosen or find_account_of_csv(db, name, reading) or only_account(db)
    if account is None:
        raise InvalidInput("This file does not say which account it belongs to. Choose the account.", field="account_id")
    with note(db):
        reading = with_card_sign(reading, account)
        batch_id = insert_file_batch(db, by, account, name, content, "csv", reading.to_json())
        brought.put_upload(db, batch_id, content)
        stage_csv(db, batch_id, account, reading, report)
    return batch_id


def change_mapping(db: sqlite3.Connection, by: By, batch_id: int, mapping: CsvMapping) -> None:
    """Reads a waiting CSV anew by another mapping, and remembers it for files of this shape if it can be read so."""
    batch = require_waiting(db, batch_id)
    account = accounts.get_account(db, batch.account_id)
    reading = read_csv_file(db, brought.get_upload(db, batch_id), mapping.to_json())
    with note(db):
        brought.remove_rows(db, batch_id)
        brought.remove_bank_balances(db, batch_id)
        if not stage_csv(db, batch_id, account, reading):
            with change(db, by) as done:
                done.sentence = f"Remembered how files like “{batch.name}” are read"
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
    batch = require_waiting(db, batch_id)
    kind = brought.get_format(db, batch_id)
    statements = read_statements(db, kind, brought.get_upload(db, batch_id), None)
    found = []
    with note(db):
        for one in staging.find_accounts(db, statements, None):
            choice = choices.get(one.number, Choice("leave"))
            account = None
            if choice.what == "new":
                with change(db, by) as done:
                    done.sentence = f"Added the account {choice.name}, found in “{batch.name}”"
                    account = staging.make_account(db, staging.as_kind(one, choice.kind), None, by.today, choice.name.strip())
            elif choice.what == "here":
                account = accounts.get_account(db, choice.account_id)
            found.append(replace(one, account=account))
        if not any(one.account for one in found):
            raise InvalidInput("Choose at least one account, or put the file aside.", field="account")
        stage_found(db, batch_id, statements, found, kind)


def stage_download(db: sqlite3.Connection, by: By, name: str, found: list[tuple[Account, BroughtStatement]]) -> int:
    """Keeps what a connection downloaded as a waiting batch; gives its id."""
    with note(db):
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
        reading = read_head(brought.get_upload(db, batch_id), batch.mapping)
    elif batch.state == "waiting" and batch.problem == CHOOSE:
        statements = read_statements(db, kind, brought.get_upload(db, batch_id), None)
        found = tuple(staging.find_accounts(db, statements, None))
    rows = tuple(brought.list_rows_to_show(db, batch_id, most))
    counts = brought.count_verdicts(db, batch_id)
    waits = batch.state == "waiting" and kind != "csv" and not batch.problem
    invested = tuple(shares.sort_out(db, *one) for one in list_shares(db, batch)) if waits else ()
    moved = share_store.count_moves_of_batch(db, batch_id) if batch.state == "brought" else 0
    return Preview(batch, rows, counts, reading, found, brought.count_left_out(db, batch_id), invested, moved)


def overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    """Decides about a row in preview: "bring" it in as new, "leave" it out, or "match" it with the proposed entry."""
    with note(db):
        _overrule(db, batch_id, row_id, decision)


def _overrule(db: sqlite3.Connection, batch_id: int, row_id: int, decision: str) -> None:
    require_waiting(db, batch_id)
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
    with note(db):
        _match_by_hand(db, batch_id, row_id, line_id)


def _match_by_hand(db: sqlite3.Connection, batch_id: int, row_id: int, line_id: int) -> None:
    require_waiting(db, batch_id)
    row = brought.get_row(db, row_id)
    if row.batch_id != batch_id or line_id not in {c.line_id for c in merging.list_candidates(db, row)}:
        raise InvalidInput("That entry cannot be matched with this row.")
    brought.change_row_verdict(db, row_id, Verdict("matched", True, OVERRULED, line_id))


def discard(db: sqlite3.Connection, batch_id: int) -> None:
    """Forgets a waiting batch."""
    with note(db):
        require_waiting(db, batch_id)
        brought.remove_batch(db, batch_id)
