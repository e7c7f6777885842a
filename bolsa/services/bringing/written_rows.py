"""What becomes of rows when a batch is brought in: new entries, merges, amounts that moved, entries that go; and the way back."""

import json
import sqlite3

from bolsa.core.bringing.batch import StoredRow
from bolsa.core.bringing.bookings import Verdict
from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.ledger.payees import tidy_payee
from bolsa.services.ledger import sides
from bolsa.store.accounts import accounts
from bolsa.store.bringing import brought, merging
from bolsa.store.bringing.brought import OVERRULED
from bolsa.store.ledger import entries
from bolsa.store.sorting.categories import UNSORTED


def write_rows(db: sqlite3.Connection, batch_id: int, rows: list[StoredRow], at: str) -> None:
    """Writes rows that are to be taken; each then knows the line it became, and how the line was before a merge."""
    made: list[tuple[int | None, str | None, int]] = []
    fresh: list[StoredRow] = []
    others = _make_up_lines(rows)
    parts = {part.id for part in others.values()}
    for row in rows:
        if row.verdict == "vanished":
            made.append((None, _let_go(db, row, at), row.id))
            continue
        if row.id in parts:
            continue  # written with the row it makes up a line with
        if (part := others.get(row.id)) and (both := merging.merge_parts(db, row, part)):
            made += [(row.match_line_id, both[0], row.id), (both[1], None, part.id)]
            continue
        before = _merge(db, row) if row.verdict in ("matched", "changed") else None
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
        written.append(entry_of_row(row, tidied[row.payee], currencies[row.account_id], batch_id))
    for row, (_, line_ids) in zip(fresh, entries.insert_entries(db, written), strict=True):
        made.append((line_ids[0], None, row.id))
    brought.set_lines_of_rows(db, made)


def _make_up_lines(rows: list[StoredRow]) -> dict[int, StoredRow]:
    """By the id of the larger of two rows that make up one line: the other one."""
    by_line: dict[int, list[StoredRow]] = {}
    for row in rows:
        if row.verdict == "matched" and row.match_line_id and not row.is_overruled:
            by_line.setdefault(row.match_line_id, []).append(row)
    pairs = [sorted(two, key=lambda row: -abs(row.amount_minor)) for two in by_line.values() if len(two) > 1]
    return {whole.id: part for whole, part in pairs}


def _merge(db: sqlite3.Connection, row: StoredRow) -> str | None:
    """Makes a row and the line it matches one; a side whose amount is another now leaves its transfer first, if another bank
    told of the other side. Gives the line as it was."""
    line = merging.find_amount(db, known(row.match_line_id))
    taken_apart = None
    if line is not None and line != row.amount_minor:
        taken_apart = sides.take_apart_if_told(db, known(row.match_line_id), row.amount_minor)
    before = merging.merge_into_line(db, row)
    return json.dumps(json.loads(before) | {"transfer": taken_apart}) if before and taken_apart else before


def _let_go(db: sqlite3.Connection, row: StoredRow, at: str) -> str | None:
    """Lets go of a pending line that vanished at the bank: one that was typed before it was announced is as it was typed, a
    payday waits for its deposit, a transfer of which another bank told keeps that side, and anything else goes to the trash.
    Gives what takes it back, None if it is not there."""
    line_id = known(row.match_line_id)
    if merging.find_line_state(db, line_id) != ("pending" if row.pending else "cleared"):
        return None
    announced = brought.find_row_of_line(db, line_id)
    typed = announced.line_before if announced and "raw_text" in (announced.line_before or "") else None
    words = merging.take_words_off(db, line_id, typed=typed)
    if words is not None:
        return json.dumps({"words": words})
    taken_apart = sides.take_apart_if_told(db, line_id, None)
    entry = entries.get_entry_of_line(db, line_id)
    trash_id = entries.move_to_trash(
        db,
        entry.id,
        f"{entry.day.isoformat()} {entry.payee}, {'announced and never booked' if row.pending else 'told no more'}",
        at,
    )
    return json.dumps({"trash_id": trash_id, "transfer": taken_apart})


def take_back(db: sqlite3.Connection, row: StoredRow) -> None:
    """Undoes what a row did to a line that was here before it."""
    before = known(row.line_before)
    was = json.loads(before)
    if "words" in was:
        merging.put_words_back(db, known(row.match_line_id), was["words"])
    elif "trash_id" in was:
        if entries.is_in_trash(db, was["trash_id"]):
            entries.restore_from_trash(db, was["trash_id"])
    elif row.line_id:
        merging.unmerge_line(db, row.line_id, before)
    if was.get("transfer"):
        sides.put_together(db, was["transfer"])


def bring_row(db: sqlite3.Connection, row_id: int) -> int:
    """Brings in one row that was left out, or whose entry was deleted; gives the account line's id. It is part of the
    caller's step."""
    row = brought.get_row(db, row_id)
    if row.line_id and (trash_id := entries.find_trash_of_line(db, row.line_id)):
        entries.restore_from_trash(db, trash_id)
        return row.line_id
    account = accounts.get_account(db, row.account_id)
    payee = brought.list_learned_payees(db, {row.payee}).get(row.payee) or tidy_payee(row.payee)
    _, line_ids = entries.insert_entries(db, [entry_of_row(row, payee, account.currency, None)])[0]
    brought.change_row_verdict(db, row_id, Verdict("new", True, OVERRULED))
    brought.set_lines_of_rows(db, [(line_ids[0], None, row_id)])
    return line_ids[0]


def entry_of_row(row: StoredRow, payee: str, currency: str, batch_id: int | None) -> Entry:
    """The entry a row makes, not sorted yet."""
    line = Line(
        row.amount_minor, currency, account_id=row.account_id, day=row.day, state="pending" if row.pending else "cleared",
        bank_ref=row.bank_ref, value_day=row.value_day, raw_text=row.raw_text,
    )  # fmt: skip
    unsorted = Line(-row.amount_minor, currency, category_id=UNSORTED, day=row.day)
    return Entry(row.day, payee or "Unnamed", (line, unsorted), memo=row.memo[:300], batch_id=batch_id)
