"""The store on real files: migrations, transactions, kept totals, the journal's undo."""

import contextlib
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from bolsa.errors import BolsaError, Conflict, UnreadableFile
from bolsa.store import journal, migrate
from bolsa.store.connection import atomic, open_database
from bolsa.store.invariants import find_breaches

AT = "2026-05-14T10:00:00Z"


class StoreCase(unittest.TestCase):
    """A test with a file at the newest schema, in `db`."""

    def setUp(self):
        stack = contextlib.ExitStack()
        self.addCleanup(stack.close)
        self.folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        self.db = stack.enter_context(contextlib.closing(open_database(self.folder / "a.bolsa")))
        migrate.migrate(self.db)


class Migrations(StoreCase):
    def test_every_step_runs_once_and_a_second_time_nothing(self):
        newest = migrate.list_steps()[-1][0]
        self.assertEqual(migrate.migrate(self.db), newest)
        self.assertEqual([number for number, _ in migrate.list_steps()], list(range(1, newest + 1)))

    def test_every_table_is_strict_and_every_reference_kept(self):
        rows = self.db.execute(
            "SELECT name, strict FROM pragma_table_list WHERE schema = 'main' AND type = 'table' AND name NOT LIKE 'sqlite%'"
        )
        self.assertEqual([row["name"] for row in rows if not row["strict"]], [])
        self.assertEqual(self.db.execute("PRAGMA foreign_keys").fetchone()[0], 1)
        self.assertEqual(self.db.execute("PRAGMA journal_mode").fetchone()[0], "wal")

    def test_a_step_that_fails_halfway_leaves_nothing(self):
        steps = self.folder / "steps"
        steps.mkdir()
        for number, path in migrate.list_steps():
            (steps / f"{number:04d}_x.sql").write_text(path.read_text())
        broken = migrate.list_steps()[-1][0] + 1
        (steps / f"{broken:04d}_broken.sql").write_text("CREATE TABLE half (id INTEGER) STRICT; INSERT INTO nowhere VALUES (1);")
        with self.assertRaises(sqlite3.OperationalError):
            migrate.migrate(self.db, steps)
        self.assertEqual(self.db.execute("PRAGMA user_version").fetchone()[0], broken - 1)
        self.assertIsNone(self.db.execute("SELECT 1 FROM sqlite_master WHERE name = 'half'").fetchone())

    def test_a_file_of_another_program_or_a_newer_bolsa_is_refused(self):
        other = self.folder / "other.db"
        with contextlib.closing(sqlite3.connect(other)) as foreign:
            foreign.execute("CREATE TABLE theirs (id)")
            foreign.commit()
        with contextlib.closing(open_database(other)) as db, self.assertRaises(UnreadableFile):
            migrate.migrate(db)
        self.db.execute("PRAGMA user_version = 9999")
        with self.assertRaisesRegex(UnreadableFile, "newer Bolsa"):
            migrate.migrate(self.db)
        text = self.folder / "text.bolsa"
        text.write_text("not a database at all, just words " * 40)
        with self.assertRaises(UnreadableFile):
            open_database(text)


class Transactions(StoreCase):
    def test_a_commit_that_fails_leaves_no_transaction_open(self):
        with self.assertRaises(sqlite3.IntegrityError), atomic(self.db):
            self.db.execute("PRAGMA defer_foreign_keys = ON")
            columns = "account_id, closing_day, opening_minor, closing_minor, state"
            self.db.execute(f"INSERT INTO statement ({columns}) VALUES (9, '', 0, 0, 'open')")
        self.assertFalse(self.db.in_transaction)
        self.assertEqual(self.db.execute("SELECT count(*) FROM statement").fetchone()[0], 0)

    def count(self):
        return self.db.execute("SELECT count(*) FROM member").fetchone()[0]

    def add(self, name):
        self.db.execute("INSERT INTO member (name) VALUES (:name)", {"name": name})

    def test_all_or_none_however_deep(self):
        with self.assertRaises(ZeroDivisionError), atomic(self.db):
            self.add("Ana")
            with atomic(self.db):
                self.add("Bo")
            raise ZeroDivisionError
        self.assertEqual(self.count(), 0)

    def test_a_file_busy_elsewhere_is_said_so(self):
        with contextlib.closing(open_database(self.folder / "a.bolsa")) as other:
            other.execute("PRAGMA busy_timeout = 10")
            with atomic(self.db), self.assertRaisesRegex(BolsaError, "busy"), atomic(other):
                pass


class Journal(StoreCase):
    def do(self, sentence, sql, **values):
        with atomic(self.db):
            step_id = journal.begin_step(self.db, AT, None)
            self.db.execute(sql, values)
            journal.end_step(self.db, step_id, sentence)
        return step_id

    def names(self):
        return [row["name"] for row in self.db.execute("SELECT name FROM member ORDER BY id")]

    def undo(self, step_id):
        with atomic(self.db):
            undoing = journal.begin_step(self.db, AT, None)
            journal.reverse_changes(self.db, step_id)
            journal.mark_undone(self.db, step_id, undoing)
            journal.end_step(self.db, undoing, "Undone")
        return undoing

    def test_undo_and_undo_of_the_undo(self):
        added = self.do("Added", "INSERT INTO member (name) VALUES ('Ana')")
        renamed = self.do("Renamed", "UPDATE member SET name = 'Bo'")
        removed = self.do("Removed", "DELETE FROM member")
        again = self.undo(removed)
        self.assertEqual(self.names(), ["Bo"])
        self.undo(again)
        self.assertEqual(self.names(), [])
        self.undo(self.do("Back", "INSERT INTO member (id, name) VALUES (1, 'Bo')"))
        self.assertEqual([s.sentence for s in journal.list_steps(self.db)][-3:], ["Removed", "Renamed", "Added"])
        with self.assertRaises(Conflict):
            self.undo(renamed)
        self.assertIsNone(journal.get_step(self.db, added).undone_by)

    def test_what_changed_since_is_not_overwritten(self):
        added = self.do("Added", "INSERT INTO member (name) VALUES ('Ana')")
        self.do("Renamed", "UPDATE member SET name = 'Bo'")
        with self.assertRaises(Conflict):
            self.undo(added)
        self.assertEqual(self.names(), ["Bo"])


class Invariants(StoreCase):
    def test_a_fresh_file_holds_and_each_kind_of_damage_is_found(self):
        self.assertEqual(find_breaches(self.db), [])
        self.db.execute("INSERT INTO account (name, kind, side, everyday, currency, group_name, opened_on) "
                        "VALUES ('A', 'current', 'asset', 1, 'EUR', 'G', '2026-01-01')")  # fmt: skip
        self.db.execute("INSERT INTO payee (name) VALUES ('P')")
        self.db.execute("INSERT INTO entry (day, payee_id) VALUES ('2026-05-01', 1)")
        self.db.execute("INSERT INTO line (entry_id, account_id, currency, amount_minor, day, state, everyday) "
                        "VALUES (1, 1, 'EUR', -500, '2026-05-01', 'cleared', 1)")  # fmt: skip
        self.db.execute("UPDATE account SET closed_on = '2026-05-02'")
        for closing, opening, state in ((100, 0, "reconciled"), (90, 90, "reconciled"), (0, 90, "open"), (0, 0, "open")):
            self.db.execute(
                "INSERT INTO statement (account_id, closing_day, opening_minor, closing_minor, state) "
                "SELECT 1, '2026-05-0' || (1 + count(*)), ?, ?, ? FROM statement", (opening, closing, state))  # fmt: skip
        self.db.execute("UPDATE account_month SET amount_minor = amount_minor + 9")
        promises = {breach.promise for breach in find_breaches(self.db)}
        self.assertEqual(
            promises,
            {
                "every entry sums to zero in each currency",
                "every entry has two lines or more",
                "an account's balance is the sum of its lines",
                "an account has one open statement at most",
                "a closed account is empty",
                "a statement that goes on where another ended opens with what that closed with",
                "a reconciled statement's opening and lines give its closing",
            },
        )


class Locks(StoreCase):
    def test_opening_a_file_again_keeps_the_locks_of_who_has_it_open(self):
        """Closing any handle of a file drops every lock the process has on it: another program that closes it then thinks that it
        was the last, and takes the log away (sqlite.org/howtocorrupt, section 2.2)."""
        path = self.folder / "a.bolsa"
        self.db.execute("UPDATE content_mark SET mark = 7")
        with contextlib.closing(open_database(path)):
            script = "import sqlite3, sys; db = sqlite3.connect(sys.argv[1]); print(db.execute('SELECT * FROM tag')); db.close()"
            subprocess.run([sys.executable, "-c", script, str(path)], check=True, capture_output=True)
            self.assertTrue(Path(f"{path}-wal").exists(), "the log was taken away under who uses it")


if __name__ == "__main__":
    unittest.main()
