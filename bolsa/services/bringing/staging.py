"""From statements to rows in preview: which account each goes to, and the rows kept beside what they are (judging.py)."""

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from itertools import chain

from bolsa.core.accounts.account import KIND_BY_KEY, Account
from bolsa.core.bringing.batch import BatchAccount
from bolsa.core.bringing.rows import BroughtRow, BroughtStatement
from bolsa.errors import InvalidInput
from bolsa.services.bringing.judging import ask_about_untold, judge_batch
from bolsa.services.bringing.proving import prove_by_balances
from bolsa.services.bringing.uploads import bare_number
from bolsa.services.holdings import trading
from bolsa.services.progress import Report, silent
from bolsa.store import journal
from bolsa.store.accounts import accounts
from bolsa.store.bringing import batches, brought, brought_shares, coverage
from bolsa.store.house import household

LONGEST_BEFORE = 366  # days; a source that declares more before its first row writes something else there

_KIND_OF = {"SAVINGS": "savings", "MONEYMRKT": "savings", "CREDITCARD": "card", "CREDITLINE": "loan", "INVESTMENT": "brokerage"}


@dataclass(frozen=True)
class FoundAccount:
    """One account of a file: its number there ("" if it has none), what it seems to be, how many rows and trades it
    brings, and the account here it goes to, None while nobody knows."""

    number: str
    kind: str
    currency: str
    rows: int
    account: Account | None
    first_day: date | None = None  # the first day the file speaks of

    def as_brought(self) -> BatchAccount:
        """As it is kept with its batch."""
        account_id = self.account.id if self.account else None
        return BatchAccount(self.number, self.kind, self.currency, self.rows, self.first_day, account_id)

    @property
    def proposed_name(self) -> str:
        return f"{KIND_BY_KEY[self.kind].label} {self.number}".strip()


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
        found.append(FoundAccount(number, kind, group[0].currency, rows, account, _first_day(group)))
    return found


def found_accounts(db: sqlite3.Connection, batch_id: int) -> list[FoundAccount]:
    """The accounts of a batch's file, as they were found when it was read."""
    by_id = {account.id: account for account in accounts.list_accounts(db)}
    return [
        FoundAccount(one.number, one.kind, one.currency, one.rows, by_id.get(one.account_id or 0), one.first_day)
        for one in batches.list_batch_accounts(db, batch_id)
    ]


def _first_day(statements: list[BroughtStatement]) -> date | None:
    """The first day statements speak of, None if they speak of none."""
    rows = (row.day for statement in statements for row in statement.rows)
    told = [s.shares for s in statements if s.shares]
    moves = (move.day for said in told for move in said.moves)
    listed = (position.day for said in told for position in said.positions)
    return min(chain(rows, moves, listed, (s.balance_day for s in statements if s.balance_day)), default=None)


def _counted(statements: list[BroughtStatement], report: Report) -> Iterator[BroughtRow]:
    """The rows of the statements, each thousandth of which says how far it is."""
    total, done = sum(len(statement.rows) for statement in statements), 0
    for statement in statements:
        for row in statement.rows:
            if done % 1_000 == 0:
                report(done, total, f"Reading row {done + 1:,} of {total:,}")
            done += 1
            yield row


def as_kind(found: FoundAccount, kind: str) -> FoundAccount:
    """The found account as the user calls its kind. Raises: InvalidInput for a kind there is not."""
    if kind not in KIND_BY_KEY:
        raise InvalidInput("Choose one of the kinds.", field="account")
    return replace(found, kind=kind)


def make_account(
    db: sqlite3.Connection, found: FoundAccount, like: Account | None, today: date, name: str = "", batch_id: int | None = None
) -> Account:
    """A new account for one a file holds and nobody here knows, from the first day the file speaks of, else today on; `like`
    lends its institution, `batch_id` is the file's. It is part of the caller's transaction. Raises: InvalidInput if there is one
    of that name."""
    home = household.get_household(db).home_currency
    currency = found.currency or home
    kind = KIND_BY_KEY[found.kind]
    everyday = kind.everyday and currency == home
    made = Account(
        id=0, name=name or found.proposed_name, kind=kind.key, side=kind.side, everyday=everyday, currency=currency,
        institution=like.institution if like else "", number=found.number, group=kind.group_for(everyday),
        opened_on=found.first_day or today, shown=True, note="",
    )  # fmt: skip
    if accounts.find_account_named(db, made.name):
        raise InvalidInput(f"There is an account “{made.name}” already. Choose it, or give another name.", field="account")
    return accounts.get_account(db, accounts.insert_account(db, made, batch_id))


def stage_found(
    db: sqlite3.Connection,
    batch_id: int,
    statements: list[BroughtStatement],
    found: list[FoundAccount],
    warnings: list[str],
    report: Report = silent,
) -> None:
    """Stages a file whose accounts are known, what it says of shares too; keeps the sentences about what was odd."""
    targets = {one.number: one.account for one in found if one.account}
    warnings += [
        f"The file names the account {number}; it is brought to {account.name}, as you chose."
        for number, account in targets.items()
        if number and account.number and account.number != number
    ]
    warnings += stage(db, batch_id, statements, targets, report)
    warnings += stage_shares(db, batch_id, statements, targets)
    batches.put_warnings(db, batch_id, list(dict.fromkeys(warnings)))


def stage_shares(
    db: sqlite3.Connection, batch_id: int, statements: list[BroughtStatement], targets: dict[str, Account]
) -> list[str]:
    """Keeps what a file says of shares, in the place of what was kept before; gives the sentences about what was odd."""
    warnings = []
    brought_shares.remove_shares(db, batch_id)
    for statement in statements:
        account = targets.get(bare_number(statement.number))
        if statement.shares is None or account is None:
            continue
        if account.closed_on is not None:
            raise InvalidInput(f"{account.name} is closed since {account.closed_on}. Open it again first.", field="account")
        if not trading.may_hold_shares(account):
            warnings.append(f"{account.name} is of a kind that holds no shares; those in the file are not brought to it.")
        else:
            brought_shares.insert_shares(db, batch_id, account.id, statement.shares)
    return warnings


def stage(
    db: sqlite3.Connection,
    batch_id: int,
    statements: list[BroughtStatement],
    targets: dict[str, Account],
    report: Report = silent,
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
        stage_statements(db, batch_id, accounts.get_account(db, account_id), members, report)
        warnings += [warning for statement in members for warning in statement.warnings]
    return list(dict.fromkeys(warnings))


def _take_on_currency(db: sqlite3.Connection, account: Account, statement: BroughtStatement, warnings: list[str]) -> Account:
    """The account, which takes on the file's currency while it holds nothing. Raises: InvalidInput if it holds something."""
    if not statement.currency or statement.currency == account.currency:
        return account
    if accounts.was_written_on(db, account.id):
        raise InvalidInput(
            f"The file is in {statement.currency}, but {account.name} is kept in {account.currency}.", field="account"
        )
    home = household.get_household(db).home_currency
    accounts.change_currency(db, account.id, statement.currency, everyday=account.everyday and statement.currency == home)
    warnings.append(f"{account.name} held nothing yet and is now kept in {statement.currency}, as the file says.")
    return accounts.get_account(db, account.id)


def stage_statements(
    db: sqlite3.Connection, batch_id: int, account: Account, statements: list[BroughtStatement], report: Report = silent
) -> None:
    """Keeps an account's statements as rows of a batch, each with its verdict, the days they cover, and what the bank says it
    holds."""
    lists_all = any(statement.lists_pending for statement in statements)
    for statement in statements:
        if stretch := _covered(statement):
            first, last, is_declared = stretch
            coverage.insert_coverage(db, batch_id, account.id, first, last, is_declared=is_declared)
        for day, balance_minor in statement.balances:
            accounts.insert_bank_balance(db, account.id, day, balance_minor, batch_id)
    with journal.set_aside(db, sum(len(statement.rows) for statement in statements)):
        brought.insert_rows(db, batch_id, account.id, _counted(statements, report))
        judge_batch(db, batch_id, account, lists_all=lists_all, report=report)
    prove_by_balances(db, batch_id, account)
    ask_about_untold(db, batch_id, account)


def _covered(statement: BroughtStatement) -> tuple[date, date, bool] | None:
    """The first and last day of which a statement tells all bookings, and whether it declares them, or they are those of its
    rows; None if there are none."""
    days = [row.day for row in statement.rows if not row.pending]
    first, last = statement.first_day, statement.last_day
    earliest, latest = min(days, default=first), max(days, default=last)
    if first and last and earliest and first <= last and (earliest - first).days <= LONGEST_BEFORE:
        return min(first, earliest), max(last, latest or last), True
    return (earliest, latest, False) if days and earliest and latest else None
