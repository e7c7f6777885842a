"""What falsified a balance or net worth once, account by account, each by the promise that was broken."""

import unittest
from datetime import date
from decimal import Decimal

from bolsa.core.accounts.terms import Terms
from bolsa.core.months import Month
from bolsa.errors import BolsaError, InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.accounts import accounts, ending, valuing
from bolsa.services.accounts.accounts import AccountDetails
from bolsa.services.bringing import bringing_in, previewing, taking_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.budget import budgeting
from bolsa.services.checking import checking
from bolsa.services.house import backups, files
from bolsa.services.ledger import entries, listing, registers
from bolsa.services.ledger.entries import TypedEntry
from bolsa.services.ledger.registers import ManyChange
from bolsa.services.sorting import transferring
from bolsa.store import migrate
from bolsa.store.connection import open_database
from tests.services.household import BY, TODAY, OrderCase

ROW = b"Date,Payee,Amount\n2026-05-01,Shop,-1.00\n"


class ClosedAccounts(OrderCase):
    def setUp(self):
        super().setUp()
        self.entry_id = self.spends(500)
        self.paid = self.moves(self.current, self.reserve, 700)
        self.back = self.moves(self.reserve, self.current, 700)
        ending.close_account(self.db, BY, self.reserve, TODAY, happened=True)

    def refuses(self, act):
        with self.assertRaisesRegex(NotAllowed, "Reserve is closed since 2026-05-14. Open it again first."):
            act()
        self.assertEqual(self.balance(self.reserve), 0)

    def test_no_form_file_transfer_or_undo_puts_anything_into_one(self):
        typed = TypedEntry(TODAY, "x", -500, other_account_id=self.reserve)
        self.refuses(lambda: entries.change_entry(self.db, BY, self.entry_id, self.current, typed))
        self.refuses(lambda: transferring.file_as_transfer(self.db, BY, [self.spends(700)], self.reserve))
        self.refuses(lambda: bringing_in.import_file(self.db, BY, "a.csv", ROW, Answers(self.reserve)))
        with self.assertRaises(BolsaError):
            changes.undo_step(self.db, BY, self.back.step_id)
        self.refuses(lambda: registers.change_many(self.db, BY, self.reserve, [self.paid.made], ManyChange("shift", days=-40)))
        with self.assertRaises(BolsaError):
            valuing.note_value(self.db, BY, self.reserve, TODAY, 5)

    def test_what_moves_nothing_is_still_done_and_opened_again_it_takes_everything(self):
        typed = TypedEntry(TODAY, "Moved", 700, other_account_id=self.current, note="the last one")
        entries.change_entry(self.db, BY, self.paid.made, self.reserve, typed)
        ending.open_again(self.db, BY, self.reserve)
        self.assertEqual(bringing_in.import_file(self.db, BY, "a.csv", ROW, Answers(self.reserve)).new, 1)

    def test_a_batch_that_brought_to_it_is_taken_out_only_when_it_is_open_again(self):
        ending.open_again(self.db, BY, self.reserve)
        batch = bringing_in.import_file(self.db, BY, "a.csv", ROW, Answers(self.reserve)).batch_id
        ending.close_account(self.db, BY, self.reserve, TODAY, rest_to=self.current, happened=True)
        with self.assertRaises(NotAllowed):
            undoing.undo_batch(self.db, BY, batch)
        self.assertEqual(self.balance(self.reserve), 0)


class ValuedAccounts(OrderCase):
    def setUp(self):
        super().setUp()
        self.house = self.an_account("House", "property", opening_minor=400_000, opened_on=date(2025, 1, 1))
        valuing.note_value(self.db, BY, self.house, date(2025, 8, 31), 500_000)

    def test_closing_one_by_moving_its_rest_leaves_net_worth_as_it_was(self):
        before = self.worth()
        ending.close_account(self.db, BY, self.house, TODAY, rest_to=self.reserve)
        self.assertEqual((self.balance(self.house), self.worth()), (0, before))
        with self.assertRaisesRegex(InvalidInput, "is closed since"):
            valuing.note_value(self.db, BY, self.house, TODAY, 5)

    def test_a_match_by_hand_that_gives_a_transfer_another_amount_keeps_the_noted_value(self):
        paid = self.moves(self.current, self.house, 1_000, date(2025, 8, 30))
        row = b"Date,Payee,Amount\n2025-08-31,Quite other,-12.50\n"
        batch_id = taking_in.take_in(self.db, BY, "a.csv", row, Answers(self.current)).batch_id
        (brought,) = previewing.get_preview(self.db, batch_id).rows
        previewing.match_by_hand(self.db, batch_id, brought.id, self.far_line(paid.made, self.current).id)
        done = bringing_in.bring_in(self.db, BY, batch_id)
        self.assertEqual((self.far_line(paid.made, self.house).amount_minor, self.balance(self.house)), (1_250, 500_000))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual((self.far_line(paid.made, self.house).amount_minor, self.balance(self.house)), (1_000, 500_000))

    def test_what_a_value_booked_stays_once_it_is_checked_with_a_statement(self):
        statement = checking.begin_statement(self.db, BY, self.house, TODAY, 500_000).made
        lines = [item.line_id for item in checking.check_page(self.db, self.house).check.items]
        checking.set_ticks(self.db, BY, statement, lines, ticked=True)
        checking.reconcile(self.db, BY, statement)
        self.moves(self.current, self.house, 1_000, date(2025, 8, 30))  # `bolsa check` at the end sees a statement that is off
        self.assertEqual(self.balance(self.house), 501_000)
        for change in (
            lambda: valuing.note_value(self.db, BY, self.house, date(2025, 8, 31), 1),
            lambda: valuing.forget_value(self.db, BY, self.house, date(2025, 8, 31)),
            lambda: valuing.paste_values(self.db, BY, self.house, "2025-08-31 1"),
        ):
            with self.assertRaisesRegex(InvalidInput, "is part of a statement"):
                change()

    def test_one_entry_is_never_two_rows_of_a_file_and_what_the_user_says_goes_first(self):
        self.spends(1_000, day=date(2026, 5, 2), payee="Quay Books")
        self.spends(900, day=date(2026, 5, 3), payee="Quay Books")
        rows = b"Date,Payee,Amount\n2026-05-02,Quay Books,-10.00\n2026-05-03,Quay Books,-9.00\n"
        batch_id = taking_in.take_in(self.db, BY, "a.csv", rows, Answers(self.current)).batch_id
        first, second = previewing.get_preview(self.db, batch_id).rows
        self.assertEqual((first.verdict, second.verdict), ("matched", "matched"))
        previewing.match_by_hand(self.db, batch_id, second.id, first.match_line_id)
        guessed = previewing.get_preview(self.db, batch_id).rows[0]
        self.assertNotEqual((guessed.verdict, guessed.match_line_id), ("matched", first.match_line_id))
        with self.assertRaisesRegex(InvalidInput, "matched with that entry already"):
            previewing.match_by_hand(self.db, batch_id, first.id, first.match_line_id)
        bringing_in.bring_in(self.db, BY, batch_id)

    def test_a_carried_value_takes_in_what_flows_whenever_it_is_entered(self):
        valuing.fill_holes(self.db, BY, self.house, "carried")
        before = self.worth()
        paid = self.moves(self.current, self.house, 50_000, date(2026, 1, 10))
        self.assertEqual((self.worth(), self.balance(self.house)), (before, 550_000))
        self.assertEqual(self.worth(date(2026, 1, 31)), self.worth(date(2026, 1, 5)))
        changes.undo_step(self.db, BY, paid.step_id)
        self.assertEqual((self.worth(), self.balance(self.house)), (before, 500_000))

    def test_a_curve_adds_its_own_part_alone(self):
        terms = AccountDetails(Terms(curve="percent", curve_rate=Decimal("0.10")), (), {})
        accounts.change_account(self.db, BY, self.house, terms)
        valuing.carry_values(self.db, BY)
        grown = self.balance(self.house) - 500_000
        self.assertGreater(grown, 0)
        self.moves(self.current, self.house, 50_000, date(2025, 12, 10))
        self.assertEqual(self.balance(self.house), 550_000 + grown)
        valuing.note_value(self.db, BY, self.house, date(2026, 3, 31), 600_000)
        self.assertEqual(accounts.get_account_state(self.db, self.house).balance_minor > 600_000, True)


class Marks(OrderCase):
    def test_turning_an_account_undone_marks_what_was_entered_meanwhile(self):
        turned = accounts.set_flags(self.db, BY, self.reserve, everyday=False)
        self.spends(100, account=self.reserve)
        changes.undo_step(self.db, BY, turned.step_id)  # `bolsa check` at the end of each test sees a stale mark

    def test_what_lay_in_the_trash_while_its_account_was_turned_is_marked_anew(self):
        entry_id = self.spends(100, account=self.reserve)
        deleted = entries.delete_entry(self.db, BY, entry_id)
        accounts.set_flags(self.db, BY, self.reserve, everyday=False)
        changes.restore_entry(self.db, BY, changes.list_trash(self.db)[0].id)
        self.assertEqual(listing.check(self.db), [])
        changes.undo_step(self.db, BY, changes.list_steps(self.db)[0].id)
        accounts.set_flags(self.db, BY, self.reserve, everyday=True)
        changes.undo_step(self.db, BY, deleted.step_id)

    def test_editing_a_transfer_leaves_its_far_side_as_it_was(self):
        made = self.moves(self.current, self.reserve, 5_000).made
        entries.set_state(self.db, BY, self.far_line(made, self.reserve).id, "cleared")
        typed = TypedEntry(TODAY, "Moved", -5_000, other_account_id=self.reserve, note="for the kiln")
        entries.change_entry(self.db, BY, made, self.current, typed)
        self.assertEqual(self.far_line(made, self.reserve).state, "cleared")


class OldFiles(OrderCase):
    def test_what_an_earlier_version_let_a_person_do_is_named_mended_and_keeps_no_backup_from_being_put_back(self):
        for day in (date(2026, 4, 30), TODAY):
            checking.reconcile(self.db, BY, checking.begin_statement(self.db, BY, self.current, day, 100_000).made)
        self.db.execute("UPDATE statement SET opening_minor = opening_minor - 5, closing_minor = closing_minor - 5 WHERE id = 2")
        self.db.execute("UPDATE account SET closed_on = '2026-05-01' WHERE id = :id", {"id": self.current})
        backup, other = self.folder / "b.bolsa", self.folder / "other.bolsa"
        named = [breach.promise for breach in backups.back_up(self.db, backup)]
        self.assertEqual(
            named,
            ["a statement that goes on where another ended opens with what that closed with", "a closed account is empty"],
        )
        backups.restore(backup, other)
        self.db.execute("UPDATE account SET closed_on = NULL")
        checking.reopen(self.db, BY, 2)
        checking.begin_statement(self.db, BY, self.current, TODAY, 100_000, opening_minor=100_000)
        checking.reconcile(self.db, BY, 2)

    def test_marks_an_earlier_version_left_stale_are_set_anew(self):
        self.spends(700)
        self.db.execute("UPDATE line SET everyday = 0")
        self.assertNotEqual(listing.check(self.db), [])
        step = next(path for _, path in migrate.list_steps() if path.name == "0019_marks.sql")
        for statement in migrate.statements(step.read_text()):
            self.db.execute(statement)
        self.assertEqual(
            budgeting.budget_view(self.db, BY, Month(2026, 5)).budget.row_of(self.category("Groceries")).spent_minor, 700
        )

    def test_a_backup_of_the_first_schema_is_put_back(self):
        old = self.folder / "old.bolsa"
        first = self.folder / "steps"
        first.mkdir()
        source = migrate.list_steps()[0][1]
        (first / source.name).write_text(source.read_text())
        db = open_database(old)
        migrate.migrate(db, first)
        from tests.store.test_migrations import FIRST_HOUSEHOLD

        for statement in migrate.statements(FIRST_HOUSEHOLD):
            db.execute(statement)
        db.close()
        backups.restore(old, self.folder / "new.bolsa")
        files.open_household(self.folder / "new.bolsa").close()
        self.assertEqual([path for path in self.folder.iterdir() if path.suffix == ".part"], [])


class LoanPayments(OrderCase):
    def setUp(self):
        super().setUp()
        self.interest = self.category("Household")
        terms = Terms(rate=Decimal("0.06"), payment_minor=20_000, interest_category_id=self.interest)
        self.loan = self.an_account("Loan", "loan", opening_minor=-1_200_000, terms=terms)

    def split(self, entry_id):
        entry = entries.get_entry(self.db, entry_id)
        return self.far_line(entry_id, self.loan).amount_minor, sum(line.amount_minor for line in entry.category_lines)

    def test_a_months_interest_is_paid_once_however_often_one_pays(self):
        first = self.moves(self.current, self.loan, 20_000, date(2026, 3, 1)).made
        second = self.moves(self.current, self.loan, 20_000, date(2026, 3, 4)).made
        later = self.moves(self.current, self.loan, 20_000, date(2026, 4, 1)).made
        self.assertEqual([self.split(one) for one in (first, second, later)], [(14_000, 6_000), (20_000, 0), (14_170, 5_830)])

    def test_editing_a_payments_note_leaves_its_interest(self):
        paid = self.moves(self.current, self.loan, 20_000, date(2026, 3, 1)).made
        typed = TypedEntry(date(2026, 3, 1), "Moved", -20_000, other_account_id=self.loan, note="by standing order")
        entries.change_entry(self.db, BY, paid, self.current, typed)
        self.assertEqual(self.split(paid), (14_000, 6_000))

    def test_a_payment_below_the_interest_is_said_and_nothing_is_kept(self):
        with self.assertRaisesRegex(InvalidInput, "so this pays nothing back"):
            self.moves(self.current, self.loan, 3_000)
        entry = self.spends(3_000)
        with self.assertRaises(InvalidInput):
            transferring.file_as_transfer(self.db, BY, [entry], self.loan)
        self.assertEqual(self.balance(self.loan), -1_200_000)

    def test_a_payment_that_was_brought_in_is_split_when_it_is_filed(self):
        entry = self.spends(20_000, payee="Loan bank")
        transferring.file_as_transfer(self.db, BY, [entry], self.loan)
        self.assertEqual(self.split(entry), (14_000, 6_000))
        self.assertEqual(self.balance(self.loan), -1_186_000)


if __name__ == "__main__":
    unittest.main()
