"""Making a household, and its categories."""

import sqlite3
from dataclasses import replace
from zoneinfo import available_timezones

from bolsa.core.money import is_currency_code
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import change
from bolsa.services.clock import By
from bolsa.store import categories, household
from bolsa.store.categories import Category
from bolsa.store.connection import atomic
from bolsa.store.household import Household

# (group, type, categories in order of priority) a new household may begin with.
STARTER = (
    ("Living", "spending", ("Groceries", "Eating out", "Household", "Clothes", "Health")),
    ("Home", "spending", ("Rent or mortgage", "Power and water", "Phone and internet", "Insurance", "Repairs")),
    ("Getting about", "spending", ("Transport", "Car or bike")),
    ("Leisure", "spending", ("Hobbies", "Holidays", "Presents")),
    ("Money", "spending", ("Bank charges", "Taxes", "Unexplained", "Set by")),
    ("Income", "income", ("Pay", "Interest received", "Other income")),
)


def make_household(db: sqlite3.Connection, by: By, kept: Household, members: list[str], *, with_starter: bool = True) -> None:
    """Makes the file's one household. Raises: InvalidInput; Conflict if there is one already."""
    if not kept.name.strip():
        raise InvalidInput("The household needs a name.", field="name")
    if not is_currency_code(kept.home_currency):
        raise InvalidInput("Write the currency as three capital letters, such as EUR.", field="currency")
    if kept.time_zone not in available_timezones():
        raise InvalidInput(f"“{kept.time_zone}” is no time zone. Write it like Europe/Lisbon.", field="time_zone")
    names = [name.strip() for name in members if name.strip()]
    if len({name.casefold() for name in names}) != len(names):
        raise InvalidInput("Two members have the same name.", field="members")
    with atomic(db):
        if household.find_household(db):
            raise Conflict("The file holds a household already.")
        household.insert_household(db, kept)
        for name in names:
            household.insert_member(db, name)
        if with_starter:
            for group, type_, named in STARTER:
                group_id = categories.put_group(db, group)
                for name in named:
                    categories.insert_category(db, group_id, name, type_)


def add_category(db: sqlite3.Connection, by: By, group_name: str, name: str, type_: str = "spending", **flags: bool) -> int:
    """A new category at the end of its group (made if it is not there); gives its id. Raises: InvalidInput."""
    name, group_name = _require_name(db, name), group_name.strip()
    if not group_name:
        raise InvalidInput("Say in which group the category stands.", field="group")
    if type_ not in ("spending", "income", "transfer"):
        raise InvalidInput("A category is for spending, income or transfers.", field="type")
    with change(db, by, f"Added the category {name}"):
        return categories.insert_category(db, categories.put_group(db, group_name), name, type_, **flags)


def change_category(db: sqlite3.Connection, by: By, category_id: int, group_name: str, **words: object) -> int:
    """Renames, moves or sets the rules of a category; gives the step's id. Raises: InvalidInput."""
    before = categories.get_category(db, category_id)
    if before.role:
        raise InvalidInput("Bolsa itself needs this category as it is.", field="name")
    words["name"] = _require_name(db, str(words.get("name", before.name)), besides=category_id)
    if not group_name.strip():
        raise InvalidInput("Say in which group the category stands.", field="group")
    with change(db, by, f"Changed the category {before.name}") as step_id:
        group_id = categories.put_group(db, group_name.strip())
        categories.change_category(db, replace(before, group_id=group_id, **words))
    return step_id


def move_category(db: sqlite3.Connection, by: By, category_id: int, places: int) -> None:
    """Moves a category up (less than 0) or down in its group's order of priority."""
    moved = categories.get_category(db, category_id)
    ids = [c.id for c in categories.list_categories(db) if c.group_id == moved.group_id]
    at = ids.index(category_id)
    ids.insert(max(0, min(len(ids) - 1, at + places)), ids.pop(at))
    with change(db, by, f"Moved the category {moved.name}"):
        categories.change_order(db, ids)


def _require_name(db: sqlite3.Connection, name: str, besides: int | None = None) -> str:
    name = " ".join(name.split())
    if not name or len(name) > 60:
        raise InvalidInput("A category needs a name of up to 60 letters.", field="name")
    there: Category | None = categories.find_category_named(db, name)
    if there and there.id != besides:
        raise InvalidInput(f"There is a category “{there.name}” already.", field="name")
    return name


def set_day(db: sqlite3.Connection, by: By, day) -> None:
    """Sets the household's clock (demo and tests). Raises: InvalidInput if the clock follows the machine."""
    kept = household.get_household(db)
    if kept.set_day is None:
        raise InvalidInput("This household's clock follows the machine.")
    with change(db, by, f"Set the clock to {day.isoformat()}"):
        household.change_set_day(db, day)
