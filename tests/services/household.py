"""A small household for the service tests, and builders that fill in the rest."""

import contextlib
import io
import tempfile
import unittest
from datetime import date
from functools import cache
from pathlib import Path

from PIL import Image

from bolsa.core.ledger.entries import Part
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.clock import By
from bolsa.services.house import files, households
from bolsa.services.house.households import Household
from bolsa.services.ledger import entries, listing
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.worth import worth

TODAY = date(2026, 5, 14)
BY = By(TODAY, "2026-05-14T10:00:00Z", 1)


def picture(size: tuple[int, int] = (30, 20), kind: str = "PNG") -> bytes:
    """A small picture, as it is attached."""
    out = io.BytesIO()
    Image.new("RGB", size, "white").save(out, kind)
    return out.getvalue()


@cache
def new_household() -> bytes:
    """A household's file as it is first made, once a process: each test begins with a copy."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.bolsa"
        with contextlib.closing(files.make_file(path)) as db:
            households.make_household(db, BY, Household("Quay Street", "EUR", "UTC", TODAY), ["Ana", "Bo"])
        return path.read_bytes()


class HouseholdCase(unittest.TestCase):
    """A test with a household of two accounts (`current`, `reserve`) and the starter categories; it must hold at the end."""

    def setUp(self):
        stack = contextlib.ExitStack()
        self.addCleanup(stack.close)
        self.folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        self.path = self.folder / "a.bolsa"
        self.path.write_bytes(new_household())
        self.db = stack.enter_context(contextlib.closing(files.make_file(self.path)))
        self.current = self.an_account("Current", opening_minor=100_000)
        self.reserve = self.an_account("Reserve", kind="savings")
        self.addCleanup(lambda: self.assertEqual(listing.check(self.db), []))

    def an_account(self, name, kind="current", **more):
        return accounts.add_account(self.db, BY, NewAccount(name, kind, **{"opened_on": date(2026, 1, 1), **more})).made

    def category(self, name):
        from bolsa.store.sorting.categories import find_category_named

        return find_category_named(self.db, name).id

    def spends(self, amount_minor, category="Groceries", day=TODAY, account=None, payee="Grebe Street Grocer", **more):
        typed = TypedEntry(day, payee, -amount_minor, (Part(self.category(category), amount_minor),), **more)
        return entries.record_entry(self.db, BY, account or self.current, typed).made

    def balance(self, account=None):
        return accounts.get_account_state(self.db, account or self.current).balance_minor


class OrderCase(HouseholdCase):
    """With what stories of odd orders need: net worth, a transfer, its far side."""

    def worth(self, day=TODAY):
        return sum(row.home_minor for row in worth.worth_on(self.db, day).rows)

    def moves(self, account, to, amount_minor, day=TODAY, **more):
        typed = TypedEntry(day, "Moved", -amount_minor, other_account_id=to, **more)
        return entries.record_entry(self.db, BY, account, typed)

    def far_line(self, entry_id, account_id):
        return next(line for line in entries.get_entry(self.db, entry_id).account_lines if line.account_id == account_id)
