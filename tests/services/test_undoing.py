"""Undo in odd order: it says which change stands in the way, offers both, and never locks itself."""

import unittest
from dataclasses import replace
from datetime import date

from bolsa.errors import Conflict
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking, curing
from bolsa.services.house import past
from bolsa.services.ledger import correcting, entries, listing
from bolsa.store.checking import statements
from bolsa.store.ledger import entries as store
from tests.services.household import BY, HouseholdCase


class Undoing(HouseholdCase):
    def built_up(self):
        """An entry, then its category, then its amount: the steps."""
        entry_id = self.spends(2_000)
        entered = changes.list_steps(self.db)[0].id
        filed = entries.set_category(self.db, BY, entry_id, self.category("Power and water")).step
        line = entries.get_entry(self.db, entry_id).account_lines[0]
        corrected = correcting.correct_amount(self.db, BY, line.stored_id, -2_500).step
        return entry_id, entered, filed, corrected

    def refused(self, step_id):
        with self.assertRaises(Conflict) as caught:
            changes.undo_step(self.db, BY, step_id)
        return caught.exception

    def test_it_names_the_change_that_stands_in_the_way_until_that_is_undone(self):
        _, entered, filed, corrected = self.built_up()
        error = self.refused(entered)
        self.assertEqual((error.step_id, "Corrected" in error.sentence), (corrected, True))
        changes.undo_step(self.db, BY, corrected)
        self.assertEqual(self.refused(entered).step_id, filed)
        back = changes.undo_step(self.db, BY, filed)
        again = changes.undo_step(self.db, BY, back.step)
        self.assertEqual(self.refused(entered).step_id, again.step, "what was done again stands again")
        changes.undo_step(self.db, BY, again.step)
        changes.undo_step(self.db, BY, entered)
        self.assertEqual(self.balance(), 100_000)

    def test_an_account_that_a_file_was_brought_into_names_the_file(self):
        account_id = self.an_account("Quay")
        added = changes.list_steps(self.db)[0].id
        bringing_in.import_file(self.db, BY, "quay.csv", b"Date,Payee,Amount\n2026-05-04,Kiosk,-3.30\n", Answers(account_id))
        error = self.refused(added)
        self.assertIn("quay.csv", error.sentence)
        changes.undo_step(self.db, BY, error.step_id)
        self.assertEqual(
            self.refused(added).sentence,
            "Bolsa still remembers what “quay.csv” brought into this account. Delete the account instead.",
        )
        ending.delete_account(self.db, BY, account_id, "Quay")

    def test_a_name_that_was_given_away_since_is_said(self):
        account_id = self.an_account("Quay")
        ending.delete_account(self.db, BY, account_id, "Quay")
        deleted = changes.list_steps(self.db)[0].id
        self.an_account("Quay")
        self.assertEqual(self.refused(deleted).sentence, "Another account has its name now. Change that first.")

    def test_both_are_undone_as_one_step_and_that_is_undone_whole(self):
        entry_id, entered, *_ = self.built_up()
        done = changes.undo_with_later(self.db, BY, entered)
        self.assertIn("and 2 later steps", done.sentence)
        self.assertEqual(self.balance(), 100_000)
        with self.assertRaises(Conflict):
            changes.undo_with_later(self.db, BY, entered)
        changes.undo_step(self.db, BY, done.step)
        self.assertEqual((self.balance(), entries.get_entry(self.db, entry_id).payee), (97_500, "Grebe Street Grocer"))
        self.assertEqual(listing.check(self.db), [])

    def test_what_refers_to_it_is_named_and_undone_first(self):
        account = self.an_account("Card", "card")
        added = changes.list_steps(self.db)[0].id
        self.spends(700, account=account)
        error = self.refused(added)
        self.assertEqual(error.step_id, changes.list_steps(self.db)[0].id)
        changes.undo_with_later(self.db, BY, added)
        self.assertNotIn("Card", [one.name for one in accounts.list_accounts(self.db)])

    def test_a_check_given_up_does_not_come_back_over_lines_another_check_has_used(self):
        self.spends(2_000, day=date(2026, 5, 2), state="cleared")
        first = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 3), 98_000).made
        given_up = checking.abandon_statement(self.db, BY, first).step
        second = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 4), 98_000).made
        checking.reconcile(self.db, BY, second)
        with self.assertRaisesRegex(Conflict, "The statement to 2026-05-04 has used lines of this check"):
            changes.undo_step(self.db, BY, given_up)
        self.assertEqual(listing.check(self.db), [])


class LeftOpen(HouseholdCase):
    def test_a_check_that_agrees_names_what_stays_open_and_books_differ_by_it(self):
        self.spends(2_000, day=date(2026, 5, 2), state="cleared")
        for amount, day in ((1_100, 1), (450, 2)):
            self.spends(amount, day=date(2026, 4, day), payee="Old")
        past.record_bank_balance(self.db, self.current, date(2026, 5, 12), 98_000)
        statement = checking.begin_statement(self.db, BY, self.current, date(2026, 5, 12), 98_000).made
        page = checking.check_page(self.db, self.current)
        self.assertEqual((page.check.difference_minor, len(page.check.open_items), page.check.open_minor), (0, 2, -1_550))
        self.assertEqual(page.state.difference_minor, 1_550, "Books says what the two come to")
        found = curing.find_findings(self.db, statements.get_statement(self.db, statement))
        self.assertEqual([(s.kind, s.title) for s in found.suspects], [("open", "Old"), ("open", "Old")])
        curing.cure(self.db, BY, statement, found.suspects[0].key)
        done = checking.reconcile(self.db, BY, statement)
        self.assertIn("one entry stays open, -4.50 EUR in all", done.sentence)

    def test_the_last_day_an_open_line_is_not_yet_old_and_the_first_it_is(self):
        for days, named in ((9, 0), (10, 1)):
            account = self.an_account(f"Account {days}", opening_minor=10_000)
            self.spends(500, day=date(2026, 5, 12 - days), account=account)
            id_ = checking.begin_statement(self.db, BY, account, date(2026, 5, 12), 10_000).made
            self.assertEqual(len(curing.find_findings(self.db, statements.get_statement(self.db, id_)).suspects), named)

    def test_what_a_bank_announces_is_apart_from_the_difference(self):
        self.spends(2_000, day=date(2026, 5, 2), state="cleared")
        with changes.note(self.db):
            entry = entries.get_entry(self.db, self.spends(700, day=date(2026, 5, 3)))
            lines = tuple(replace_line(line) if line.account_id else line for line in entry.lines)
            store.change_entry(self.db, replace(entry, lines=lines))
        past.record_bank_balance(self.db, self.current, date(2026, 5, 12), 98_000)
        self.assertEqual(accounts.get_account_state(self.db, self.current).difference_minor, 0)

    def test_a_count_of_cash_knows_typed_entries(self):
        purse = self.an_account("Purse", "cash", opening_minor=5_000)
        self.spends(1_240, day=date(2026, 5, 2), account=purse)
        checking.begin_statement(self.db, BY, purse, date(2026, 5, 12), 3_760)
        self.assertTrue(checking.check_page(self.db, purse).check.agrees)


def replace_line(line):
    return line._replace(raw_text="ANNOUNCED", bank_ref="P1")


if __name__ == "__main__":
    unittest.main()
