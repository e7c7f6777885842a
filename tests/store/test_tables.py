"""The list of tables against the schema: nothing is forgotten by the journal, the export, the end of an account, or the check."""

import re

from bolsa.store.house import exports
from bolsa.store.invariants import CHECKS
from bolsa.store.tables import TABLES
from tests.services.household import HouseholdCase


class TheList(HouseholdCase):
    def names(self, sql, *more):
        return {row[0] for row in self.db.execute(sql, more)}

    def test_it_names_every_table_of_the_schema(self):
        here = self.names("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite!_%' ESCAPE '!'")
        self.assertEqual({name for name in here if not name.startswith("line_text")}, {table.name for table in TABLES})
        self.assertEqual(len({table.name for table in TABLES}), len(TABLES))

    def test_what_is_journalled_writes_its_rows_and_nothing_else_does(self):
        triggers = self.names("SELECT tbl_name FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'journal!_%' ESCAPE '!'")
        self.assertEqual(triggers, {table.name for table in TABLES if table.is_journalled})

    def test_what_is_not_exported_says_why(self):
        asked = set(re.findall(r"\w+", " ".join(sql for _, sql in exports.TABLES)))
        self.assertEqual({table.name for table in TABLES if table.name not in asked}, {t.name for t in TABLES if t.stays})

    def test_every_column_of_an_exported_table_leaves(self):
        # Which batch brought a row means nothing without the batch; the rest leaves by another name, or is of this file alone.
        stays = {
            "account": {"connection_id"}, "account_owner": {"id", "member_id"}, "account_facet": {"id", "facet_id"},
            "line": {"everyday"}, "household": {"time_zone", "set_day"},
        }  # fmt: skip
        text = " ".join(sql for _, sql in exports.TABLES)
        for table in TABLES:
            if table.stays:
                continue
            columns = self.names("SELECT name FROM pragma_table_info(?)", table.name)
            missing = {name for name in columns - {"batch_id"} if not re.search(rf"\b{name}\b", text)}
            with self.subTest(table.name):
                self.assertEqual(missing - stays.get(table.name, set()), set())

    def test_what_names_an_account_says_what_becomes_of_it(self):
        for table in TABLES:
            refers = self.names("SELECT 1 FROM pragma_foreign_key_list(?) WHERE \"table\" = 'account'", table.name)
            with self.subTest(table.name):
                is_told = bool(table.account_ends) or table.name == "account_month"
                self.assertTrue(is_told or not refers)
                self.assertIn(table.name, table.account_ends or table.name)

    def test_the_promises_it_names_are_kept_by_looking_at_it(self):
        for table in TABLES:
            for promise in table.promises:
                found = [sql for words, sql in CHECKS if words.startswith(promise)]
                with self.subTest(table.name, promise=promise):
                    self.assertTrue(any(re.search(rf"\b{table.name}\b", sql) for sql in found))
