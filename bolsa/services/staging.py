"""From statements to rows in preview: which account each goes to, and what each row is."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import timedelta

from bolsa.core.accounts import KIND_BY_KEY, Account
from bolsa.core.bringing import BroughtRow, BroughtStatement
from bolsa.core.doubts import doubt_by_balance
from bolsa.core.matching import DAYS_SAME_ID, Verdict, judge_rows
from bolsa.core.pending import PendingLine, find_booked, judge_pending
from bolsa.errors import InvalidInput
from bolsa.store import accounts, brought, household, merging
from bolsa.store.brought import StoredRow
from bolsa.store.connection import atomic

_KIND_OF = {"SAVINGS": "savings", "MONEYMRKT": "savings", "CREDITCARD": "card", "CREDITLINE": "loan"}


@dataclass(frozen=True)
class FoundAccount:
    """One account of a file: its number there ("" if it has none), what it seems to be, how many rows it brings, and the
    account here it goes to, None while nobody knows."""

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
        found.append(FoundAccount(number, kind, group[0].currency, sum(len(s.rows) for s in group), account))
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
    rows = [row for statement in statements for row in statement.rows]
    lists_all = any(statement.lists_pending for statement in statements)
    closing = max((s for s in statements if s.balance_minor is not None), key=lambda s: s.balance_day, default=None)
    before = accounts.find_bank_balance(db, account.id, closing.balance_day) if closing else None
    verdicts, vanished = _judge(db, account, rows, kind, lists_all=lists_all)
    booked = [i for i, row in enumerate(rows) if not row.pending]
    doubted = doubt_by_balance(
        [rows[i] for i in booked], [verdicts[i] for i in booked], before, closing.balance_minor if closing else None
    )
    for i, verdict in zip(booked, doubted, strict=True):
        verdicts[i] = verdict
    brought.insert_rows(db, batch_id, account.id, zip(rows, verdicts, strict=True))
    brought.insert_rows(db, batch_id, account.id, [_vanished(line) for line in vanished])
    for statement in statements:
        if statement.balance_minor is not None:
            accounts.insert_bank_balance(db, account.id, statement.balance_day, statement.balance_minor, batch_id)


def _vanished(line: PendingLine) -> tuple[BroughtRow, Verdict]:
    row = BroughtRow(line.day, line.amount_minor, line.text, bank_ref=line.bank_ref, pending=True)
    return row, Verdict("vanished", True, "the bank announced it and does so no longer; it goes to the trash", line.line_id)


def _judge(
    db: sqlite3.Connection, account: Account, rows: list[BroughtRow], kind: str, *, lists_all: bool
) -> tuple[list[Verdict], list[PendingLine]]:
    """A verdict a row against what is here now, and the pending lines that have vanished."""
    announced = merging.list_pending_lines(db, account.id)
    booked = [i for i, row in enumerate(rows) if not row.pending]
    waiting = [i for i, row in enumerate(rows) if row.pending]
    verdicts: dict[int, Verdict] = {}
    if booked:
        first = min(rows[i].day for i in booked) - timedelta(days=DAYS_SAME_ID)
        last = max(rows[i].day for i in booked) + timedelta(days=DAYS_SAME_ID)
        known = brought.list_known_rows(db, account.id, first, last)
        open_lines = merging.list_open_lines(db, account.id, first, last)
        members = [rows[i] for i in booked]
        now_booked = find_booked(members, announced, account.currency)
        verdicts = dict(zip(booked, judge_rows(members, known, open_lines, kind, now_booked), strict=True))
    taken = {verdict.line_id for verdict in verdicts.values()}
    left = [line for line in announced if line.line_id not in taken]
    pending, vanished = judge_pending([rows[i] for i in waiting], left, account.currency, lists_all=lists_all)
    verdicts |= dict(zip(waiting, pending, strict=True))
    return [verdicts[i] for i in range(len(rows))], vanished


def judge_again(db: sqlite3.Connection, batch_id: int) -> None:
    """Judges a batch anew when another was brought in while it waited: what that one brought is here now.

    What the user decided stays decided.
    """
    rows = [row for row in brought.list_rows(db, batch_id) if row.verdict != "vanished"]
    with atomic(db):
        for account_id in dict.fromkeys(row.account_id for row in rows):
            members: list[StoredRow] = [row for row in rows if row.account_id == account_id]
            account, kind = accounts.get_account(db, account_id), brought.get_format(db, batch_id)
            verdicts, _ = _judge(db, account, [row.as_brought() for row in members], kind, lists_all=False)
            for row, verdict in zip(members, verdicts, strict=True):
                if not row.is_overruled:
                    brought.change_row_verdict(db, row.id, verdict)


def as_kind(found: FoundAccount, kind: str) -> FoundAccount:
    """The found account as the user calls its kind. Raises: InvalidInput for a kind there is not."""
    if kind not in KIND_BY_KEY:
        raise InvalidInput("Choose one of the kinds.", field="account")
    return replace(found, kind=kind)
