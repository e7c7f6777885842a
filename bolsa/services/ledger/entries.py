"""Recording, changing and deleting entries."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.loan import split_payment
from bolsa.core.known import known
from bolsa.core.ledger.entries import (
    Entry,
    Line,
    Part,
    StoredEntry,
    continue_lines,
    entry_on_account,
    require_balanced,
    transfer_entry,
)
from bolsa.core.ledger.quick_line import LastEntry, Understood, Vocabulary, complete, fill_from_last, understand
from bolsa.core.months import add_months
from bolsa.core.sorting.circumstances import Case
from bolsa.core.sorting.suggestions import suggest
from bolsa.core.units import Money
from bolsa.errors import InvalidInput, NotAllowed
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.house.preferences import reader_of
from bolsa.store.accounts import accounts, terms
from bolsa.store.checking import statements
from bolsa.store.holdings import trades
from bolsa.store.house import household
from bolsa.store.ledger import entries, payees, tags
from bolsa.store.pay import pay
from bolsa.store.sorting import categories
from bolsa.store.sorting.categories import EXCHANGE, OPENING, UNSORTED


@dataclass(frozen=True)
class TypedEntry:
    """An entry as it is typed on an account: the amount signed from the account's side, and parts under categories, or the
    account at the other end (with the amount that arrives there, when its currency is another), or both: a loan payment
    whose interest is a part, the loan taking the rest.

    `set_by_id` names the category when money goes from an everyday to an apart account.
    """

    day: date
    payee: str
    amount_minor: int
    parts: tuple[Part, ...] = ()
    other_account_id: int | None = None
    other_amount_minor: int | None = None
    set_by_id: int | None = None
    memo: str = ""
    note: str = ""
    state: str = "pending"


def record_entry(db: sqlite3.Connection, by: By, account_id: int, typed: TypedEntry) -> Done:
    """Writes a typed entry. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        account = accounts.get_account(db, account_id)
        _require_open_accounts(db, account_id, typed.other_account_id)
        entry = _entry_of(db, account, typed, by.today)
        done.sentence = f"Entered {_title(entry, account)}"
        entry_id = entries.insert_entry(db, entry)
        done.made = entry_id
    return done


def _require_open_accounts(db: sqlite3.Connection, *account_ids: int | None) -> None:
    """Nothing, unless one of the accounts is closed. Raises: NotAllowed naming it."""
    for account_id in filter(None, account_ids):
        account = accounts.get_account(db, account_id)
        if account.closed_on is not None:
            raise NotAllowed(f"{account.name} is closed since {account.closed_on}. Open it again first.")


def change_entry(
    db: sqlite3.Connection, by: By, entry_id: int, account_id: int, typed: TypedEntry, *, seen: int | None = None
) -> Done:
    """Writes an entry anew as it was typed on one of its accounts; `seen` is the version its form showed.

    The lines keep what the bank gave them. Raises: NotAllowed if a reconciled line would change its day, amount or
    account.
    """
    with change(db, by) as done:
        before = entries.get_entry(db, entry_id)
        refuse_made_elsewhere(db, before)
        account = accounts.get_account(db, account_id)
        amount = Money(typed.amount_minor, account.currency)
        require_version(db, "entry", entry_id, seen, f"{typed.payee or 'a transfer'}, {amount}")
        is_open = all(part.category_id == UNSORTED for part in typed.parts) and typed.other_account_id is None
        if is_open and any(line.category_id == OPENING for line in before.category_lines):
            typed = replace(typed, parts=(Part(OPENING, -typed.amount_minor),))  # no form offers it to be chosen
        new = _entry_of(db, account, typed, by.today, entry_id)
        lines = continue_lines(before, new, account_id)
        after = replace(before, day=new.day, payee=new.payee, memo=new.memo, note=new.note, lines=lines)
        require_unlocked(db, before, after)
        done.sentence = f"Changed {_title(before, account)}"
        entries.change_entry(db, after)
    return done


def delete_entry(db: sqlite3.Connection, by: By, entry_id: int) -> Done:
    """Moves an entry to the trash. Raises: NotAllowed if a line of it is reconciled."""
    with change(db, by) as done:
        entry = entries.get_entry(db, entry_id)
        refuse_made_elsewhere(db, entry)
        require_unlocked(db, entry, None)
        account = accounts.get_account(db, entry.account_lines[0].on_account_id)
        title = _title(entry, account)
        done.sentence = f"Deleted {title}"
        entries.move_to_trash(db, entry_id, f"{entry.day.isoformat()} {title}", by.at)
    return done


def set_category(db: sqlite3.Connection, by: By, entry_id: int, category_id: int) -> Done:
    """Files a whole entry under one category."""
    with change(db, by) as done:
        entry = entries.get_entry(db, entry_id)
        refuse_made_elsewhere(db, entry)
        if entry.is_transfer or len(entry.category_lines) != 1:
            raise InvalidInput("A transfer or a split is changed in its form.", field="category")
        category = categories.get_category(db, category_id)
        line = entry.category_lines[0]._replace(category_id=category_id)
        done.sentence = f"Filed {entry.payee} under {category.name}"
        entries.change_entry(db, replace(entry, lines=(*entry.account_lines, line)))
    return done


def set_state(db: sqlite3.Connection, by: By, line_id: int, state: str) -> Done:
    """Sets a line pending or cleared. Raises: NotAllowed if it is reconciled."""
    with change(db, by) as done:
        entry = entries.get_entry_of_line(db, line_id)
        line = next(line for line in entry.lines if line.id == line_id)
        if line.state == "reconciled":
            _refuse_locked(db, line)
        if state not in ("pending", "cleared") or line.account_id is None:
            raise InvalidInput("A line is pending or cleared; checking makes it reconciled.", field="state")
        done.sentence = f"Marked {entry.payee} as {state}"
        entries.change_line_state(db, line_id, state)
    return done


def _entry_of(db: sqlite3.Connection, account: Account, typed: TypedEntry, today: date, besides: int | None = None) -> Entry:
    if typed.day > today + timedelta(days=366) or typed.day < date(1970, 1, 1):
        raise InvalidInput("That day is too far away. Look at the year.", field="day")
    payee = " ".join(typed.payee.split())
    if not payee and typed.other_account_id is None:
        raise InvalidInput("Say who it was paid to, or who paid.", field="payee")
    if len(payee) > 120:
        raise InvalidInput("The payee is too long; 120 letters are enough.", field="payee")
    words = {"memo": typed.memo.strip(), "note": typed.note.strip()}
    line = Line(typed.amount_minor, account.currency, account_id=account.id, state=typed.state)
    if typed.other_account_id is None:
        parts = typed.parts or (Part(UNSORTED, -typed.amount_minor),)
        for part in parts:
            categories.get_category(db, part.category_id)
        return entry_on_account(typed.day, payee, line, parts, **words)
    return _transfer_of(db, account, line, typed, payee, words, besides)


def _transfer_of(
    db: sqlite3.Connection, account: Account, line: Line, typed: TypedEntry, payee: str, words: dict[str, Any],
    besides: int | None,
) -> Entry:  # fmt: skip
    other = accounts.get_account(db, known(typed.other_account_id))
    if other.id == account.id:
        raise InvalidInput("A transfer needs another account.", field="other_account")
    arriving = typed.other_amount_minor
    typed = _with_loan_parts(db, account, other, typed, besides)
    for part in typed.parts:
        categories.get_category(db, part.category_id)
    parts = tuple(part.as_line(account.currency, typed.day) for part in typed.parts)
    if other.currency == account.currency:
        arriving = -typed.amount_minor - sum(part.amount_minor or 0 for part in typed.parts)
    elif parts:
        raise InvalidInput("A transfer between currencies cannot be split.", field="split")
    elif arriving is None:
        raise InvalidInput(f"Say how much arrives, in {other.currency}.", field="other_amount")
    else:
        arriving = abs(arriving) * (-1 if typed.amount_minor > 0 else 1)
    far = Line(arriving, other.currency, account_id=other.id, state="pending")
    set_by_id = typed.set_by_id if account.everyday != other.everyday else None
    if set_by_id is not None:
        categories.get_category(db, set_by_id)
    # The category stands on the apart account's line: there the money left the budget.
    if set_by_id and other.everyday:
        line = line._replace(category_id=set_by_id)
    elif set_by_id:
        far = far._replace(category_id=set_by_id)
    if parts:
        if not arriving or (arriving > 0) == (typed.amount_minor > 0):
            raise InvalidInput("The parts leave nothing for the other account.", field="split")
        entry = Entry(
            typed.day, payee or other.name, (line._replace(day=typed.day), far._replace(day=typed.day), *parts), **words
        )
        require_balanced(entry)
        return entry
    out, into = (line, far) if typed.amount_minor <= 0 else (far, line)
    return transfer_entry(typed.day, payee or f"{other.name}", out, into, EXCHANGE, **words)


def _with_loan_parts(
    db: sqlite3.Connection, account: Account, other: Account, typed: TypedEntry, besides: int | None
) -> TypedEntry:
    """A payment to a loan whose terms are known, split by itself. What was split by hand stays so."""
    if typed.parts:
        return typed
    interest, set_by_id = loan_interest(db, account, other, typed.day, typed.amount_minor, besides)
    if interest is None:
        return typed
    return replace(typed, parts=(interest,), set_by_id=typed.set_by_id if typed.set_by_id is not None else set_by_id)


def loan_interest(
    db: sqlite3.Connection, account: Account, other: Account, day: date, amount_minor: int, besides: int | None = None
) -> tuple[Part | None, int | None]:
    """What of a payment from an account to a loan is interest, None where it is no such payment or none is due, and the category
    that paying back is set by from. `besides` is the entry that is split anew.

    A month's interest is paid once, whatever is paid within the month. Raises: InvalidInput for a payment that does not cover it:
    nothing would be paid back.
    """
    own = terms.get_terms(db, other.id)
    pays = other.kind in ("loan", "mortgage") and amount_minor < 0 and account.currency == other.currency
    if not pays or own.rate is None or own.interest_category_id is None:
        return None, None
    owed = -accounts.sum_balance_without(db, other.id, day - timedelta(days=1), besides)
    paid = terms.sum_interest_paid(db, other.id, own.interest_category_id, add_months(day, -1), day, besides)
    interest, principal = split_payment(owed, own.rate, -amount_minor, paid)
    if interest and not principal:
        due = Money(interest, account.currency)
        raise InvalidInput(
            f"The month's interest of {other.name} is {due} or more, so this pays nothing back. Enter it as spending.",
            field="amount",
        )
    return (Part(own.interest_category_id, interest) if interest else None), own.set_by_id


def refuse_made_elsewhere(db: sqlite3.Connection, entry: StoredEntry) -> None:
    """Nothing, unless the entry follows from something else: it books what led to a noted value, is a payday, or the
    cash of a trade.

    Raises: NotAllowed saying what to change instead.
    """
    if entry.origin == "value":
        raise NotAllowed(f"This entry books what led to the value noted on {entry.day}. Change or forget that value instead.")
    payday = pay.find_payday_of_entry(db, entry.id)
    if payday is not None:
        raise NotAllowed(f"This entry is the payday of {payday[1]}. Change its payslip under Due, Pay, or take that back.")
    trade = trades.find_trade_of_entry(db, entry.id)
    if trade is not None:
        raise NotAllowed(
            f"This entry is the cash of a trade of {trade.day}. Change or take out the trade under Holdings instead."
        )


def require_unlocked(db: sqlite3.Connection, before: StoredEntry, after: StoredEntry | None) -> None:
    """Nothing, unless a reconciled line would lose its day, amount or account. Raises: NotAllowed naming the statement."""
    for line in before.account_lines:
        if line.state != "reconciled":
            continue
        same = after is not None and any(
            (n.id, n.account_id, n.amount_minor, n.day) == (line.id, line.account_id, line.amount_minor, line.day)
            for n in after.lines
        )
        if not same:
            _refuse_locked(db, line)


def _refuse_locked(db: sqlite3.Connection, line: Line) -> None:
    statement = statements.get_statement(db, known(line.statement_id))
    account = accounts.get_account(db, line.on_account_id)
    raise NotAllowed(
        f"This line is reconciled with the statement of {account.name} of {statement.closing_day}. "
        "Reopen that statement under Check to change its day, amount or account."
    )


def _title(entry: Entry, account: Account) -> str:
    line = next((line for line in entry.account_lines if line.account_id == account.id), entry.account_lines[0])
    return f"{entry.payee}, {Money(line.amount_minor, line.currency)}"


def vocabulary_of(db: sqlite3.Connection, account_id: int) -> Vocabulary:
    """The names a quick line on this account may use."""
    return Vocabulary(
        categories=[(c.id, c.name) for c in categories.list_categories(db)],
        accounts=[(a.id, a.name) for a in accounts.list_accounts(db) if a.id != account_id and a.closed_on is None],
        payees=payees.list_usual_payees(db),
        members=[(m.id, m.name) for m in household.list_members(db)],
        tags=[tag.name for tag in tags.list_tags(db) if not tag.retired],
        reader=reader_of(db),
    )


def understand_line(db: sqlite3.Connection, by: By, account_id: int, text: str) -> Understood:
    """What a quick line says; what it leaves open is taken from the payee's last entry, else the category from what is usual."""
    account = accounts.get_account(db, account_id)
    said = understand(text, vocabulary_of(db, account_id), account.currency, by.today)
    payee_id = payees.list_payee_names(db).get(said.payee) if said.payee and said.to_account_id is None else None
    if payee_id is None:
        return said
    was_open = said.amount_minor is None
    said = fill_from_last(said, _last_entry(db, payee_id, account))
    if not said.parts and not was_open:
        usual = suggest(categories.list_decisions(db, payee_id), Case(known(said.amount_minor), account_id, said.day))
        if usual:
            said = replace(said, parts=(Part(usual.choices[0].category_id),), filled=(*said.filled, "category"))
    return said


def _last_entry(db: sqlite3.Connection, payee_id: int, account: Account) -> LastEntry | None:
    """The payee's last sorted entry of categories alone, in the account's currency."""
    entry_id = entries.find_last_sorted(db, payee_id, account.currency)
    if entry_id is None:
        return None
    entry = entries.get_entry(db, entry_id)
    amount = entry.account_lines[0].amount_minor
    single = len(entry.category_lines) == 1
    parts = tuple(Part(known(line.category_id), None if single else abs(line.amount_minor)) for line in entry.category_lines)
    first = entry.category_lines[0]
    return LastEntry(amount, parts, first.tags, first.member_id)


def complete_line(db: sqlite3.Connection, account_id: int, text: str) -> str:
    """The quick line with its last word completed, "" when there is nothing to complete."""
    return complete(text, vocabulary_of(db, account_id))


def record_quick_line(db: sqlite3.Connection, by: By, account_id: int, text: str) -> Done:
    """Writes the entry a quick line describes. Raises: InvalidInput."""
    with change(db, by) as done:
        said = understand_line(db, by, account_id, text)
        if not said.is_complete:
            raise InvalidInput(f"The line still lacks {' and '.join(said.missing)}.", field="quick")
        account_id = said.from_account_id or account_id
        account = accounts.get_account(db, account_id)
        if said.to_account_id and accounts.get_account(db, said.to_account_id).currency != account.currency:
            raise InvalidInput("A transfer to another currency needs both amounts: use the form.", field="quick")
        parts: tuple[Part, ...] = ()
        amount = known(said.amount_minor)
        if said.to_account_id is None:
            parts = said.filled_parts() or (Part(UNSORTED, -amount, said.member_id, said.tags),)
        typed = TypedEntry(said.day, said.payee, amount, parts, said.to_account_id, set_by_id=said.category_id, memo=said.memo)
        done.made = record_entry(db, by, account_id, typed).made
    return done


def shift_days(db: sqlite3.Connection, by: By, entry: StoredEntry, by_days: timedelta) -> Done:
    """Moves an entry and its lines by some days. Raises: NotAllowed if a line of it is reconciled."""
    with change(db, by) as done:
        lines = tuple(line._replace(day=known(line.day) + by_days) for line in entry.lines)
        after = replace(entry, day=entry.day + by_days, lines=lines)
        require_unlocked(db, entry, after)
        done.sentence = f"Moved {entry.payee} to {after.day.isoformat()}"
        entries.change_entry(db, after)
    return done


def get_entry(db: sqlite3.Connection, entry_id: int) -> StoredEntry:
    """The entry, whole. Raises: NotFound."""
    return entries.get_entry(db, entry_id)


def entry_of_line(db: sqlite3.Connection, line_id: int) -> StoredEntry:
    """The entry a line belongs to. Raises: NotFound."""
    return entries.get_entry_of_line(db, line_id)
