"""Making a household, and setting its clock."""

import sqlite3
from datetime import date
from zoneinfo import available_timezones

from bolsa.core.house.kept import Household
from bolsa.core.money import is_currency_code
from bolsa.errors import Conflict, InvalidInput
from bolsa.services.changes import Done, change, note
from bolsa.services.clock import By
from bolsa.store.house import household
from bolsa.store.sorting import categories

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
    with note(db):
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


def set_day(db: sqlite3.Connection, by: By, day: date | None) -> Done:
    """Sets the household's clock to a day (demo, trials and tests); None lets it follow the machine again."""
    with change(db, by) as done:
        done.sentence = f"Set the clock to {day.isoformat()}" if day else "Let the clock follow the machine"
        household.change_set_day(db, day)
    return done
