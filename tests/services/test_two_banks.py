"""A transfer joins what two banks told: one's line vanishes, changes, is matched, cured, goes; the other's stands as told."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

from bolsa.bench.identity import layouts
from bolsa.bench.identity.layouts import Window
from bolsa.bench.identity.truth import Booking
from bolsa.core.accounts.terms import Terms
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.bringing import bringing_in, matching_by_hand, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from bolsa.services.ledger import attaching, correcting, entries, listing
from bolsa.services.sorting import transferring
from bolsa.services.sorting.sorting import what_to_sort
from bolsa.store.accounts import accounts as store_accounts
from bolsa.store.ledger import attachments
from bolsa.store.ledger import entries as store
from tests.services.household import BY, HouseholdCase, picture

DAY = date(2026, 5, 4)
SENT = Booking(1, DAY, DAY, -6_000, "Own transfer", is_card=False)
CAME = Booking(2, DAY, DAY, 6_000, "From Current", is_card=False)


def entries_of(db):
    return store.list_entries(db, [row["id"] for row in db.execute("SELECT id FROM entry")])


class TwoBanks(HouseholdCase):
    def bring(self, account, booked=(), announced=(), layout="ofx", until=date(2026, 5, 6)):
        shown = Window(date(2026, 5, 1), until, booked, announced, 0, 1)
        return bringing_in.import_file(self.db, BY, f"{account}.{layout}", layouts.LAYOUTS[layout](shown), Answers(account))

    def joined(self):
        """A transfer whose sending side is announced, and whose other side the other bank has booked; its entry's id."""
        self.bring(self.current, announced=[SENT])
        self.bring(self.reserve, [CAME], layout="purchases.csv")
        waiting = self.unsorted()
        transferring.merge_transfer(self.db, BY, waiting[-6_000], waiting[6_000])
        self.assertEqual((self.balance(), self.balance(self.reserve)), (94_000, 6_000))
        return waiting[-6_000]

    def balances(self):
        self.assertEqual(listing.check(self.db), [])
        return self.balance(), self.balance(self.reserve)

    def reconcile_reserve(self):
        statement = checking.begin_statement(self.db, BY, self.reserve, date(2026, 5, 6), 6_000).made
        return checking.reconcile(self.db, BY, statement)

    def unsorted(self):
        """The entries that wait to be sorted, by the amount of their account line."""
        waits = [e for e in entries_of(self.db) if any(line.category_id == 1 for line in e.category_lines)]
        return {entry.account_lines[0].amount_minor: entry.id for entry in waits}

    def waiting(self):
        return sorted(self.unsorted())

    def test_an_announced_side_that_vanishes_leaves_the_other_banks_line(self):
        self.joined()
        gone = self.bring(self.current)
        self.assertEqual(self.balances(), (100_000, 6_000))
        self.assertEqual(self.waiting(), [6_000])
        undoing.undo_batch(self.db, BY, gone.batch_id)
        self.assertEqual(self.balances(), (94_000, 6_000))
        self.assertEqual(self.waiting(), [], "the transfer is one again")

    def test_a_side_booked_under_other_words_stays_in_its_transfer(self):
        self.joined()
        self.bring(self.current, [Booking(1, DAY, DAY, -6_000, "SEPA OUT 4711", is_card=False)])
        self.assertEqual(self.balances(), (94_000, 6_000))

    def changes_to(self, now):
        entry_id = self.joined()
        changed = self.bring(self.current, announced=[Booking(1, DAY, DAY, now, "Own transfer", is_card=False)])
        self.assertEqual(self.balances(), (100_000 + now, 6_000))
        self.assertEqual(self.waiting(), sorted([now, 6_000]))
        self.assertIn("This was one transfer until Current told", entries.get_entry(self.db, entry_id).note)
        undoing.undo_batch(self.db, BY, changed.batch_id)
        self.assertEqual(self.balances(), (94_000, 6_000))
        self.assertEqual(self.waiting(), [])

    def test_an_announced_amount_that_grows_takes_the_transfer_apart_with_the_reason(self):
        self.changes_to(-6_150)

    def test_and_one_that_shrinks(self):
        self.changes_to(-5_400)

    def test_a_difference_that_is_a_fee_is_offered_as_one(self):
        self.joined()
        self.bring(self.current, [Booking(1, DAY, DAY, -6_150, "Own transfer", is_card=False)])
        (pair,) = what_to_sort(self.db).transfers
        self.assertEqual((pair.out.amount_minor, pair.into.amount_minor), (-6_150, 6_000))

    def test_a_reconciled_far_side_stands_when_the_other_bank_books_less(self):
        self.joined()
        self.reconcile_reserve()
        self.bring(self.current, [Booking(1, DAY, DAY, -5_400, "Own transfer", is_card=False)])
        self.assertEqual(self.balances(), (94_600, 6_000))

    def test_a_corrected_side_leaves_the_transfer_and_is_undone_whole(self):
        entry_id = self.joined()
        line = next(line for line in entries.get_entry(self.db, entry_id).lines if line.account_id == self.current)
        done = correcting.correct_amount(self.db, BY, line.stored_id, -6_090)
        self.assertEqual(self.balances(), (93_910, 6_000))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.balances(), (94_000, 6_000))
        self.assertEqual(len(entries.get_entry(self.db, entry_id).account_lines), 2)

    def test_a_double_that_is_cured_takes_one_side_away(self):
        entry_id = self.joined()
        line = next(line for line in entries.get_entry(self.db, entry_id).lines if line.account_id == self.current)
        done = correcting.delete_side(self.db, BY, line.stored_id)
        self.assertEqual(self.balances(), (100_000, 6_000))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.balances(), (94_000, 6_000))

    def test_a_far_side_nobody_told_follows_the_bank(self):
        self.bring(self.current, announced=[SENT])
        transferring.file_as_transfer(self.db, BY, [self.unsorted()[-6_000]], self.reserve)
        self.bring(self.current, [Booking(1, DAY, DAY, -6_150, "Own transfer", is_card=False)])
        self.assertEqual(self.balances(), (93_850, 6_150))

    def join_as_a_rule_does(self):
        """Joins the two sides without a step of its own, as rules do while a batch is brought in; gives the two batches."""
        batches = [self.bring(self.current, [SENT]).batch_id, self.bring(self.reserve, [CAME], layout="purchases.csv").batch_id]
        out, into = (store.get_entry(self.db, self.unsorted()[amount]) for amount in (-6_000, 6_000))
        with changes.note(self.db):
            store.move_line(self.db, into.account_lines[0].stored_id, out.id)
            store.remove_entry(self.db, into.id)
            kept = store.get_entry(self.db, out.id)
            store.change_entry(self.db, replace(kept, lines=kept.account_lines))
        self.assertEqual(self.balances(), (94_000, 6_000))
        return batches

    def test_the_first_of_two_joined_batches_comes_and_goes_then_the_second(self):
        first, second = self.join_as_a_rule_does()
        undoing.undo_batch(self.db, BY, first)
        self.assertEqual(self.balances(), (100_000, 6_000))
        self.assertEqual(self.bring(self.current, [SENT]).new, 1)
        self.assertEqual(self.balances(), (94_000, 6_000))
        undoing.undo_batch(self.db, BY, second)
        self.assertEqual(self.balances(), (94_000, 0))
        self.assertEqual(self.bring(self.reserve, [CAME], layout="purchases.csv").new, 1)
        self.assertEqual(self.balances(), (94_000, 6_000))

    def test_and_the_second_before_the_first(self):
        first, second = self.join_as_a_rule_does()
        undoing.undo_batch(self.db, BY, second)
        self.assertEqual(self.balances(), (94_000, 0))
        self.assertEqual(self.bring(self.reserve, [CAME], layout="purchases.csv").new, 1)
        undoing.undo_batch(self.db, BY, first)
        self.assertEqual(self.balances(), (100_000, 6_000))

    def test_match_keeps_receipts_and_leaves_nothing_to_restore_twice(self):
        self.bring(self.current, [Booking(9, DAY, DAY, -2_341, "Unlike", is_card=False)])
        sent = self.unsorted()[-2_341]
        typed = self.spends(2_341, day=DAY, payee="Heron")
        attaching.attach(self.db, BY, sent, "receipt.png", picture())
        done = matching_by_hand.match_two(self.db, BY, self.current, [typed, sent])
        self.assertEqual(len(attachments.list_attachments(self.db, typed)), 1)
        self.assertEqual((self.balance(), changes.list_trash(self.db)), (100_000 - 2_341, []))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(len(attachments.list_attachments(self.db, sent)), 1)
        self.assertEqual(self.balance(), 100_000 - 2 * 2_341)

    def test_match_refuses_a_bank_entry_that_is_a_transfer(self):
        typed = self.spends(6_000, day=date(2026, 4, 2), payee="Heron")
        self.bring(self.current, [SENT])
        transferring.file_as_transfer(self.db, BY, [self.unsorted()[-6_000]], self.reserve)
        with self.assertRaisesRegex(InvalidInput, "one side of a transfer"):
            matching_by_hand.match_two(
                self.db, BY, self.current, [typed, next(e.id for e in entries_of(self.db) if e.is_transfer)]
            )
        self.assertEqual(store_accounts.get_account_state(self.db, self.reserve).balance_minor, 6_000)

    def test_a_loans_own_rows_beside_a_payment_are_that_payment(self):
        terms = Terms(rate=Decimal("0.06"), interest_category_id=self.category("Bank charges"))
        loan = self.an_account("Barge loan", kind="loan", opening_minor=-1_000_000, terms=terms)
        self.bring(self.current, [Booking(1, DAY, DAY, -50_000, "Loan payment", is_card=False)])
        transferring.file_as_transfer(self.db, BY, [self.unsorted()[-50_000]], loan)
        self.assertEqual(self.balance(loan), -955_000)  # a month's interest of half a per cent is not paid back
        rows = [
            Booking(2, DAY, DAY, 50_000, "Payment received", is_card=False),
            Booking(3, DAY, DAY, -5_000, "Interest", is_card=False),
        ]
        done = self.bring(loan, rows, layout="purchases.csv")
        self.assertEqual((done.new, done.matched, self.balance(loan)), (0, 2, -955_000))
        self.assertEqual(self.bring(loan, rows, layout="ofx").known, 2)
        self.assertEqual(listing.check(self.db), [])
        undoing.undo_batch(self.db, BY, done.batch_id)
        self.assertEqual(self.balance(loan), -955_000)


if __name__ == "__main__":
    unittest.main()
