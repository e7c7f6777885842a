"""Holes in the course of net worth: found, with what they do to it, and filled."""

import sqlite3
from dataclasses import replace
from datetime import date, timedelta

from bolsa.core.accounts.account import Account
from bolsa.core.accounts.valuation import find_gaps
from bolsa.core.ledger.entries import StoredEntry
from bolsa.core.whole_numbers import counted
from bolsa.core.worth.holes import DAYS_TO_PAY, WorthHole, missing_payments, stretches, unpaid_principal
from bolsa.errors import InvalidInput
from bolsa.services.accounts import holes as open_holes
from bolsa.services.accounts import valuing
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.services.ledger import entries as entry_service
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.accounts import accounts, terms, values
from bolsa.store.connection import reading
from bolsa.store.ledger import entries
from bolsa.store.worth import flows

WAYS = ("between", "carried", "payments")


def list_all_holes(db: sqlite3.Connection, today: date) -> list[WorthHole]:
    """Every hole there is or was, by account in the household's order, each account's in order of day."""
    with reading(db):
        missing = {hole.account_id: hole for hole in open_holes.list_holes(db, today) if "institution" in hole.reason}
        found: list[WorthHole] = []
        for account in accounts.list_accounts(db):
            if account.closed_on is not None:
                continue
            if account.id in missing:
                found.append(WorthHole(account.id, account.name, "missing", missing[account.id].since, None, None))
            elif account.is_valued:
                found += _of_values(db, account, today)
            elif account.kind in ("loan", "mortgage"):
                found += _of_payments(db, account, today)
    return found


def _of_values(db: sqlite3.Connection, account: Account, today: date) -> list[WorthHole]:
    """The stretches of a valued account without a value. The step at the end of one is what was booked there as gain or loss."""
    notes = values.list_values(db, account.id)
    booked = {
        note.day: note.amount_minor - accounts.sum_balance_without(db, account.id, note.day, note.entry_id) for note in notes
    }
    return [
        WorthHole(
            account.id, account.name, "value", gap.before.day, gap.after.day if gap.after else None,
            booked[gap.after.day] if gap.after else None,
        )
        for gap in find_gaps([note.as_noted() for note in notes], today)
    ]  # fmt: skip


def _of_payments(db: sqlite3.Connection, account: Account, today: date) -> list[WorthHole]:
    own = terms.get_terms(db, account.id)
    runs = stretches(missing_payments(own, flows.list_paid_on(db, account.id), today))
    return [
        WorthHole(
            account.id, account.name, "payments", run[0], run[-1],
            unpaid_principal(-accounts.sum_balance(db, account.id, run[0] - timedelta(days=1)), own, len(run)), run,
        )
        for run in runs
    ]  # fmt: skip


def find_payments(db: sqlite3.Connection, hole: WorthHole) -> list[tuple[date, int | None]]:
    """For each payment a loan never heard of: the entry by which an everyday account paid it, None where there is none."""
    amount = terms.get_terms(db, hole.account_id).payment_minor or 0
    near = timedelta(days=DAYS_TO_PAY)
    return [(day, flows.find_entry_paid(db, -amount, day, day - near, day + near)) for day in hole.days]


def fill_hole(db: sqlite3.Connection, by: By, account_id: int, first: date, way: str) -> Done:
    """Fills one hole: a valued account's by a straight line "between" its values or "carried", a loan's by the "payments" that
    everyday accounts made; makes how many values or payments. Raises: InvalidInput if it is not there, or cannot be filled so."""
    with change(db, by) as done:
        hole = next((h for h in list_all_holes(db, by.today) if h.account_id == account_id and h.first == first), None)
        if hole is None or way not in WAYS or (way == "payments") != (hole.kind == "payments") or hole.kind == "missing":
            raise InvalidInput("There is no such hole any more.")
        if way != "payments":
            done.made = valuing.fill_holes(db, by, account_id, way, first).made
        else:
            found = [entry_id for _, entry_id in find_payments(db, hole) if entry_id is not None]
            if not found:
                raise InvalidInput(f"No everyday account paid {hole.name} then. Enter the payments in its register.")
            for entry_id in found:
                _make_payment(db, by, entries.get_entry(db, entry_id), account_id)
            done.made = len(found)
            done.sentence = f"Filled {counted(len(found), 'payment')} into {hole.name}"
    return done


def _make_payment(db: sqlite3.Connection, by: By, entry: StoredEntry, loan_id: int) -> None:
    """Makes a payment on a loan of an entry that was filed as something else; the month's interest is split off by itself."""
    line = entry.account_lines[0]
    typed = TypedEntry(
        entry.day, entry.payee, line.amount_minor, memo=entry.memo, note=entry.note, other_account_id=loan_id,
        state=line.state or "pending",
    )  # fmt: skip
    own = terms.get_terms(db, loan_id)
    entry_service.change_entry(db, by, entry.id, line.on_account_id, replace(typed, set_by_id=own.set_by_id))
