"""The one door for writing: the lock before any reading, a step only for what changed, a failed part that fails the whole."""

import contextlib
import threading
from dataclasses import replace
from datetime import timedelta

from bolsa.core.months import Month
from bolsa.errors import BolsaError, Conflict, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import valuing
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import budgeting, expecting, placing
from bolsa.services.checking import checking
from bolsa.services.house import files
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from tests.services.household import BY, TODAY, HouseholdCase

MAY = Month(2026, 5)


class Door(HouseholdCase):
    def steps(self):
        return [step.sentence for step in changes.list_steps(self.db)]

    def test_a_step_that_changed_nothing_is_not_kept(self):
        before = self.steps()
        done = placing.set_placed(self.db, BY, self.category("Groceries"), MAY, 0)
        self.assertIsNone(done.step_id)
        self.assertEqual(self.steps(), before)

    def test_a_part_that_failed_fails_the_whole_even_if_it_is_passed_over(self):
        before = self.steps()
        with self.assertRaises(RuntimeError), changes.change(self.db, BY) as done:
            done.sentence = "Did two things"
            self.spends(500)
            with contextlib.suppress(InvalidInput):
                placing.place(self.db, BY, self.category("Groceries"), MAY, 0)
        self.assertEqual((self.steps(), self.balance()), (before, 100_000))
        self.spends(500)  # and the next change is none the worse for it

    def test_what_was_set_noted_or_corrected_meanwhile_is_asked_about(self):
        groceries, house = self.category("Groceries"), self.an_account("House", "property")
        checking.begin_statement(self.db, BY, self.current, TODAY, 100_000)
        statement = checking.check_page(self.db, self.current).statement
        seen, version = changes.version_now(self.db), changes.version_of(self.db, "statement", statement.id)
        expecting.set_expected(self.db, BY, groceries, MAY, 50_000, seen=seen)
        valuing.note_value(self.db, BY, house, TODAY, 900, seen=seen)
        checking.begin_statement(self.db, BY, self.current, TODAY, 90_000, seen=version)
        late = (
            ("You typed 400.00", lambda: expecting.set_expected(self.db, BY, groceries, MAY, 40_000, seen=seen)),
            ("You typed 7.00", lambda: valuing.note_value(self.db, BY, house, TODAY, 700, seen=seen)),
            ("You typed 80", lambda: checking.begin_statement(self.db, BY, self.current, TODAY, 80_000, seen=version)),
            (
                "is -100.00 EUR by now; you saw 5.00 EUR",
                lambda: checking.write_off(self.db, BY, statement.id, groceries, seen_minor=500),
            ),
        )
        for words, act in late:
            with self.subTest(words), self.assertRaisesRegex(Conflict, words):
                act()
        # Another category, another day and a fresh page are nobody's conflict.
        expecting.set_expected(self.db, BY, self.category("Household"), MAY, 1_000, seen=seen)
        valuing.note_value(self.db, BY, house, TODAY - timedelta(days=40), 800, seen=seen)
        expecting.set_expected(self.db, BY, groceries, MAY, 40_000, seen=changes.version_now(self.db))

    def test_what_is_part_of_another_change_is_one_step_named_by_the_whole(self):
        with changes.change(self.db, BY) as done:
            self.spends(500)
            self.spends(700)
            done.sentence = "Entered the day’s receipts"
        self.assertEqual(self.steps()[0], "Entered the day’s receipts")
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.balance(), 100_000)

    def test_who_may_only_look_changes_nothing(self):
        with self.assertRaises(NotAllowed):
            entries.record_quick_line(self.db, replace(BY, may_change=False), self.current, "grebe 5")

    def test_a_form_that_is_stale_gets_both_values(self):
        entry_id = self.spends(1_000)
        seen = changes.version_of(self.db, "entry", entry_id)
        typed = TypedEntry(TODAY, "Grebe Street Grocer", -2_000)
        entries.change_entry(self.db, BY, entry_id, self.current, typed, seen=seen)
        with self.assertRaisesRegex(Conflict, "Ana changed it meanwhile.*You typed Grebe, -30.00 EUR"):
            late = TypedEntry(TODAY, "Grebe", -3_000)
            entries.change_entry(self.db, BY, entry_id, self.current, late, seen=seen)
        self.assertEqual(self.balance(), 98_000)

    def test_a_placing_typed_over_another_is_asked_about(self):
        groceries = self.category("Groceries")
        placing.place(self.db, BY, groceries, MAY, 12_000)
        with self.assertRaisesRegex(Conflict, "120.00 EUR is placed there by now; you typed 90.00 EUR"):
            placing.set_placed(self.db, BY, groceries, MAY, 9_000, seen_minor=0)

    def test_a_bringing_in_undone_by_its_step_comes_back_by_its_file_alone(self):
        rows = b"Date,Payee,Amount\n2026-05-02,Otter Books,-9.00\n2026-05-03,Heron School,-20.00\n"
        brought = bringing_in.import_file(self.db, BY, "a.csv", rows, Answers(self.current, others="new"))
        self.assertEqual(self.balance(), 97_100)
        undone = changes.undo_step(self.db, BY, brought.step_id)
        self.assertEqual(self.balance(), 100_000)
        for step_id in (brought.step_id, undone.step_id):
            with self.subTest(step_id), self.assertRaises(Conflict):
                changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.balance(), 100_000)
        self.assertEqual(bringing_in.import_file(self.db, BY, "a.csv", rows, Answers(self.current, others="new")).new, 2)
        self.assertEqual(self.balance(), 97_100)

    def test_two_fillings_at_once_place_no_more_than_there_is(self):
        """What is there to place is read within the lock: the second finds what the first has left."""
        for name in ("Groceries", "Clothes"):
            expecting.set_expected(self.db, BY, self.category(name), MAY, 80_000)
        done = []

        def fill(category):
            with contextlib.closing(files.open_household(self.path)) as db, contextlib.suppress(BolsaError):
                done.append(placing.fill(db, BY, MAY, [category]).made.placed_minor)

        both = [threading.Thread(target=fill, args=(self.category(name),)) for name in ("Groceries", "Clothes")]
        for one in both:
            one.start()
        for one in both:
            one.join()
        self.assertEqual(sum(done), 100_000)
        self.assertEqual(budgeting.budget_view(self.db, BY, MAY).budget.unplaced_minor, 0)
