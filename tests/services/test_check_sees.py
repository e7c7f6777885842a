"""What `bolsa check` sees: a household damaged by hand in each way that once got past it, and the row it names."""

from datetime import date

from bolsa.core.budget.aims import Aim
from bolsa.services.accounts import ending, valuing
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import aims
from bolsa.services.checking import checking
from bolsa.services.ledger import entries, listing
from bolsa.services.ledger.entries import TypedEntry
from tests.services.household import BY, TODAY, HouseholdCase
from tests.services.test_first_hour import ofx


class Damaged(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.house = self.an_account("House", "property", opening_minor=400_000, opened_on=date(2025, 1, 1))
        valuing.note_value(self.db, BY, self.house, date(2025, 8, 31), 500_000)
        self.paid = entries.record_entry(
            self.db, BY, self.current,
            TypedEntry(date(2026, 2, 3), "Paid in", -9_000, other_account_id=self.house, set_by_id=self.category("Household")),
        ).made  # fmt: skip
        valuing.fill_holes(self.db, BY, self.house, "carried")
        bringing_in.import_file(self.db, BY, "a.ofx", ofx("1000.00"), Answers(self.current))
        for day, closing in ((date(2026, 3, 31), 91_000), (date(2026, 4, 30), 91_000)):
            statement_id = checking.begin_statement(self.db, BY, self.current, day, closing).made
            ids = [line.line_id for line in checking.check_page(self.db, self.current).check.items]
            checking.set_ticks(self.db, BY, statement_id, ids, ticked=True)
            checking.reconcile(self.db, BY, statement_id)
        ending.close_account(self.db, BY, self.an_account("Old"), TODAY)

    def sees(self, *damage):
        """What is named after statements of damage, which are taken back."""
        self.assertEqual(listing.check(self.db), [])
        self.db.execute("BEGIN")
        try:
            for sql in damage:
                self.assertGreater(self.db.execute(sql).rowcount, 0, sql)
            return [f"{breach.promise}: {breach.row}" for breach in listing.check(self.db)]
        finally:
            self.db.execute("ROLLBACK")

    def assert_named(self, words, *damage):
        found = self.sees(*damage)
        self.assertTrue(any(words in one for one in found), f"{words} is not in {found}")

    def test_an_entry_twice_under_one_row_of_the_bank(self):
        copy = "INSERT INTO entry (day, payee_id) SELECT day, payee_id FROM line JOIN entry USING (day) WHERE bank_ref = 'a1'"
        lines = """
            INSERT INTO line (entry_id, account_id, category_id, currency, amount_minor, day, state, bank_ref, raw_text, everyday)
            SELECT (SELECT max(id) FROM entry), account_id, category_id, currency, amount_minor, day, state, bank_ref, raw_text, 1
            FROM line WHERE entry_id = (SELECT entry_id FROM line WHERE bank_ref = 'a1')"""
        self.assert_named("a row of the bank is one entry: account 1 on 2026-05-10: a1 is there 2 times", copy, lines)
        double = """
            INSERT INTO brought_row (batch_id, account_id, day, amount_minor, payee, payee_key, memo, bank_ref, file_line,
                verdict, take, line_id)
            SELECT batch_id, account_id, day, amount_minor, payee, payee_key, memo, 'a2', 9, verdict, take, line_id
            FROM brought_row"""
        self.assert_named("is 2 rows of one batch", double)

    def test_an_aim_that_says_neither_by_when_nor_how_much(self):
        aims.set_aim(self.db, BY, self.category("Holidays"), Aim("build", 100), TODAY)
        words = "an aim is of a category that spends, and says by when or how much a month: aim of Holidays"
        for damage in ("by_day = NULL", "each_minor = 5", "kind = 'keep'", "repeat = -1"):
            self.assert_named(words, f"UPDATE aim SET {damage}")
        pay = self.category("Pay")
        self.assert_named("aim of Pay", f"INSERT INTO aim (id, kind, amount_minor, since) VALUES ({pay}, 'keep', 5, '2026-05')")

    def test_rows_of_a_batch_without_their_entry(self):
        words = "what a batch brought is there, or was taken out by someone: batch 1, row 1 of 2026-05-10: -1230 GREBE"
        self.assert_named(words, "UPDATE brought_row SET line_id = NULL")
        self.assert_named(words, "UPDATE brought_row SET line_id = 77777")

    def test_a_closed_account_that_is_not_empty(self):
        move = "UPDATE line SET account_id = (SELECT id FROM account WHERE name = 'Old') WHERE bank_ref = 'a1'"
        self.assert_named("a closed account is empty: Old holds -1230", move)

    def test_a_stale_everyday_mark(self):
        self.assert_named(
            "a line knows whether its entry touches an everyday account: line",
            "UPDATE line SET everyday = 0 WHERE bank_ref = 'a1'",
        )

    def test_a_carried_value_that_ignores_a_flow(self):
        note = "UPDATE value_note SET amount_minor = 500000 WHERE account_id = 3 AND day = '2026-02-28'"
        words = "what a curve or carrying made of a value follows from the value before and what flowed since: account 3 on"
        # As it once was: the value stays, and what flowed is booked as a loss.
        booked = "INSERT INTO entry (day, payee_id, origin) SELECT '2026-02-28', max(id), 'value' FROM payee"
        lines = """
            INSERT INTO line (entry_id, account_id, category_id, currency, amount_minor, day, state)
            SELECT (SELECT max(id) FROM entry), 3, NULL, 'EUR', -9000, '2026-02-28', 'cleared'
            UNION ALL SELECT max(e.id), NULL, c.id, 'EUR', 9000, '2026-02-28', NULL FROM entry e, category c
            WHERE c.role = 'market'"""
        linked = "UPDATE value_note SET entry_id = (SELECT max(id) FROM entry) WHERE account_id = 3 AND day = '2026-02-28'"
        self.assert_named(words, note, booked, lines, linked)

    def test_set_by_that_no_category_holds(self):
        category = self.category("Household")
        self.assert_named(
            f"a category's month is the sum of its lines: category {category} in 2026-02",
            f"UPDATE category_month SET budget_minor = 0 WHERE category_id = {category} AND budget_minor <> 0",
        )

    def test_a_statement_that_opens_otherwise_than_the_one_before_closed(self):
        self.assert_named(
            "statement 2 of 2026-04-30 opens with 5, not 91000",
            "UPDATE statement SET opening_minor = 5, closing_minor = 5 WHERE id = 2",
        )

    def test_an_opening_that_does_not_lead_to_what_is_known(self):
        self.assert_named(
            "an opening balance leads to what the account is known to have held: account 2",
            "INSERT INTO known_balance (id, day, amount_minor) VALUES (2, '2026-05-01', 700)",
        )

    def test_a_word_about_a_due_that_nobody_knows(self):
        self.db.execute("PRAGMA foreign_keys = OFF")
        self.assert_named(
            "what was said of a due is known, and of a line where it is about one: mark 1 is matched",
            "INSERT INTO due_mark (id, series_id, kind, day, line_id) VALUES (1, 1, 'matched', '2026-05-01', NULL)",
        )
