"""Categories as pages offer them."""

import sqlite3
from itertools import groupby

from bolsa.store import categories
from bolsa.store.categories import Category, Group

ByGroup = list[tuple[str, list[Category]]]


def list_by_group(db: sqlite3.Connection) -> ByGroup:
    """The household's categories by group, in order of priority."""
    return [(name, list(members)) for name, members in groupby(categories.list_categories(db), key=lambda c: c.group)]


def list_groups(db: sqlite3.Connection) -> list[Group]:
    """The groups, in order."""
    return categories.list_groups(db)


def get_category(db: sqlite3.Connection, category_id: int) -> Category:
    """The category. Raises: NotFound."""
    return categories.get_category(db, category_id)


def names_of(db: sqlite3.Connection) -> dict[int, str]:
    """Every category's name by its id, Bolsa's own and retired ones included."""
    return {c.id: c.name for c in categories.list_categories(db, with_kept=True)}
