"""What is remembered is true: gone with any change, by whatever connection; not while one is under way, nor after a restore."""

import contextlib
from datetime import date

from bolsa.services import changes
from bolsa.services.holdings import book
from bolsa.services.house import backups, files
from bolsa.services.remembering import remembered
from tests.services.household import BY, HouseholdCase

DAY = date(2026, 5, 14)


class Remembering(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.reckoned = 0

    def balance_remembered(self, db=None):
        def reckon():
            self.reckoned += 1
            return self.balance()

        return remembered(db or self.db, "balance", self.current, reckon)

    def test_it_is_reckoned_once_until_something_changes(self):
        self.assertEqual([self.balance_remembered() for _ in range(3)], [100_000] * 3)
        self.assertEqual(self.reckoned, 1)
        entry_id = self.spends(1_000)
        self.assertEqual((self.balance_remembered(), self.reckoned), (99_000, 2))
        changes.undo_step(self.db, BY, changes.list_steps(self.db)[0].id)
        self.assertEqual((self.balance_remembered(), self.reckoned), (100_000, 3))
        self.assertTrue(entry_id)

    def test_a_change_by_another_connection_counts_and_one_under_way_is_not_remembered(self):
        self.balance_remembered()
        with contextlib.closing(files.open_household(self.path)) as other, changes.note(other):
            self.assertEqual((self.balance_remembered(), self.reckoned), (100_000, 1))
        self.balance_remembered()
        self.assertEqual(self.reckoned, 2)
        with contextlib.suppress(ZeroDivisionError), changes.change(self.db, BY):
            self.spends(1_000)
            self.assertEqual(self.balance_remembered(), 99_000)
            raise ZeroDivisionError
        self.assertEqual((self.balance_remembered(), self.reckoned), (100_000, 3))

    def test_a_backup_that_is_put_back_is_not_taken_for_what_came_after_it(self):
        target = self.folder / "copy.bolsa"
        backups.back_up(self.db, target)
        self.spends(1_000)
        self.assertEqual(self.balance_remembered(), 99_000)
        backups.restore(target, self.path)
        self.assertEqual(self.balance_remembered(), 100_000)
        self.spends(2_000)
        self.assertEqual(self.balance_remembered(), 98_000)

    def test_what_is_held_follows_each_change(self):
        self.an_account("Fund", "brokerage", opening_minor=500_000)
        self.assertEqual([row.home_minor for row in book.holdings_on(self.db, DAY).rows], [500_000])
        self.an_account("Other fund", "brokerage", opening_minor=1)
        self.assertEqual(len(book.holdings_on(self.db, DAY).rows), 2)
