"""Making a household, and setting its clock."""

import sqlite3
from dataclasses import replace
from datetime import date
from pathlib import Path
from zoneinfo import available_timezones

from bolsa.core.currencies import parse_currency
from bolsa.core.house.kept import Household, Member
from bolsa.core.sorting.category_lines import Written, read_lines
from bolsa.errors import Conflict, InvalidInput, NotFound
from bolsa.services.changes import Done, change, note, require_version
from bolsa.services.clock import By
from bolsa.store.accounts import accounts
from bolsa.store.house import household
from bolsa.store.sorting import categories

STARTERS = {  # the sets of categories a new household may begin with, files beside this one
    "plain": "the usual ones",
    "detailed": "many, for who looks closely",
    "uneven": "for uneven income, with taxes and lean months put aside first",
}
_FOLDER = Path(__file__).with_name("starters")


def read_starter(name: str) -> list[Written]:
    """The categories of a starter set. Raises: InvalidInput for one that is not there."""
    if name not in STARTERS:
        raise InvalidInput("There is no such set of categories.", field="starter")
    return read_lines((_FOLDER / f"{name}.txt").read_text(encoding="utf-8"))


def make_household(db: sqlite3.Connection, by: By, kept: Household, members: list[str], *, starter: str = "plain") -> None:
    """Makes the file's one household, with a set of categories ("" is none).

    Raises: InvalidInput; Conflict if there is one already.
    """
    kept = _checked(kept)
    names = [name.strip() for name in members if name.strip()]
    if len({name.casefold() for name in names}) != len(names):
        raise InvalidInput("Two members have the same name.", field="members")
    with note(db):
        if household.find_household(db):
            raise Conflict("The file holds a household already.")
        household.insert_household(db, kept)
        for name in names:
            household.insert_member(db, name)
        for one in read_starter(starter) if starter else []:
            categories.insert_category(db, categories.put_group(db, one.group), one.name, one.type)


def _checked(kept: Household) -> Household:
    """A household as it may be kept. Raises: InvalidInput naming the field."""
    name = " ".join(kept.name.split())
    if not name:
        raise InvalidInput("The household needs a name.", field="name")
    if kept.time_zone not in available_timezones():
        raise InvalidInput(f"“{kept.time_zone[:40]}” is no time zone. Write it like Europe/Lisbon.", field="time_zone")
    return replace(kept, name=name[:80], home_currency=parse_currency(kept.home_currency))


def change_household(
    db: sqlite3.Connection, by: By, name: str, currency: str, time_zone: str, *, seen: int | None = None
) -> Done:
    """Gives the household another name, time zone, or, while it has no account, another home currency.

    Raises: InvalidInput naming the field; Conflict if it was changed after the version seen.
    """
    with change(db, by) as done:
        before = household.get_household(db)
        require_version(db, "household", 1, seen, name)
        after = _checked(replace(before, name=name, home_currency=currency, time_zone=time_zone))
        if after.home_currency != before.home_currency and not may_change_currency(db):
            sentence = f"The home currency stays {before.home_currency}: accounts are kept in it already."
            raise InvalidInput(sentence, field="currency")
        done.sentence = "Changed the household"
        household.change_household(db, after)
    return done


def list_zones() -> list[str]:
    """The time zones there are to choose from."""
    return sorted(zone for zone in available_timezones() if "/" in zone and not zone.startswith(("Etc/", "SystemV/")))


def may_change_currency(db: sqlite3.Connection) -> bool:
    """Whether nothing is kept yet that is counted in the home currency."""
    return not accounts.list_accounts(db)


def put_member(db: sqlite3.Connection, by: By, member_id: int | None, name: str, birth_year: int | None = None) -> Done:
    """Adds a member, or gives one that is there another name and birth year. Raises: InvalidInput naming the field."""
    with change(db, by) as done:
        name = " ".join(name.split())
        members = household.list_members(db)
        if not name or len(name) > 60:
            raise InvalidInput("Write a name of up to 60 letters.", field="member")
        if any(one.name.casefold() == name.casefold() and one.id != member_id for one in members):
            raise InvalidInput(f"There is a {name} already.", field="member")
        if birth_year is not None and not by.today.year - 130 <= birth_year <= by.today.year:
            raise InvalidInput("Write the year of birth in four digits.", field="birth_year")
        if member_id is None:
            done.sentence = f"{name} belongs to the household"
            member_id = household.insert_member(db, name)
        else:
            before = next((one for one in members if one.id == member_id), None)
            if before is None:
                raise NotFound("That member is not here any more.")
            done.sentence = f"Changed {before.name}" if before.name == name else f"{before.name} is called {name} now"
        household.change_member(db, Member(member_id, name, birth_year))
        done.made = member_id
    return done


def remove_member(db: sqlite3.Connection, by: By, member_id: int) -> Done:
    """Takes a member out who stands nowhere. Raises: InvalidInput for the last one; Conflict for one who stands somewhere."""
    try:
        with change(db, by) as done:
            members = household.list_members(db)
            name = next((one.name for one in members if one.id == member_id), "")
            if len(members) < 2:
                raise InvalidInput("Somebody must belong to the household.", field="member")
            done.sentence = f"{name} belongs to the household no more"
            household.remove_member(db, member_id)
    except sqlite3.IntegrityError as error:
        raise Conflict(f"{name} stands in entries, accounts or the journal, and so stays.") from error
    return done


def set_day(db: sqlite3.Connection, by: By, day: date | None) -> Done:
    """Sets the household's clock to a day (demo, trials and tests); None lets it follow the machine again."""
    with change(db, by) as done:
        done.sentence = f"Set the clock to {day.isoformat()}" if day else "Let the clock follow the machine"
        household.change_set_day(db, day)
    return done
