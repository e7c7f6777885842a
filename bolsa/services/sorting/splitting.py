"""Entries that wait, split by amounts or per cent: some at once, or by a rule."""

import sqlite3
from collections.abc import Sequence
from dataclasses import replace

from bolsa.core.known import known
from bolsa.core.ledger.entries import Entry, Line
from bolsa.core.sorting.rules import SharePart
from bolsa.core.sorting.splits import check_parts, split_as_before, split_parts
from bolsa.core.units import Money
from bolsa.core.whole_numbers import counted
from bolsa.errors import InvalidInput, NotFound
from bolsa.services.changes import Done, change
from bolsa.services.clock import By
from bolsa.store.ledger import entries
from bolsa.store.sorting import categories, filing, questions
from bolsa.store.sorting.categories import UNSORTED


def split_entries(db: sqlite3.Connection, by: By, entry_ids: Sequence[int], parts: Sequence[SharePart], currency: str) -> Done:
    """Splits unsorted entries, all of them the same way, as one step; amounts are in minor units of the currency, whatever their
    sign. Raises: InvalidInput where the parts make no whole, of themselves or of one of the entries; NotFound if none of them
    waits."""
    check_parts(parts, "split")
    with change(db, by) as done:
        names = [_own_category(db, part.category_id) for part in parts]
        waiting = {id_ for id_ in entry_ids if categories.list_unsorted_lines(db, [id_])}
        if not waiting:
            raise NotFound("These entries are sorted already.")
        chosen = [id_ for id_ in entry_ids if id_ in waiting]
        for entry_id in chosen:
            entry = entries.get_entry(db, entry_id)
            waits = _lines_of(entry)
            if waits[0].currency != currency:
                raise InvalidInput(f"The entry of {entry.day} is in {waits[0].currency}.", field="split")
            if not split_entry(db, entry_id, parts):
                amount = Money(abs(sum(line.amount_minor for line in waits)), currency)
                said = f"The parts are more than the {amount}" if amount else "There is nothing to divide in the entry"
                raise InvalidInput(f"{said} of {entry.day}.", field="split")
        done.sentence = f"Split {counted(len(chosen), 'entry', 'entries')} between {' and '.join(dict.fromkeys(names))}"
        filing.forget_filings(db, chosen)
        questions.answer_all_of(db, chosen, by.today, f"split between {' and '.join(dict.fromkeys(names))}")
    return done


def split_before(db: sqlite3.Connection, payee_id: int, currency: str) -> tuple[SharePart, ...]:
    """The parts of a split like the payee's latest; none if that was not split."""
    latest = entries.list_entries(db, entries.list_last_sorted(db, payee_id, currency, 2))
    latest.sort(key=lambda entry: (entry.day, entry.id), reverse=True)
    return split_as_before([[(known(line.category_id), line.amount_minor) for line in one.category_lines] for one in latest])


def split_entry(db: sqlite3.Connection, entry_id: int, parts: Sequence[SharePart]) -> bool:
    """Splits what waits of an entry, or its one category line, within the caller's step, its tags and member kept on every part;
    False, and nothing done, where the parts do not make it."""
    entry = entries.get_entry(db, entry_id)
    waits = _lines_of(entry)
    tags = tuple(dict.fromkeys(tag for one in waits for tag in one.tags))
    member_id = next((one.member_id for one in waits if one.member_id is not None), None)
    line = waits[0]._replace(tags=tags, member_id=member_id)
    found = split_parts(parts, sum(one.amount_minor for one in waits))
    if not found:
        return False
    first, *others = found
    lines = [line._replace(category_id=first[0], amount_minor=first[1])]
    lines += [line._replace(id=None, category_id=id_, amount_minor=amount) for id_, amount in others]
    kept = [one for one in entry.lines if one not in waits]
    entries.change_entry(db, replace(entry, lines=(*kept, *lines)))
    return True


def _lines_of(entry: Entry) -> list[Line]:
    """The parts of an entry that wait: others may have their categories. Of a sorted one the first."""
    return [line for line in entry.category_lines if line.category_id == UNSORTED] or [*entry.category_lines[:1]]


def _own_category(db: sqlite3.Connection, category_id: int) -> str:
    category = categories.get_category(db, category_id)
    if category.role:
        raise InvalidInput("Choose one of your own categories.", field="split")
    return category.name
