"""From statements to rows in preview: which account each goes to, and what each row is."""

import sqlite3
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, timedelta

from bolsa.core.accounts import KIND_BY_KEY, Account
from bolsa.core.bringing import BroughtRow, BroughtStatement
from bolsa.core.doubts import find_doubtful
from bolsa.core.matching import DAYS_SAME_ID, Verdict, judge_rows
from bolsa.core.pending import DAYS_TO_BOOK, PendingLine, find_booked, judge_pending
from bolsa.errors import InvalidInput
from bolsa.store import accounts, brought, household, merging
from bolsa.store.brought import StoredRow
from bolsa.store.connection import atomic

JUDGED_TOGETHER = 5_000  # rows
_KIND_OF = {"SAVINGS": "savings", "MONEYMRKT": "savings", "CREDITCARD": "card", "CREDITLINE": "loan", "INVESTMENT": "brokerage"}


@dataclass(frozen=True)
class FoundAccount:
    """One account of a file: its number there ("" if it has none), what it seems to be, how many rows and moves of shares it
    brings, and the account here it goes to, None while nobody knows."""

    number: str
    kind: str
    currency: str
    rows: int
    account: Account | None

    @property
    def proposed_name(self) -> str:
        return f"{KIND_BY_KEY[self.kind].label} {self.number}".strip()


def bare_number(number: str) -> str:
    """An account's number without blanks, as it is compared."""
    return number.replace(" ", "")


def find_accounts(db: sqlite3.Connection, statements: list[BroughtStatement], chosen: Account | None) -> list[FoundAccount]:
    """The accounts of a file, each with the one here it goes to: by its number; else the chosen one, when it is the only one
    of the file that no account here claims."""
    by_number = {a.number: a for a in accounts.list_accounts(db) if a.number}
    members: dict[str, list[BroughtStatement]] = {}
    for statement in statements:
        members.setdefault(bare_number(statement.number), []).append(statement)
    unclaimed = [number for number in members if number not in by_number]
    found = []
    for number, group in members.items():
        account = by_number.get(number)
        if chosen and len(members) == 1:
            account = chosen  # a file of one account goes where it was told to go
        elif account is None and chosen and unclaimed == [number] and chosen.number not in members:
            account = chosen
        kind = _KIND_OF.get(group[0].kind, "current")
        rows = sum(len(s.rows) + (len(s.shares.moves) if s.shares else 0) for s in group)
        found.append(FoundAccount(number, kind, group[0].currency, rows, account))
    return found


def stage(
    db: sqlite3.Connection,
    batch_id: int,
    statements: list[BroughtStatement],
    targets: dict[str, Account],
    kind: str,
) -> list[str]:
    """Judges and keeps a file's statements, those of one account together; gives the sentences about what was odd.

    `targets` are the accounts by bare number; statements of other numbers are left out.
    """
    warnings: list[str] = []
    by_account: dict[int, list[BroughtStatement]] = {}
    for statement in statements:
        target = targets.get(bare_number(statement.number))
        if target is not None:
            target = _take_on_currency(db, accounts.get_account(db, target.id), statement, warnings)
            by_account.setdefault(target.id, []).append(statement)
    for account_id, members in by_account.items():
        stage_statements(db, batch_id, accounts.get_account(db, account_id), members, kind)
        warnings += [warning for statement in members for warning in statement.warnings]
    return list(dict.fromkeys(warnings))


def make_account(db: sqlite3.Connection, found: FoundAccount, like: Account | None, name: str = "") -> Account:
    """A new account for one a file holds and nobody here knows; `like` lends its institution. It is part of the caller's
    transaction."""
    home = household.get_household(db).home_currency
    currency = found.currency or home
    kind = KIND_BY_KEY[found.kind]
    everyday = kind.everyday and currency == home
    made = Account(
        id=0, name=name or found.proposed_name, kind=kind.key, side=kind.side, everyday=everyday, currency=currency,
        institution=like.institution if like else "", number=found.number, group=kind.group_for(everyday),
        opened_on=household.get_household(db).set_day or accounts.FIRST_DAY, shown=True, note="",
    )  # fmt: skip
    if accounts.find_account_named(db, made.name):
        raise InvalidInput(f"There is an account “{made.name}” already. Choose it, or give another name.", field="account")
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


def stage_statements(
    db: sqlite3.Connection, batch_id: int, account: Account, statements: list[BroughtStatement], kind: str
) -> None:
    """Keeps an account's statements as rows of a batch, each with its verdict, and what the bank says it holds."""
    lists_all = any(statement.lists_pending for statement in statements)
    closing = max((s for s in statements if s.balance_minor is not None), key=lambda s: s.balance_day, default=None)
    before = accounts.find_bank_balance(db, account.id, closing.balance_day) if closing else None
    brought.insert_rows(db, batch_id, account.id, (row for statement in statements for row in statement.rows))
    _judge(db, batch_id, account, kind, lists_all=lists_all)
    if closing and before is not None:
        off = before + brought.sum_fresh_minor(db, batch_id, account.id) - closing.balance_minor
        _doubt(db, brought.list_fresh_rows(db, batch_id, account.id, off, off // 2), off)
    for statement in statements:
        if statement.balance_minor is not None:
            accounts.insert_bank_balance(db, account.id, statement.balance_day, statement.balance_minor, batch_id)


def _doubt(db: sqlite3.Connection, fresh: list[StoredRow], off_minor: int) -> None:
    """Marks the row that the declared balances speak against, if there is one."""
    found = find_doubtful([row.as_brought() for row in fresh], off_minor)
    if found:
        row, reason = fresh[found[0]], found[1]
        kind = "suspicious" if row.verdict == "new" else row.verdict
        brought.change_row_verdict(db, row.id, Verdict(kind, row.take, reason, row.match_line_id))


def _judge(db: sqlite3.Connection, batch_id: int, account: Account, kind: str, *, lists_all: bool) -> None:
    """Gives each of a batch's rows for an account its verdict against what is here now; what the user decided stays decided.

    A long file is judged some days at a time, so that memory does not grow with it.
    """
    announced = merging.list_pending_lines(db, account.id)
    booked = _find_booked(db, batch_id, account, announced)
    used_known: set[int] = set()
    used_lines = {verdict.line_id for verdict in booked.values()}
    for first, last, seen_until in _windows(brought.count_by_day(db, batch_id, account.id)):
        rows = brought.list_rows_of_days(db, batch_id, account.id, first, seen_until)
        around = first - timedelta(days=DAYS_SAME_ID), seen_until + timedelta(days=DAYS_SAME_ID)
        known = [row for row in brought.list_known_rows(db, account.id, *around) if row.id not in used_known]
        lines = [line for line in merging.list_open_lines(db, account.id, *around) if line.line_id not in used_lines]
        now_booked = {i: booked[row.id] for i, row in enumerate(rows) if row.id in booked}
        verdicts = judge_rows([row.as_brought() for row in rows], known, lines, kind, now_booked)
        judged = [(row, verdict) for row, verdict in zip(rows, verdicts, strict=True) if row.day <= last]
        used_known |= {verdict.known_id for _, verdict in judged if verdict.known_id}
        used_lines |= {verdict.line_id for _, verdict in judged if verdict.kind == "matched"}
        _note(db, judged)
    left = [line for line in announced if line.line_id not in used_lines]
    waiting = brought.list_pending_rows(db, batch_id, account.id)
    pending, vanished = judge_pending([row.as_brought() for row in waiting], left, account.currency, lists_all=lists_all)
    _note(db, zip(waiting, pending, strict=True))
    for line in vanished:
        row = BroughtRow(line.day, line.amount_minor, line.text, bank_ref=line.bank_ref, pending=True)
        gone = Verdict("vanished", True, "the bank announced it and does so no longer; it goes to the trash", line.line_id)
        brought.insert_rows(db, batch_id, account.id, [row], gone)


def _note(db: sqlite3.Connection, judged: Iterable[tuple[StoredRow, Verdict]]) -> None:
    """Writes the verdicts that say something else than what stands there, but for rows the user decided about."""
    said = [
        (row.id, verdict)
        for row, verdict in judged
        if not row.is_overruled
        and (row.verdict, row.reason, row.match_line_id) != (verdict.kind, verdict.reason, verdict.line_id)
    ]
    brought.change_verdicts(db, said)


def _windows(counts: list[tuple[date, int]]) -> Iterator[tuple[date, date, date]]:
    """Stretches of days with about JUDGED_TOGETHER rows: first and last day, and the day until which rows are looked at, since
    an entry typed for a last day may belong to a row of the next stretch."""
    first, rows = None, 0
    for i, (day, count) in enumerate(counts):
        first, rows = first or day, rows + count
        is_last = i == len(counts) - 1
        if is_last or rows >= JUDGED_TOGETHER:
            yield first, day, day if is_last else day + timedelta(days=DAYS_SAME_ID)
            first, rows = None, 0


def _find_booked(db: sqlite3.Connection, batch_id: int, account: Account, announced: list[PendingLine]) -> dict[int, Verdict]:
    """By row id: the verdict that it is an entry the bank had announced."""
    if not announced:
        return {}
    days = [line.day for line in announced]
    around = min(days) - timedelta(days=DAYS_TO_BOOK), max(days) + timedelta(days=DAYS_TO_BOOK)
    rows = brought.list_rows_of_days(db, batch_id, account.id, *around)
    found = find_booked([row.as_brought() for row in rows], announced, account.currency)
    return {rows[i].id: verdict for i, verdict in found.items()}


def judge_again(db: sqlite3.Connection, batch_id: int) -> None:
    """Judges a batch anew when another was brought in while it waited: what that one brought is here now.

    What the user decided stays decided.
    """
    with atomic(db):
        for account_id in brought.list_accounts_of_batch(db, batch_id):
            account = accounts.get_account(db, account_id)
            _judge(db, batch_id, account, brought.get_format(db, batch_id), lists_all=False)


def as_kind(found: FoundAccount, kind: str) -> FoundAccount:
    """The found account as the user calls its kind. Raises: InvalidInput for a kind there is not."""
    if kind not in KIND_BY_KEY:
        raise InvalidInput("Choose one of the kinds.", field="account")
    return replace(found, kind=kind)
