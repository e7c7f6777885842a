"""A household written by the first schema, opened by today's: nothing is lost, and what was journalled can be undone."""

import contextlib
import gzip
import shutil
import sqlite3
import tempfile
import unittest
from pathlib import Path

from bolsa.errors import BolsaError
from bolsa.services import changes
from bolsa.services.clock import By
from bolsa.services.house import backups, files
from bolsa.services.ledger import listing
from bolsa.store import journal, migrate
from bolsa.store.accounts import accounts
from bolsa.store.connection import atomic, open_database

AT = "2026-05-14T10:00:00Z"
FIRST_HOUSEHOLD = """
    INSERT INTO household (id, name, home_currency, time_zone) VALUES (1, 'Quay Street', 'EUR', 'UTC');
    INSERT INTO member (id, name) VALUES (1, 'Ana');
    INSERT INTO account (id, name, kind, side, everyday, currency, group_name, opened_on)
        VALUES (1, 'Current', 'current', 'asset', 1, 'EUR', 'Everyday', '2026-01-01'),
               (2, 'Kronor', 'savings', 'asset', 0, 'SEK', 'Savings', '2026-01-01');
    INSERT INTO category_group (id, name) VALUES (2, 'Living');
    INSERT INTO category (id, group_id, name, type) VALUES (4, 2, 'Groceries', 'spending'),
        (5, 2, 'Market gain and loss', 'spending');
    INSERT INTO payee (id, name) VALUES (1, 'Grebe Street Grocer');
    INSERT INTO batch (id, source, name, state, made_at) VALUES (1, 'file', 'may.ofx', 'brought', '2026-05-01T08:00:00Z');
    INSERT INTO entry (id, day, payee_id, memo, batch_id) VALUES (1, '2026-05-02', 1, 'café', 1), (2, '2026-05-03', 1, '', NULL);
    INSERT INTO statement (id, account_id, closing_day, opening_minor, closing_minor, state)
        VALUES (1, 1, '2026-05-31', 0, -2340, 'reconciled');
    INSERT INTO line (id, entry_id, account_id, category_id, currency, amount_minor, day, state, statement_id, raw_text)
        VALUES (1, 1, 1, NULL, 'EUR', -2340, '2026-05-02', 'reconciled', 1, 'GREBE 0093'),
               (2, 1, NULL, 4, 'EUR', 2340, '2026-05-02', NULL, NULL, ''),
               (3, 2, 1, NULL, 'EUR', -100, '2026-05-03', 'pending', NULL, ''),
               (4, 2, NULL, 5, 'EUR', 100, '2026-05-03', NULL, NULL, '');
    UPDATE line SET everyday = 1;
    INSERT INTO brought_row (batch_id, account_id, day, amount_minor, payee, payee_key, memo, bank_ref, file_line, verdict, take,
        line_id) VALUES (1, 1, '2026-05-02', -2340, 'GREBE 0093', 'grebe', '', 'A1', 1, 'new', 1, 1);
    INSERT INTO bank_balance (account_id, day, amount_minor, batch_id) VALUES (1, '2026-05-02', -2340, 1);
    INSERT INTO rate (currency, day, rate_e8) VALUES ('SEK', '2026-05-01', 9150000);
    INSERT INTO expected (category_id, month, amount_minor) VALUES (4, '2026-05', 60000);
    INSERT INTO placing (category_id, month, amount_minor, made_on) VALUES (4, '2026-05', 5000, '2026-05-01');
    INSERT INTO connection (id, institution, base_url, state) VALUES (1, 'Halden Mutual', 'http://127.0.0.1:9', 'working');
    INSERT INTO connection_account (connection_id, remote_number, remote_name, remote_kind, currency, account_id)
        VALUES (1, 'HM1', 'Current', 'current', 'EUR', 1);
"""


class FromTheFirstSchema(unittest.TestCase):
    def setUp(self):
        stack = contextlib.ExitStack()
        self.addCleanup(stack.close)
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        first = folder / "steps"
        first.mkdir()
        shutil.copy(migrate.list_steps()[0][1], first)
        self.db = stack.enter_context(contextlib.closing(open_database(folder / "a.bolsa")))
        migrate.migrate(self.db, first)
        with atomic(self.db):
            for statement in migrate.statements(FIRST_HOUSEHOLD):
                self.db.execute(statement)
        with atomic(self.db):
            self.old_step = journal.begin_step(self.db, AT, None)
            self.db.execute("UPDATE entry SET memo = 'bread' WHERE id = 2")
            journal.end_step(self.db, self.old_step, "Wrote a memo")
        self.counts = self.count_rows()

    def count_rows(self):
        tables = [
            r["name"]
            for r in self.db.execute(
                "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE '%_text%' AND name NOT LIKE 'sqlite%'"
            )
        ]
        return {t: self.db.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables}

    def test_every_row_is_there_and_every_promise_holds(self):
        migrate.migrate(self.db)
        now = self.count_rows()
        self.assertEqual(
            {t: now[t] for t in self.counts if t != "category"}, {t: n for t, n in self.counts.items() if t != "category"}
        )
        self.assertEqual(listing.check(self.db), [])
        self.assertEqual(self.db.execute("PRAGMA foreign_keys").fetchone()[0], 1)
        market = self.db.execute("SELECT name FROM category WHERE role = 'market'").fetchone()["name"]
        self.assertEqual(market, "Market gain and loss, by Bolsa", "a name the household took stays its own")

    def test_old_words_can_be_found_and_old_steps_undone(self):
        migrate.migrate(self.db)
        found = [r["rowid"] for r in self.db.execute("SELECT rowid FROM line_text WHERE line_text MATCH 'cafe* AND grebe*'")]
        self.assertEqual(found, [1])
        changes.undo_step(self.db, By(None, AT), self.old_step)
        self.assertEqual(self.db.execute("SELECT memo FROM entry WHERE id = 2").fetchone()["memo"], "")
        with self.assertRaises(BolsaError):
            changes.undo_step(self.db, By(None, AT), self.old_step)

    def test_a_step_that_loses_a_parent_is_taken_back_whole(self):
        folder = Path(self.db.execute("PRAGMA database_list").fetchone()["file"]).parent / "bad"
        folder.mkdir()
        for _, path in migrate.list_steps():
            shutil.copy(path, folder / path.name)
        (folder / f"{migrate.list_steps()[-1][0] + 1:04d}_bad.sql").write_text("DELETE FROM member; DELETE FROM payee;")
        with self.assertRaises(sqlite3.IntegrityError):
            migrate.migrate(self.db, folder)
        self.assertEqual(self.db.execute("SELECT count(*) FROM payee").fetchone()[0], 1)
        self.assertEqual(self.db.execute("PRAGMA foreign_keys").fetchone()[0], 1)

    def test_files_that_waited_ask_what_they_asked_and_know_what_they_knew(self):
        folder = Path(self.db.execute("PRAGMA database_list").fetchone()["file"]).parent / "third"
        folder.mkdir()
        for number, path in migrate.list_steps():
            if number <= 3:
                shutil.copy(path, folder / path.name)
        migrate.migrate(self.db, folder)
        kept = (
            ("a.csv", "csv", '{"day": 0}', "Say which column holds the amount."), ("b.ofx", "ofx", "", "Say which account here."),
            ("c.ofx", "ofx", '{"numbers": {"1": "DE77"}, "shares": {}}', ""), ("d.csv", "csv", '{"day": 0}', ""),
            ("e.ofx", "ofx", '{"numbers": {}, "shares": {"B5": 2}}', ""),
        )  # fmt: skip
        sql = (
            "INSERT INTO batch (source, name, state, made_at, format, mapping, problem) VALUES ('file', ?, 'waiting', ?, ?, ?, ?)"
        )
        for name, format_, mapping, problem in kept:
            self.db.execute(sql, (name, AT, format_, mapping, problem))
        migrate.migrate(self.db)
        rows = self.db.execute("SELECT name, asks, mapping <> '' AS mapped FROM batch WHERE state = 'waiting' ORDER BY id")
        self.assertEqual(
            [tuple(row) for row in rows],
            [("a.csv", "columns", 1), ("b.ofx", "accounts", 0), ("c.ofx", "", 0), ("d.csv", "", 1), ("e.ofx", "accounts", 0)],
        )
        known = self.db.execute("SELECT b.name, a.number, a.account_id FROM batch_account a JOIN batch b ON b.id = a.batch_id")
        self.assertEqual([tuple(row) for row in known], [("c.ofx", "DE77", 1), ("e.ofx", "B5", 2)])


if __name__ == "__main__":
    unittest.main()


class OfEverySchema(unittest.TestCase):
    """One small file of each schema so far (old_files.py), put back as a backup is."""

    def test_there_is_one_of_each(self):
        from tests.store import old_files

        self.assertEqual([n for n, _ in migrate.list_steps() if not old_files.path_of(n).exists()], [])

    def test_each_is_put_back_and_counts_what_it_counted(self):
        from tests.store import old_files

        for number, _ in migrate.list_steps():
            with self.subTest(number), tempfile.TemporaryDirectory() as folder:
                backup, target = Path(folder) / "old.bolsa", Path(folder) / "a.bolsa"
                backup.write_bytes(gzip.decompress(old_files.path_of(number).read_bytes()))
                self.assertIsNone(backups.restore(backup, target))
                with contextlib.closing(files.open_household(target)) as db:
                    self.assertEqual(listing.check(db), [])
                    balances = [(row.account.name, row.balance_minor) for row in accounts.list_account_states(db)]
                    trades = [tuple(row) for row in db.execute("SELECT kind, shares_e8, total_minor FROM trade")]
                    series = db.execute("SELECT count(*) FROM series").fetchone()[0]
                expected = [("Current", -2440), ("Kronor", 0)]
                expected += [("Van", 700_000)] if number >= 2 else []
                expected += [("Depot", 0)] if number >= 3 else []
                self.assertEqual(sorted(balances), sorted(expected))
                self.assertEqual((trades, series), ([("buy", 500_000_000, -20_000)] if number >= 3 else [], int(number >= 6)))
                self.assertEqual(
                    {path.name for path in Path(folder).iterdir()} - {"a.bolsa-wal", "a.bolsa-shm"}, {"old.bolsa", "a.bolsa"}
                )
