"""Tags: what each is for, its line of the tax form, retired, renamed, merged, taken off."""

import sqlite3
from dataclasses import dataclass, replace
from datetime import date

from bolsa.core.ledger.belongings import Tag
from bolsa.core.whole_numbers import number_of
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.services.ledger.registers import clean_tag
from bolsa.store import journal
from bolsa.store.ledger import tags

MOST_LETTERS = 120
MOST_COPIES = 99


@dataclass(frozen=True)
class TagRow:
    """A tag in its list: how many lines carry it, the last day, and the version its form saw."""

    tag: Tag
    lines: int
    last: date | None
    seen: int


@dataclass(frozen=True)
class Said:
    """A tag as its form says it."""

    name: str
    note: str
    tax_line: str
    tax_copy: str
    retired: bool


def list_rows(db: sqlite3.Connection) -> list[TagRow]:
    """The tags by name, the retired ones last, with how they are used."""
    use = tags.count_use(db)
    found = []
    for tag in tags.list_tags(db):
        lines, last = use.get(tag.id, (0, None))
        found.append(TagRow(tag, lines, last, journal.find_version(db, "tag", tag.id)))
    return found


def change_tag(db: sqlite3.Connection, by: By, tag_id: int, said: Said, *, seen: int | None = None) -> Done:
    """Changes a tag. With the name of another the two become one: all that carried this one carries the other. Raises:
    InvalidInput, Conflict, NotFound."""
    with change(db, by) as done:
        tag = tags.get_tag(db, tag_id)
        require_version(db, "tag", tag_id, seen, f"#{said.name}")
        name = clean_tag(said.name)
        if not name:
            raise InvalidInput("A tag needs a name.", field="name")
        note, tax_line = said.note.strip(), " ".join(said.tax_line.split())
        if max(len(note), len(tax_line)) > MOST_LETTERS:
            raise InvalidInput(f"{MOST_LETTERS} letters are enough.", field="note")
        copy = number_of(said.tax_copy.strip()) if said.tax_copy.strip() else 0
        if copy is None or copy > MOST_COPIES:
            raise InvalidInput(f"The copy of the form is a number up to {MOST_COPIES}.", field="tax_copy")
        other = next((one for one in tags.list_tags(db) if one.name.casefold() == name.casefold() and one.id != tag_id), None)
        if other is not None:
            tags.merge_tag(db, other.id, tag_id)
            done.sentence = f"Merged #{tag.name} into #{other.name}"
            return done
        tags.change_tag(db, replace(tag, name=name, retired=said.retired, tax_copy=copy, note=note, tax_line=tax_line))
        done.sentence = f"Changed #{tag.name}" if tag.name == name else f"Renamed #{tag.name} to #{name}"
    return done


def remove_tag(db: sqlite3.Connection, by: By, tag_id: int) -> Done:
    """Takes a tag off everything that carries it, and out; rules that set it go with it. Raises: NotFound."""
    with change(db, by) as done:
        tag = tags.get_tag(db, tag_id)
        tags.remove_tag(db, tag_id)
        done.sentence = f"Took #{tag.name} off everything"
    return done
