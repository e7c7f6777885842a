"""Keeping pays: taken apart from a series, changed, forgotten; paydays confirmed against the payslip, and taken back."""

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.due.dues import Series
from bolsa.core.ledger.entries import Entry, Line, StoredEntry, require_balanced
from bolsa.core.pay.payday import Pay
from bolsa.core.pay.payslip import EARNED, KINDS, PayLine, Payslip, entry_lines, income_category, reckon
from bolsa.core.units import Money
from bolsa.errors import Conflict, InvalidInput, NotAllowed
from bolsa.services.changes import Done, change, require_untouched, require_version
from bolsa.services.clock import By
from bolsa.services.ledger.entries import require_unlocked
from bolsa.services.pay.paydays import choose_day, list_days
from bolsa.store.accounts import accounts
from bolsa.store.due import series as kept_series
from bolsa.store.ledger import entries
from bolsa.store.pay import pay as pays
from bolsa.store.sorting import categories
from bolsa.store.sorting.categories import UNSORTED

DAYS_TO_ARRIVE = 4  # a second deposit of a payday lies so many days about the first


def keep_pay(
    db: sqlite3.Connection, by: By, series_id: int, member_id: int | None, kept_from: date, lines: Sequence[PayLine]
) -> Done:
    """Takes a series that comes in apart; makes the pay's id. The series expects the net from then on.

    Raises: InvalidInput naming the field; Conflict if it is taken apart already.
    """
    with change(db, by) as done:
        series = kept_series.get_series(db, series_id)
        if series.amount_minor <= 0:
            raise InvalidInput("Only what comes in can be taken apart as pay.")
        if pays.find_pay_of_series(db, series_id) is not None:
            raise Conflict(f"{series.payee} is taken apart already.")
        checked = _checked(db, series, lines)
        done.made = pays.insert_pay(db, series_id, member_id, kept_from)
        for position, line in enumerate(checked):
            pays.put_line(db, done.made, line, position)
        _expect_net(db, series, checked)
        done.sentence = f"Took the pay of {series.payee} apart"
    return done


def change_pay(
    db: sqlite3.Connection, by: By, pay_id: int, member_id: int | None, kept_from: date, lines: Sequence[PayLine], *,
    seen: int | None = None,
) -> Done:  # fmt: skip
    """Changes a pay; paydays that are confirmed stay as they are, and so do their lines.

    Raises: InvalidInput; Conflict if it changed after the version seen.
    """
    with change(db, by) as done:
        before = pays.get_pay(db, pay_id)
        series = kept_series.get_series(db, before.series_id)
        require_version(db, "pay", pay_id, seen, series.payee)
        checked = _checked(db, series, lines)
        if {line.id for line in checked if line.id} - {line.id for line in before.lines}:
            raise Conflict("A line of this pay is gone meanwhile. Look at it as it is now.")
        first = min((payday.day for payday in pays.list_paydays(db, pay_id)), default=kept_from)
        if kept_from > first:
            raise InvalidInput(
                f"The payday of {first} is confirmed already: keep it from then on, or earlier.", field="kept_from"
            )
        pays.change_pay(db, pay_id, member_id, kept_from)
        for position, line in enumerate(checked):
            pays.put_line(db, pay_id, line, position)
        kept_ids = {line.id for line in checked}
        for line in before.lines:
            if line.id not in kept_ids and line.is_usual:
                _drop_line(db, pay_id, line)
        _expect_net(db, series, checked)
        done.sentence = f"Changed the pay of {series.payee}"
    return done


def _drop_line(db: sqlite3.Connection, pay_id: int, line: PayLine) -> None:
    """Takes a line out; one that payslips told of stays for the year's sake, and is no longer usual."""
    if pays.is_line_told(db, line.id) or line.start_minor:
        pays.put_line(db, pay_id, replace(line, is_usual=False), 10_000)
    else:
        pays.remove_line(db, line.id)


def forget_pay(db: sqlite3.Connection, by: By, pay_id: int) -> Done:
    """Forgets how a pay is taken apart; its series stays. Raises: NotAllowed while paydays of it are confirmed."""
    with change(db, by) as done:
        pay = pays.get_pay(db, pay_id)
        confirmed = len(pays.list_paydays(db, pay_id))
        if confirmed:
            some = "A payday of it is" if confirmed == 1 else f"{confirmed} paydays of it are"
            raise NotAllowed(f"{some} confirmed. Take that back first, or end its series.")
        pays.remove_pay(db, pay_id)
        done.sentence = f"Forgot the pay of {kept_series.get_series(db, pay.series_id).payee}"
    return done


def _expect_net(db: sqlite3.Connection, series: Series, lines: Sequence[PayLine]) -> None:
    """What is due each payday is the net of the usual payslip."""
    net = reckon(lines).net_minor
    if net <= 0:
        raise InvalidInput("More is taken off than is earned.", field="lines")
    kept_series.change_series(db, replace(series, amount_minor=net, amount_kind="fixed"))


def _checked(db: sqlite3.Connection, series: Series, lines: Sequence[PayLine]) -> list[PayLine]:
    """The lines, if they make a pay. Raises: InvalidInput."""
    known = {account.id: account for account in accounts.list_accounts(db)}
    checked = [_checked_line(db, series, line, known) for line in lines]
    if not any(line.kind == EARNED for line in checked):
        raise InvalidInput("A pay has a line that is earned.", field="lines")
    if next(line for line in checked if line.kind == EARNED).category_id is None:
        raise InvalidInput("Say under which category of income it comes in.", field="lines")
    names = [(line.kind, line.name.casefold()) for line in checked]
    if len(set(names)) < len(names):
        raise InvalidInput("Two lines have the same name.", field="lines")
    return checked


def _checked_line(db: sqlite3.Connection, series: Series, line: PayLine, known: Mapping[int, Account]) -> PayLine:
    name = " ".join(line.name.split())[:80]
    if line.kind not in KINDS or not name:
        raise InvalidInput("Each line has a name, and is earned, taken off, or the employer’s part.", field="lines")
    if line.percent is not None and (line.kind == EARNED or not 0 < line.percent.value <= 100):
        raise InvalidInput(f"{name}: so many per cent of gross, up to 100; what is earned is an amount.", field="lines")
    if line.account_id is not None:
        account = known.get(line.account_id)
        if line.kind == EARNED or account is None or account.id == series.account_id or account.closed_on is not None:
            raise InvalidInput(f"{name} cannot go to that account.", field="lines")
        if account.currency != series.currency:
            raise InvalidInput(f"{name}: {account.name} is in {account.currency}. Only an account in {series.currency} fits.",
                               field="lines")  # fmt: skip
    if line.category_id is not None:
        category = categories.get_category(db, line.category_id)
        if line.kind == EARNED and category.type != "income":
            raise InvalidInput(f"{name} is earned: {category.name} is no category of income.", field="lines")
    return replace(line, name=name, is_usual=True)


def confirm(
    db: sqlite3.Connection, by: By, pay_id: int, day: date, amounts: Mapping[int, int], extra: Sequence[PayLine] = (), *,
    seen: int | None = None,
) -> Done:  # fmt: skip
    """Confirms a payday: what its payslip says, line by line, becomes the lines of one entry, which claims the bank's deposit, or
    awaits it. A payday that is confirmed already is changed. Makes the entry's id.

    `amounts` are by the pay's lines; `extra` lines stand on this payslip alone. Raises: InvalidInput if the payslip does not come
    to the deposit, or for a day that is no payday; Conflict if the pay changed after the version seen; NotAllowed if a reconciled
    line would change.
    """
    with change(db, by) as done:
        pay = pays.get_pay(db, pay_id)
        series = kept_series.get_series(db, pay.series_id)
        require_version(db, "pay", pay_id, seen, series.payee)
        require_untouched(db, "payday", {"pay_id": pay_id, "day": day.isoformat()}, seen, f"{series.payee} of {day}")
        state = choose_day(list_days(db, by, pay), day)
        if state is None:
            raise InvalidInput(f"{day} is no payday.")
        if state.state == "confirmed" and seen is None:
            raise Conflict(f"The payday of {day} is confirmed already.")
        known = {account.id: account for account in accounts.list_accounts(db)}
        added = []
        for line in extra:
            checked = replace(_checked_line(db, series, line, known), is_usual=False)
            id_ = pays.put_line(db, pay_id, replace(checked, amount_minor=None), 10_000)
            added.append((replace(checked, id=id_), line.amount_minor or 0))
        stands = {line.id: amounts.get(line.id, 0) for line in pay.lines}
        slip = Payslip((*((line, stands[line.id]) for line in pay.lines), *added))
        entry = _deposit_entry(db, series, slip, day, state.deposit.entry_id if state.deposit else None)
        told = {one.pay_line_id: one.line_id for one in state.payday.told} if state.payday else {}
        done.sentence = f"Confirmed the pay of {series.payee} of {day}"
        done.made = _write(db, pay, series, slip, day, entry, told, is_made=state.deposit is None)
    return done


def _deposit_entry(db: sqlite3.Connection, series: Series, slip: Payslip, day: date, entry_id: int | None) -> StoredEntry:
    """The entry of the deposit, which must be the payslip's net; a new one, awaited, where the books have none."""
    net = slip.net_minor
    if net <= 0:
        raise InvalidInput("More is taken off than is earned.", field="net")
    if entry_id is None:
        account = accounts.get_account(db, series.account_id)
        if account.closed_on is not None:
            raise NotAllowed(f"{account.name} is closed since {account.closed_on}. Open it again first.")
        line = Line(net, series.currency, account.id, None, day, "pending")
        made = Entry(day, series.payee, (line, Line(-net, series.currency, None, UNSORTED, day)))
        return entries.get_entry(db, entries.insert_entry(db, made))
    entry = entries.get_entry(db, entry_id)
    came = next(
        line.amount_minor for line in entry.account_lines if line.account_id == series.account_id and line.amount_minor > 0
    )
    if came != net:
        said, brought = Money(net, series.currency), Money(came, series.currency)
        off = Money(abs(came - net), series.currency)
        raise InvalidInput(f"The payslip comes to {said}, the bank brought {brought}: {off} is not told yet.", field="net")
    return entry


def _write(
    db: sqlite3.Connection, pay: Pay, series: Series, slip: Payslip, day: date, entry: StoredEntry, told: Mapping[int, int], *,
    is_made: bool,
) -> int:  # fmt: skip
    """Writes the payday's lines into the entry of its deposit; gives its id."""
    by_id = {line.stored_id: line for line in entry.lines}
    kept = {pay_line_id: by_id[line_id] for pay_line_id, line_id in told.items() if line_id in by_id}
    deposit = next(
        line for line in entry.account_lines if line.account_id == series.account_id and line.id not in set(told.values())
    )
    if {line.id for line in entry.account_lines} - {deposit.id} - {line.id for line in kept.values()}:
        raise NotAllowed("The deposit is part of a transfer. Part the two first.")
    when = deposit.day or entry.day
    for item, amount in slip.items:
        if item.account_id is not None and amount > 0 and item.id not in kept:
            claimed = _claim(db, item.account_id, amount, when, entry.id)
            kept |= {item.id: claimed} if claimed else {}
    all_accounts = accounts.list_accounts(db)
    closed = next((a for a in all_accounts if a.closed_on and a.id in {i.account_id for i, x in slip.items if x}), None)
    if closed is not None:
        raise NotAllowed(f"{closed.name} is closed since {closed.closed_on}. Open it again first.")
    apart_ids = frozenset(account.id for account in all_accounts if not account.everyday)
    lines = entry_lines(slip, deposit, when, income_category(pay.lines), apart_ids, kept, pay.member_id)
    after = replace(entry, lines=tuple(line for _, line in lines))
    require_balanced(after)
    require_unlocked(db, entry, after)
    entries.change_entry(db, after)
    # Lines that are new were written in this order, so their ids go up in it.
    were_there = {line.id for line in after.lines if line.id}
    new_ids = iter(sorted(line.stored_id for line in entries.get_entry(db, entry.id).lines if line.id not in were_there))
    ids = [line.id or next(new_ids) for _, line in lines]
    pairs = [(item.id, id_) for (item, _), id_ in zip(lines, ids, strict=True) if item is not None]
    pays.put_payday(db, pay.id, day, entry.id, pairs, is_made=is_made)
    return entry.id


def _claim(db: sqlite3.Connection, account_id: int, amount_minor: int, day: date, entry_id: int) -> Line | None:
    """The line by which just so much came on the account about that day, moved into the payday's entry."""
    near = timedelta(days=DAYS_TO_ARRIVE)
    other_id = pays.find_deposit_alone(db, account_id, amount_minor, day, day - near, day + near, entry_id)
    if other_id is None:
        return None
    line = entries.get_entry(db, other_id).account_lines[0]
    entries.move_line(db, line.stored_id, entry_id)
    entries.remove_entry(db, other_id)
    return line


def take_back(db: sqlite3.Connection, by: By, pay_id: int, day: date) -> Done:
    """Makes a confirmed payday's entry a plain deposit again; what its bank sent to other accounts becomes entries of their own.
    An entry that was made by confirming, and that no bank knows of, goes.

    Raises: Conflict if the payday is not confirmed.
    """
    with change(db, by) as done:
        pay = pays.get_pay(db, pay_id)
        series = kept_series.get_series(db, pay.series_id)
        payday = next((one for one in pays.list_paydays(db, pay_id) if one.day == day), None)
        if payday is None:
            raise Conflict(f"The payday of {day} is not confirmed.")
        told = {one.line_id for one in payday.told}
        entry = entries.get_entry(db, payday.entry_id)
        pays.remove_payday(db, payday.id)
        deposit = next(line for line in entry.account_lines if line.account_id == series.account_id and line.id not in told)
        for line in entry.account_lines:
            if line.id in told and (line.bank_ref or line.raw_text or line.state == "reconciled"):
                _let_go(db, entry, line)
        done.sentence = f"Took back the pay of {series.payee} of {day}"
        if payday.is_made and deposit.state == "pending" and not deposit.bank_ref and not deposit.raw_text:
            entries.remove_entry(db, entry.id)
            return done
        plain = Line(
            -deposit.amount_minor, deposit.currency, None, income_category(pay.lines), deposit.day, member_id=pay.member_id
        )
        entries.change_entry(db, replace(entry, lines=(deposit, plain)))
    return done


def _let_go(db: sqlite3.Connection, entry: StoredEntry, line: Line) -> None:
    """Makes an entry of its own of a line the bank sent."""
    against = Line(-line.amount_minor, line.currency, None, UNSORTED, line.day)
    made = entries.insert_entry(db, Entry(line.day or entry.day, entry.payee, (against,)))
    entries.move_line(db, line.stored_id, made)
    alone = entries.get_entry(db, made)
    lines = (alone.account_lines[0]._replace(category_id=None), *alone.category_lines)
    entries.change_entry(db, replace(alone, lines=lines))
