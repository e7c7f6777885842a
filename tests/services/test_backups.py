"""Putting a backup back: beside a server that has the file open, over a damaged file, while someone writes."""

import contextlib
import unittest
from pathlib import Path
from unittest import mock

from bolsa.errors import BolsaError
from bolsa.services.accounts import accounts
from bolsa.services.house import backups, files
from bolsa.services.ledger import listing
from bolsa.store import connection
from tests.services.household import HouseholdCase
from tests.web.served import an_app


class PuttingBack(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.spends(1250)
        self.backup = self.folder / "copy.bolsa"
        self.assertEqual(backups.back_up(self.db, self.backup), [])
        self.spends(999)

    def formers(self):
        return sorted(self.folder.glob("*.before-restore"))

    def test_a_server_that_has_the_file_open_shows_the_backup_from_its_next_page_on(self):
        client = an_app(self.path).test_client()
        self.assertIn("977.51", client.get("/books").text)
        self.db.execute("BEGIN")
        self.assertEqual(self.balance(), 97_751)  # someone reads meanwhile
        former = backups.restore(self.backup, self.path)
        self.assertEqual(self.balance(), 97_751)
        self.db.execute("COMMIT")
        self.assertEqual(self.balance(), 98_750)
        self.assertIn("987.50", client.get("/books").text)
        self.spends(100)
        self.assertIn("986.50", client.get("/books").text)
        with contextlib.closing(files.open_household(former)) as db:
            self.assertEqual(accounts.get_account_state(db, self.current).balance_minor, 97_751)
            self.assertEqual(listing.check(db), [])

    def test_each_time_what_was_there_is_kept_under_a_name_of_its_own(self):
        for _ in range(3):
            backups.restore(self.backup, self.path)
        self.assertEqual(len(self.formers()), 3)

    def test_a_file_that_cannot_be_read_is_moved_aside_whole(self):
        self.db.close()
        self.path.write_bytes(b"junk" * 5_000)
        former = backups.restore(self.backup, self.path)
        self.assertEqual(former.read_bytes(), b"junk" * 5_000)
        with contextlib.closing(files.open_household(self.path)) as self.db:
            self.assertEqual(self.balance(), 98_750)
        self.db = files.open_household(self.path)

    def test_while_another_program_writes_it_is_refused_and_nothing_changes(self):
        self.db.execute("BEGIN IMMEDIATE")
        with mock.patch.object(connection, "BUSY_TIMEOUT_MS", 20), self.assertRaisesRegex(BolsaError, "changed by another"):
            backups.restore(self.backup, self.path)
        self.db.execute("COMMIT")
        self.assertEqual(self.balance(), 97_751)
        self.assertFalse(Path(f"{self.path}.part").exists())

    def test_a_file_that_is_not_there_is_made(self):
        target = self.folder / "new.bolsa"
        self.assertIsNone(backups.restore(self.backup, target))
        with contextlib.closing(files.open_household(target)) as db:
            self.assertEqual(accounts.get_account_state(db, self.current).balance_minor, 98_750)


if __name__ == "__main__":
    unittest.main()
