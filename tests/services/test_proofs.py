"""What a file declares is held against what its account would come to, and what would explain the rest is named."""

import re
import unittest
from datetime import date

from bolsa.bench.identity import layouts
from bolsa.bench.identity.layouts import Window
from bolsa.bench.identity.truth import Booking
from bolsa.core.ledger.entries import Part
from bolsa.services.bringing import previewing
from bolsa.services.bringing.questions import Answers
from bolsa.services.bringing.taking_in import take_in
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.sorting.categories import UNSORTED
from tests.services.household import BY
from tests.services.test_two_sources import FilesCase, bookings, window


class Proofs(FilesCase):
    def staged(self, layout, shown, content=None):
        taken = take_in(self.db, BY, f"a.{layout}", content or layouts.LAYOUTS[layout](shown), Answers(self.current))
        return taken.batch_id, previewing.get_preview(self.db, taken.batch_id)

    def test_a_file_that_agrees_says_so_in_every_layout_that_declares_a_balance(self):
        for layout in layouts.LAYOUTS:
            with self.subTest(layout):
                self.current = self.an_account(f"By {layout}", opening_minor=100_000)
                told = bookings()
                found = self.staged(layout, window(told))[1].proofs
                total = 100_000 + sum(one.amount_minor for one in told)
                expected = [] if layout == "purchases.csv" else [(total, total, 0)]
                self.assertEqual([(p.declared_minor, p.comes_to_minor, p.since_minor) for p in found], expected)

    def test_an_entry_that_no_row_is_explains_the_difference(self):
        told = bookings()
        typed = TypedEntry(date(2026, 4, 9), "Quay Books", -1_234, (Part(UNSORTED, 1_234),))
        entry_id = entries.record_entry(self.db, BY, self.current, typed).made
        self.db.execute("UPDATE line SET state = 'cleared' WHERE account_id IS NOT NULL AND entry_id = ?", (entry_id,))
        _, shown = self.staged("camt.xml", window(told))
        (proof,) = shown.proofs
        self.assertEqual((proof.difference_minor, proof.before), (1_234, (date(2026, 4, 1), 0)))
        (one,) = proof.explained
        self.assertEqual((one.entry_id, one.reason, one.cure), (entry_id, "is here, but not in the file", ""))

    def test_a_row_left_out_is_offered_and_brought_in_the_account_agrees(self):
        told = bookings()
        batch_id, shown = self.staged("sta", window(told))
        unlike = next(row for row in shown.rows if row.amount_minor != -350)
        previewing.overrule(self.db, batch_id, unlike.id, "leave")
        (proof,) = previewing.get_preview(self.db, batch_id).proofs
        self.assertEqual(proof.difference_minor, unlike.amount_minor)
        self.assertEqual([(one.row_id, one.cure) for one in proof.explained], [(unlike.id, "bring")])
        previewing.overrule(self.db, batch_id, unlike.id, "bring")
        self.assertEqual(previewing.get_preview(self.db, batch_id).proofs[0].difference_minor, 0)

    def test_a_difference_that_is_older_than_the_file_is_no_fault_of_its_rows(self):
        self.current = self.an_account("Off", opening_minor=100_500)
        for layout in ("camt.xml", "sta", "csv"):
            (proof,) = self.staged(layout, window(bookings()))[1].proofs
            self.assertEqual((proof.difference_minor, proof.since_minor, proof.explained), (-500, 0, ()), layout)

    def test_an_opening_balance_proves_nothing_of_what_another_source_may_tell_on_its_other_side(self):
        """One purchase by its own day, then perhaps again by the bank's day, in an account that is off by 5.00."""
        for counts, asked in ((True, 1), (False, 0)):
            with self.subTest(counts=counts):
                self.current = self.an_account(f"Off {counts}", opening_minor=100_500)
                self.bring("purchases.csv", window([Booking(1, date(2026, 4, 8), date(2026, 4, 8), -2_341, "Heron Grocer")]))
                told = [Booking(2, date(2026, 4, 9), date(2026, 4, 9), -2_341, "Heron Grocer")] if counts else []
                told += [Booking(3, date(2026, 4, 10), date(2026, 4, 10), -777, "Tern Bakery")]
                shown = Window(date(2026, 4, 9), date(2026, 4, 14), told, (), 100_000 - 2_341, 3)
                done = self.bring("camt.xml", shown)
                self.assertEqual((done.new, done.asked), (1, asked))

    def test_of_two_statements_in_a_file_the_first_ones_closing_is_not_what_was_before(self):
        """An entry that the first of them does not have explains the difference, though its closing differs already."""
        told = bookings()
        one, other = (
            layouts.write_camt(shown).decode()
            for shown in (
                window(told, last=date(2026, 4, 14)),
                Window(date(2026, 4, 15), date(2026, 4, 30), [b for b in told if b.booked > date(2026, 4, 14)], (),
                       100_000 + sum(b.amount_minor for b in told if b.booked <= date(2026, 4, 14)), 1),
            )
        )  # fmt: skip
        bare = re.sub(r"<Bal><Tp><CdOrPrtry><Cd>OPBD.*?</Bal>", "", one)
        second = re.search(r"<Stmt>.*</Stmt>", re.sub(r"<Bal><Tp><CdOrPrtry><Cd>OPBD.*?</Bal>", "", other), re.DOTALL)[0]
        typed = TypedEntry(date(2026, 4, 9), "Quay Books", -1_234, (Part(UNSORTED, 1_234),))
        entry_id = entries.record_entry(self.db, BY, self.current, typed).made
        self.db.execute("UPDATE line SET state = 'cleared' WHERE account_id IS NOT NULL AND entry_id = ?", (entry_id,))
        (proof,) = self.staged("camt.xml", None, bare.replace("</Stmt>", f"</Stmt>{second}").encode())[1].proofs
        self.assertEqual((proof.difference_minor, proof.since_minor, proof.before), (1_234, 1_234, None))
        self.assertEqual([one.entry_id for one in proof.explained], [entry_id])

    def test_a_broken_file_names_the_row_whose_sign_is_turned(self):
        told = bookings()
        one = next(one for one in told if sum(other.amount_minor == one.amount_minor for other in told) == 1)
        shown = window(told)
        text = layouts.write_other_ofx(shown).decode()
        amount = layouts._amount(one.amount_minor)
        turned = text.replace(f"<TRNAMT>{amount}</TRNAMT>", f"<TRNAMT>{amount.removeprefix('-')}</TRNAMT>")
        (proof,) = self.staged("other.ofx", shown, turned.encode())[1].proofs
        self.assertEqual(proof.difference_minor, 2 * one.amount_minor)
        self.assertIn("its sign may be wrong", proof.explained[0].reason)


if __name__ == "__main__":
    unittest.main()
