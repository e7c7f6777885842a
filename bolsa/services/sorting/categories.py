"""The household's categories: offered to pages, added, renamed, moved."""

import sqlite3
from dataclasses import replace
from itertools import groupby
from typing import Any

from bolsa.core.sorting.category import Category, Group
from bolsa.errors import InvalidInput
from bolsa.services.changes import Done, change, require_version
from bolsa.services.clock import By
from bolsa.store.sorting import categories

ByGroup = list[tuple[str, list[Category]]]


def list_by_group(db: sqlite3.Connection) -> ByGroup:
    """The household's categories by group, in order of priority."""
    return [(name, list(members)) for name, members in groupby(categories.list_categories(db), key=lambda c: c.group)]


def list_all(db: sqlite3.Connection) -> list[Category]:
    """The household's own categories, the retired ones too."""
    return [one for one in categories.list_categories(db, with_kept=True) if one.role is None]


def list_lately(db: sqlite3.Connection, most: int = 4) -> list[Category]:
    """The household's categories that the newest entries were filed under, the latest first."""
    return categories.list_lately(db, most)


def list_groups(db: sqlite3.Connection) -> list[Group]:
    """The groups, in order."""
    return categories.list_groups(db)


def get_category(db: sqlite3.Connection, category_id: int) -> Category:
    """The category. Raises: NotFound."""
    return categories.get_category(db, category_id)


def resolve_category(db: sqlite3.Connection, text: str) -> Category:
    """The household's own category of that name. Raises: InvalidInput naming those there are."""
    found = categories.find_category_named(db, " ".join(text.split()))
    if found is None or found.role:
        names = ", ".join(c.name for c in categories.list_categories(db)) or "none yet"
        raise InvalidInput(f"There is no category “{text}”. Categories: {names}.", field="category")
    return found


def names_of(db: sqlite3.Connection) -> dict[int, str]:
    """Every category's name by its id, Bolsa's own and retired ones included."""
    return {c.id: c.name for c in categories.list_categories(db, with_kept=True)}


def add_category(db: sqlite3.Connection, by: By, group_name: str, name: str, type_: str = "spending", **flags: Any) -> Done:
    """A new category at the end of its group (made if it is not there); gives its id. Raises: InvalidInput."""
    with change(db, by) as done:
        name, group_name = require_name(db, name), group_name.strip()
        if not group_name:
            raise InvalidInput("Say in which group the category stands.", field="group")
        if type_ not in ("spending", "income", "transfer"):
            raise InvalidInput("A category is for spending, income or transfers.", field="type")
        done.sentence = f"Added the category {name}"
        done.made = categories.insert_category(db, categories.put_group(db, group_name), name, type_, **flags)
    return done


def change_category(
    db: sqlite3.Connection, by: By, category_id: int, group_name: str, *, seen: int | None = None, **words: Any
) -> Done:
    """Renames, moves or sets the rules of a category. Raises: InvalidInput."""
    with change(db, by) as done:
        before = categories.get_category(db, category_id)
        require_version(db, "category", category_id, seen, f"“{words.get('name', before.name)}”")
        if before.role:
            raise InvalidInput("Bolsa itself needs this category as it is.", field="name")
        words["name"] = require_name(db, str(words.get("name", before.name)), besides=category_id)
        if not group_name.strip():
            raise InvalidInput("Say in which group the category stands.", field="group")
        done.sentence = f"Changed the category {before.name}"
        group_id = categories.put_group(db, group_name.strip())
        categories.change_category(db, replace(before, group_id=group_id, **words))
    return done


def move_category(db: sqlite3.Connection, by: By, category_id: int, places: int) -> Done:
    """Moves a category up (less than 0) or down in its group's order of priority."""
    with change(db, by) as done:
        moved = categories.get_category(db, category_id)
        ids = [c.id for c in categories.list_categories(db) if c.group_id == moved.group_id]
        at = ids.index(category_id)
        ids.insert(max(0, min(len(ids) - 1, at + places)), ids.pop(at))
        done.sentence = f"Moved the category {moved.name}"
        categories.change_order(db, ids)
    return done


def require_name(db: sqlite3.Connection, name: str, besides: int | None = None) -> str:
    """A category's name as it may be kept. Raises: InvalidInput."""
    name = " ".join(name.split())
    if not name or len(name) > 60:
        raise InvalidInput("A category needs a name of up to 60 letters.", field="name")
    there: Category | None = categories.find_category_named(db, name)
    if there and there.id != besides:
        raise InvalidInput(f"There is a category “{there.name}” already.", field="name")
    return name
