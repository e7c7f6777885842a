"""Putting a backup back: beside a server that has the file open, over a damaged file, while someone writes."""

import contextlib
import random
import re
import shutil
import sqlite3
import unittest
from pathlib import Path
from unittest import mock

from bolsa.demo.run import prepare_demo
from bolsa.errors import BolsaError, FileUnusable, UnreadableFile
from bolsa.services.accounts import accounts
from bolsa.services.house import backups, exports, files, sessions, whole
from bolsa.services.ledger import entries, finding, listing
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store import connection, mishaps
from tests.services.household import BY, TODAY, HouseholdCase
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
        self.assertIn(former.name, client.get("/house").text)
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

    def test_cut_off_at_the_last_moment_the_damaged_file_and_its_copy_are_there(self):
        self.db.close()
        self.path.write_bytes(b"junk" * 5_000)
        with mock.patch.object(backups.os, "replace", side_effect=OSError(5, "failed")), self.assertRaises(FileUnusable):
            backups.restore(self.backup, self.path)
        (former,) = self.formers()
        self.assertEqual(former.read_bytes(), self.path.read_bytes())
        backups.restore(self.backup, self.path)
        self.db = files.open_household(self.path)
        self.assertEqual(self.balance(), 98_750)

    def test_while_another_program_writes_it_is_refused_and_nothing_changes(self):
        self.db.execute("BEGIN IMMEDIATE")
        with mock.patch.object(connection, "PATIENCE_MS", 20), self.assertRaisesRegex(BolsaError, "changed by another"):
            backups.restore(self.backup, self.path)
        self.db.execute("COMMIT")
        self.assertEqual(self.balance(), 97_751)
        self.assertFalse(Path(f"{self.path}.part").exists())

    def test_a_file_that_is_not_there_is_made(self):
        target = self.folder / "new.bolsa"
        self.assertIsNone(backups.restore(self.backup, target))
        with contextlib.closing(files.open_household(target)) as db:
            self.assertEqual(accounts.get_account_state(db, self.current).balance_minor, 98_750)

    def test_of_a_file_that_is_gone_the_log_is_kept_too(self):
        target = self.folder / "gone.bolsa"
        Path(f"{target}-wal").write_bytes(b"what was written last")
        former = backups.restore(self.backup, target)
        self.assertEqual(Path(f"{former}-wal").read_bytes(), b"what was written last")
        with contextlib.closing(files.open_household(target)) as db:
            self.assertEqual(listing.check(db), [])


class Seals(HouseholdCase):
    def test_any_byte_that_turned_over_is_found(self):
        self.spends(1250)
        backup, bad = self.folder / "copy.bolsa", self.folder / "bad.bolsa"
        backups.back_up(self.db, backup)
        content = backup.read_bytes()
        draw = random.Random(11)
        for at in (18, 100, *(draw.randrange(len(content)) for _ in range(25))):
            bad.write_bytes(content[:at] + bytes([content[at] ^ 1 << draw.randrange(8)]) + content[at + 1 :])
            with self.subTest(at=at), self.assertRaises(UnreadableFile):
                backups.restore(bad, self.folder / "new.bolsa")
        self.assertFalse((self.folder / "new.bolsa").exists())
        backups.restore(backup, self.folder / "new.bolsa")

    def test_one_that_was_used_as_a_household_is_not_called_damaged(self):
        backup = self.folder / "copy.bolsa"
        backups.back_up(self.db, backup)
        with contextlib.closing(files.open_household(backup)) as db:
            entries.record_entry(db, BY, self.current, TypedEntry(TODAY, "Quay Books", -500))
        backups.restore(backup, self.path)
        self.assertEqual(self.balance(), 99_500)

    def test_a_household_is_put_back_over_itself(self):
        self.spends(1250)
        former = backups.restore(self.path, self.path)
        self.assertEqual(self.balance(), 98_750)
        self.assertTrue(former.exists())


class HostileBackups(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.entry_id = self.spends(1250)
        self.copy, self.new = self.folder / "copy.bolsa", self.folder / "new.bolsa"
        self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self.copy.write_bytes(self.path.read_bytes())

    def tampers(self, *statements):
        with contextlib.closing(sqlite3.connect(self.copy, isolation_level=None)) as db:
            for statement in statements:
                db.execute(statement)

    def test_no_trigger_view_or_function_of_it_is_taken_over(self):
        self.tampers(
            "CREATE TRIGGER theirs AFTER INSERT ON entry BEGIN DELETE FROM line; END",
            "DROP TRIGGER line_added",
            "CREATE VIEW endless AS WITH RECURSIVE n (i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n) SELECT i FROM n",
            "CREATE TABLE theirs (words TEXT)",
            "INSERT INTO setting (name, value) VALUES ('secret key', 'known to them')",
            "UPDATE line_text SET words = 'theirs'",
        )
        backups.restore(self.copy, self.new)
        of_schema = "SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'line_text%' ORDER BY 1, 2"
        with contextlib.closing(files.open_household(self.new)) as db:
            ours, theirs = ([tuple(row) for row in one.execute(of_schema)] for one in (self.db, db))
            self.assertEqual(theirs, ours)
            self.assertNotEqual(sessions.secret_key(db), "known to them")
            self.assertEqual(listing.check(db), [])
            self.assertEqual(len(finding.find_everything(db, "grebe").lines), 1)

    def test_what_is_no_household_is_refused_and_nothing_is_made(self):
        endless = "WITH RECURSIVE n (i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n) SELECT i AS id, 'x' AS name FROM n"
        for said, *statements in (
            ("no table “tag”", "PRAGMA foreign_keys = OFF", "ALTER TABLE tag RENAME TO gone", f"CREATE VIEW tag AS {endless}"),
            ("no column “note”", "ALTER TABLE tag RENAME COLUMN note TO gone"),
            ("every day is one — entry 1", "DROP TRIGGER line_changed", "UPDATE entry SET day = '2026-02-31'"),
            ("time zone and currency are ones — Mars/Quay", "UPDATE household SET time_zone = 'Mars/Quay'"),
            ("holds no household", "DELETE FROM household"),
            ("not a Bolsa household", "PRAGMA application_id = 7"),
            ("a newer Bolsa", "PRAGMA user_version = 9999"),
        ):
            self.copy.write_bytes(self.path.read_bytes())
            self.tampers(*statements)
            with self.subTest(said), self.assertRaisesRegex(UnreadableFile, said):
                backups.restore(self.copy, self.new)
        self.assertEqual([path.name for path in self.folder.iterdir() if path.name.startswith("new")], [])

    def test_a_copy_of_a_running_household_brings_what_stands_in_its_log(self):
        self.spends(3000)
        for ending in ("", "-wal"):
            Path(f"{self.copy}{ending}").write_bytes(Path(f"{self.path}{ending}").read_bytes())
        self.assertGreater(Path(f"{self.copy}-wal").stat().st_size, 0)
        backups.restore(self.copy, self.new)
        with contextlib.closing(files.open_household(self.new)) as db:
            self.assertEqual(accounts.get_account_state(db, self.current).balance_minor, 95_750)


class DisksAndFolders(HouseholdCase):
    def test_only_their_owner_reads_a_household_its_copies_and_exports(self):
        private = self.folder / "a" / "b"
        with contextlib.closing(files.make_file(private / "h.bolsa")):
            modes = {path.stat().st_mode & 0o777 for path in private.iterdir()}
        self.assertEqual(modes, {0o600})
        self.assertEqual([path.stat().st_mode & 0o777 for path in (private, private.parent)], [0o700, 0o700])
        backups.back_up(self.db, self.folder / "copy.bolsa")
        written = [*exports.export_all(self.db, self.folder / "out"), self.folder / "copy.bolsa"]
        self.assertEqual({path.stat().st_mode & 0o777 for path in written}, {0o600})
        self.path.chmod(0o644)
        files.open_household(self.path).close()
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)

    def test_nothing_is_written_through_a_link(self):
        other = self.folder / "other"
        other.write_bytes(b"")
        for name, act in (
            ("copy.bolsa", lambda path: backups.back_up(self.db, path)),
            ("new.bolsa", files.make_file),
        ):
            (self.folder / name).symlink_to(other)
            with self.subTest(name), self.assertRaises(BolsaError):
                act(self.folder / name)
        backup = self.folder / "kept.bolsa"
        backups.back_up(self.db, backup)
        with self.assertRaisesRegex(FileUnusable, "is a link"):
            backups.restore(backup, self.folder / "new.bolsa")
        self.assertEqual(other.read_bytes(), b"")

    def test_no_household_is_made_where_one_was(self):
        for name in ("h.bolsa-wal", "h.bolsa.part", "h.bolsa.2026-05-14T10-00-00Z.before-restore"):
            folder = self.folder / name
            folder.mkdir()
            (folder / name).write_bytes(b"")
            with self.subTest(name), self.assertRaisesRegex(FileUnusable, f"but {re.escape(name)} is"):
                files.make_file(folder / "h.bolsa")
            self.assertEqual([path.name for path in folder.iterdir()], [name])
        exports.export_all(self.db, self.folder / "out")
        with self.assertRaisesRegex(FileUnusable, "Nothing was made"):
            whole.bring_whole(self.folder / "out", folder / "h.bolsa")

    def test_a_demo_begun_afresh_forgets_what_was_kept_of_it(self):
        path = self.folder / "demo.bolsa"
        former = self.folder / "demo.bolsa.2026-05-14T10-00-00Z.before-restore"
        for one in (path, former):
            one.write_bytes(b"")
        prepare_demo(path, fresh=True)
        self.assertFalse(former.exists())
        self.assertGreater(path.stat().st_size, 0)

    def test_without_room_nothing_is_begun_and_on_a_full_disk_nothing_is_left(self):
        backup = self.folder / "copy.bolsa"
        with mock.patch.object(shutil, "disk_usage", return_value=mock.Mock(free=5_000_000)):
            for act in (lambda: backups.back_up(self.db, backup), lambda: backups.restore(self.path, self.folder / "new.bolsa")):
                with self.assertRaisesRegex(BolsaError, "MB are needed, 5 MB are free"):
                    act()
        full = sqlite3.OperationalError("database or disk is full")
        full.sqlite_errorcode = sqlite3.SQLITE_FULL
        with mock.patch.object(backups.exports, "copy_whole", side_effect=full), self.assertRaisesRegex(FileUnusable, "is full"):
            backups.back_up(self.db, backup)
        backups.back_up(self.db, backup)
        with mock.patch.object(backups.copying, "copy_rows", side_effect=full), self.assertRaisesRegex(BolsaError, "is full"):
            backups.restore(backup, self.path)
        self.assertEqual([path.name for path in self.folder.iterdir() if ".part" in path.name or "before" in path.name], [])

    def test_a_full_disk_ends_a_change_in_words_and_whole(self):
        pages = self.db.execute("PRAGMA page_count").fetchone()[0]
        self.db.execute(f"PRAGMA max_page_count = {pages}")
        with self.assertRaises(sqlite3.OperationalError) as caught:
            for _ in range(2_000):
                self.spends(100)
        self.assertIn("disk is full", mishaps.in_words(caught.exception).sentence)
        self.db.execute("PRAGMA max_page_count = 1000000")
        self.assertEqual(listing.check(self.db), [])

    def test_a_damaged_page_is_named(self):
        self.spends(100)
        self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        root, size = self.db.execute("SELECT rootpage, 4096 FROM sqlite_master WHERE name = 'line'").fetchone()
        content = bytearray(self.path.read_bytes())
        content[(root - 1) * size : (root - 1) * size + 200] = b"x" * 200
        bad = self.folder / "bad.bolsa"
        bad.write_bytes(content)
        with contextlib.closing(files.make_file(bad)) as db:
            (breach, *_) = listing.check(db)
        self.assertEqual(breach.promise, "the file is sound")
        self.assertRegex(breach.row, "table line")
        (self.folder / "text.bolsa").write_text("hello, this is no database but a text that is long enough" * 20)
        with self.assertRaisesRegex(UnreadableFile, "no SQLite database"):
            files.make_file(self.folder / "text.bolsa")


if __name__ == "__main__":
    unittest.main()
