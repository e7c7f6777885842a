"""Who sits here, and the key that seals their session. (Sign-in with passwords comes with the House.)"""

import secrets
import sqlite3

from bolsa.core.house.kept import Household, Member
from bolsa.services.changes import note
from bolsa.store.house import household


def secret_key(db: sqlite3.Connection) -> str:
    """The key that seals session cookies, made once and kept in the file."""
    found = household.find_setting(db, "secret key")
    if found is None:
        with note(db):  # two servers may begin at once with one file: the first's key stays
            found = household.find_setting(db, "secret key") or secrets.token_hex(32)
            household.put_setting(db, "secret key", found)
    return found


def find_household(db: sqlite3.Connection) -> Household | None:
    """The file's household, None when it holds none yet."""
    return household.find_household(db)


def list_members(db: sqlite3.Connection) -> list[Member]:
    """The members, in the order they were added."""
    return household.list_members(db)


def member_id(db: sqlite3.Connection, chosen: object) -> int | None:
    """The member chosen in this session if there is such a one, else the first member."""
    ids = [member.id for member in household.list_members(db)]
    if chosen in ids:
        return chosen
    return ids[0] if ids else None
