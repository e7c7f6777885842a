"""A register's pages, its saved filters and chosen columns, and changing many of its entries at once."""

import json
import sqlite3
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import timedelta

from bolsa.core.known import known
from bolsa.core.ledger.entries import Line, StoredEntry
from bolsa.core.ledger.register import RegisterFilter, RegisterPage, SavedFilter
from bolsa.core.money import decimal_text
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput
from bolsa.services.bringing import matching_by_hand
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.services.due.finding import list_series_payees
from bolsa.services.house.exports import Amount
from bolsa.services.ledger import entries as entry_service
from bolsa.store.accounts import accounts
from bolsa.store.house import household
from bolsa.store.ledger import entries, register, saved_filters
from bolsa.store.ledger.register import PAGE_ROWS
from bolsa.store.ledger.register_order import ORDERS

__all__ = ["ORDERS", "PAGE_ROWS", "RegisterFilter", "change_many", "list_page"]

COLUMNS = {
    "category": "Category", "memo": "Memo", "tags": "Tags", "member": "For", "state": "State", "balance": "Balance",
    "value_day": "Value date", "bank": "As the bank sent it",
}  # fmt: skip
USUAL_COLUMNS = ("category", "memo", "tags", "state", "balance")
MOST_CHOSEN = 5000
MOST_DAYS_SHIFTED = 366


def list_page(
    db: sqlite3.Connection,
    by: By,
    account_id: int,
    wanted: RegisterFilter,
    *,
    order: str = "day",
    newest_first: bool = True,
    after: str | None = None,
    most: int = PAGE_ROWS,
) -> RegisterPage:
    """One page of an account's register."""
    if wanted.in_series is not None:
        wanted = replace(wanted, series_payees=tuple(list_series_payees(db, by.today)))
    return register.list_register(db, account_id, wanted, order=order, newest_first=newest_first, after=after, most=most)


def list_csv_rows(db: sqlite3.Connection, by: By, account_id: int, wanted: RegisterFilter, order: str, newest_first: bool):
    """The rows a register shows under its filter, all of them, as exported: day, payee, categories, memo, note, tags, amount,
    currency, state."""
    account, after = accounts.get_account(db, account_id), None
    while True:
        page = list_page(db, by, account_id, wanted, order=order, newest_first=newest_first, after=after, most=2000)
        for row in page.rows:
            yield (
                row.day.isoformat(), row.payee, ", ".join(o.name for o in row.others), row.memo, row.note, " ".join(row.tags),
                Amount(decimal_text(row.amount_minor, account.currency)), account.currency, row.state,
            )  # fmt: skip
        after = page.next_key
        if after is None:
            return


def sum_chosen(db: sqlite3.Connection, account_id: int, entry_ids: list[int]) -> tuple[int, int]:
    """How many lines these entries have on the account, and their sum."""
    return register.sum_chosen(db, account_id, entry_ids)


# --- columns and saved filters ----------------------------------------------------------------------------------------


def chosen_columns(db: sqlite3.Connection) -> tuple[str, ...]:
    """The columns registers show beside day, payee and amount."""
    kept = household.find_setting(db, "register columns")
    return tuple(c for c in json.loads(kept) if c in COLUMNS) if kept is not None else USUAL_COLUMNS


def choose_columns(db: sqlite3.Connection, columns: list[str]) -> None:
    """Says which columns registers show from now on."""
    with note(db):
        household.put_setting(db, "register columns", json.dumps([c for c in COLUMNS if c in columns]))


def list_saved_filters(db: sqlite3.Connection) -> list[SavedFilter]:
    """The saved filters by name."""
    return saved_filters.list_saved_filters(db)


def save_filter(db: sqlite3.Connection, by: By, name: str, address: str) -> Done:
    """Saves a filter under a name, replacing one of that name. Raises: InvalidInput."""
    with change(db, by) as done:
        name = " ".join(name.split())
        if not name or len(name) > 40:
            raise InvalidInput("Give the filter a name of up to 40 letters.", field="filter_name")
        if not address:
            raise InvalidInput("Nothing is filtered yet. Choose something to filter by first.", field="filter_name")
        done.sentence = f"Saved the filter {name}"
        saved_filters.put_saved_filter(db, name, address)
    return done


def remove_filter(db: sqlite3.Connection, by: By, filter_id: int) -> Done:
    """Forgets a saved filter."""
    with change(db, by) as done:
        done.sentence = "Removed a saved filter"
        saved_filters.remove_saved_filter(db, filter_id)
    return done


# --- many at once -----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class ManyChange:
    """What is to be done to what is chosen in a register; the fields that matter follow from `what`."""

    what: str
    category_id: int | None = None
    text: str = ""
    member_id: int | None = None
    days: int = 0


def change_many(db: sqlite3.Connection, by: By, account_id: int, entry_ids: list[int], asked: ManyChange) -> Done:
    """Does one thing to several entries as one step.

    Raises: InvalidInput, NotAllowed; nothing is changed then.
    """
    with change(db, by) as done:
        if not entry_ids:
            raise InvalidInput("Choose at least one entry.")
        if len(entry_ids) > MOST_CHOSEN:
            raise InvalidInput(f"Choose up to {MOST_CHOSEN:,} entries at once.")
        if asked.what == "match":
            matching_by_hand.match_two(db, by, account_id, entry_ids)
            done.sentence = "Matched the two as one"
            return done
        if asked.what not in _MANY:
            raise InvalidInput("Choose what to do with the entries.")
        said, do = _MANY[asked.what]
        _require_field(asked)
        count = counted(len(entry_ids), "entry", "entries")
        done.sentence = said.format(count=count, text=asked.text.strip(), days=_so_far(asked.days))
        for entry in entries.list_entries(db, entry_ids):
            entry_service.refuse_made_elsewhere(db, entry)
            do(db, by, account_id, entry, asked)
    return done


def _so_far(days: int) -> str:
    return f"{counted(abs(days), 'day')} {'back' if days < 0 else 'on'}"


def _require_field(asked: ManyChange) -> None:
    if asked.what == "file" and asked.category_id is None:
        raise InvalidInput("Choose the category to file under.")
    if asked.what in ("payee", "tag", "untag") and not asked.text.strip().lstrip("#"):
        raise InvalidInput("Write the payee." if asked.what == "payee" else "Write the tag.")
    if asked.what == "shift" and not 0 < abs(asked.days) <= MOST_DAYS_SHIFTED:
        raise InvalidInput("Write by how many days, such as 1 or -3, a year at most.")


def _file(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    entry_service.set_category(db, by, entry.id, known(asked.category_id))


def _rename(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    entries.change_entry(db, replace(entry, payee=" ".join(asked.text.split())[:120]))


def _tag(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    name = clean_tag(asked.text)
    lines = (line._replace(tags=tuple(sorted({*line.tags, name}))) for line in _tagged_lines(entry))
    entries.change_entry(db, _with_lines(entry, lines))


def _untag(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    name = clean_tag(asked.text).casefold()
    lines = (line._replace(tags=tuple(tag for tag in line.tags if tag.casefold() != name)) for line in _tagged_lines(entry))
    entries.change_entry(db, _with_lines(entry, lines))


def _for_member(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    lines = (line._replace(member_id=asked.member_id) for line in _tagged_lines(entry))
    entries.change_entry(db, _with_lines(entry, lines))


def _tagged_lines(entry: StoredEntry) -> tuple[Line, ...]:
    """The lines that say what money was for: the categories, or for a transfer the far side."""
    return entry.category_lines or entry.account_lines[1:]


def _with_lines(entry: StoredEntry, changed: Iterable[Line]) -> StoredEntry:
    by_id = {line.id: line for line in changed}
    return replace(entry, lines=tuple(by_id.get(line.id, line) for line in entry.lines))


def _mark(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    for line in entry.account_lines:
        if line.account_id == account_id:
            entry_service.set_state(db, by, line.stored_id, asked.what)


def _shift(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    entry_service.shift_days(db, by, entry, timedelta(days=asked.days))


def _delete(db: sqlite3.Connection, by: By, account_id: int, entry: StoredEntry, asked: ManyChange) -> None:
    entry_service.delete_entry(db, by, entry.id)


def clean_tag(text: str) -> str:
    """A tag's name without the mark and blanks. Raises: InvalidInput if it is too long."""
    name = "-".join(text.strip().lstrip("#").split())
    if len(name) > 40:
        raise InvalidInput("A tag has up to 40 letters.", field="tags")
    return name


_MANY: dict[str, tuple[str, Callable[..., None]]] = {
    "file": ("Filed {count}", _file),
    "payee": ("Renamed the payee of {count} to {text}", _rename),
    "tag": ("Tagged {count} with {text}", _tag),
    "untag": ("Took {text} off {count}", _untag),
    "member": ("Said for whom {count} were", _for_member),
    "pending": ("Marked as pending: {count}", _mark),
    "cleared": ("Marked as cleared: {count}", _mark),
    "shift": ("Moved {count} {days}", _shift),
    "delete": ("Deleted {count}", _delete),
}
