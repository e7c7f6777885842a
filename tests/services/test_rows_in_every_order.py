"""What falsified what was brought in or checked once, each by the promise that was broken."""

import unittest
from datetime import date

from bolsa.errors import BolsaError, Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.bringing import bringing_in, previewing, taking_in, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking
from bolsa.services.ledger import correcting, entries
from bolsa.services.ledger.entries import TypedEntry
from tests.services.household import BY, TODAY, OrderCase


class KnownButDifferent(OrderCase):
    def file(self, amount="-5.58", day="20260504"):
        row = f"<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>{day}<TRNAMT>{amount}<FITID>a1<NAME>Grebe</STMTTRN>"
        head = "OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1"
        rest = f"</BANKACCTFROM><BANKTRANLIST>{row}</BANKTRANLIST></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"
        return f"{head}{rest}".encode()

    def setUp(self):
        super().setUp()
        bringing_in.import_file(self.db, BY, "a.ofx", self.file(), Answers(self.current))
        self.line = self.db.execute("SELECT id FROM line WHERE amount_minor = -558").fetchone()["id"]

    def shown(self):
        batch = taking_in.take_in(self.db, BY, "b.ofx", self.file(), Answers(self.current)).batch_id
        return batch, previewing.get_preview(self.db, batch).changed_here

    def test_what_is_as_the_bank_says_is_not_named(self):
        self.assertEqual(self.shown()[1], ())

    def test_another_amount_here_is_told_and_cured_at_once(self):
        correcting.correct_amount(self.db, BY, self.line, -585)
        batch, (changed,) = self.shown()
        self.assertEqual((changed.here_minor, changed.amount_minor, changed.is_curable), (-585, -558, True))
        previewing.overrule(self.db, batch, changed.row_id, "correct")
        bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual(self.balance(), 100_000 - 558)
        undoing.undo_batch(self.db, BY, batch)
        self.assertEqual(self.balance(), 100_000 - 585)

    def test_one_that_is_left_or_reconciled_is_not_touched_and_not_doubled(self):
        correcting.correct_amount(self.db, BY, self.line, -585)
        batch, _ = self.shown()
        done = bringing_in.bring_in(self.db, BY, batch).made
        self.assertEqual((self.balance(), len(done.changed_here)), (100_000 - 585, 1))
        statement = checking.begin_statement(self.db, BY, self.current, TODAY, 100_000 - 585).made
        checking.set_ticks(self.db, BY, statement, [self.line], True)
        checking.reconcile(self.db, BY, statement)
        batch, (changed,) = self.shown()
        self.assertTrue(changed.is_locked)
        with self.assertRaisesRegex(InvalidInput, "reopen its statement first"):
            previewing.overrule(self.db, batch, changed.row_id, "correct")
        bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual(self.balance(), 100_000 - 585)

    def test_a_day_moved_further_than_a_match_would_reach_is_told(self):
        entry = entries.entry_of_line(self.db, self.line)
        for day, told in ((date(2026, 5, 8), 0), (date(2026, 5, 9), 1)):
            typed = TypedEntry(day, "Grebe", -558, state="cleared")
            entries.change_entry(self.db, BY, entry.id, self.current, typed)
            self.assertEqual(len(self.shown()[1]), told, day)


class PendingAndBooked(OrderCase):
    def file(self, booked, pending=""):
        head = "OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1"
        rows = "".join(
            f"<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>{d}<TRNAMT>{a}<FITID>{i}<NAME>Ferry café</STMTTRN>" for d, a, i in booked
        )
        more = "".join(f"<STMTTRNP><TRNTYPE>DEBIT<DTTRAN>{d}<TRNAMT>{a}<NAME>Ferry café</STMTTRNP>" for d, a in pending)
        lists = f"<BANKTRANLIST>{rows}</BANKTRANLIST><BANKTRANLISTP>{more}</BANKTRANLISTP>"
        return f"{head}</BANKACCTFROM>{lists}</STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>".encode()

    def brings(self, content):
        return bringing_in.import_file(self.db, BY, "a.ofx", content, Answers(self.current)).batch_id

    def test_the_older_batch_of_a_pending_entry_taken_out_loses_no_booking(self):
        older = self.brings(self.file([], [("20260504", "-50.00")]))
        newer = self.brings(self.file([("20260506", "-52.00", "b1")]))
        self.assertEqual(self.balance(), 94_800)
        undoing.undo_batch(self.db, BY, older)
        self.assertEqual(self.balance(), 94_800)
        undoing.undo_batch(self.db, BY, newer)
        self.brings(self.file([("20260506", "-52.00", "b1")]))
        self.assertEqual(self.balance(), 94_800)
        self.assertEqual(self.db.execute("SELECT count(*) FROM line WHERE amount_minor = -5200").fetchone()[0], 1)

    def test_newer_first_then_older_and_again(self):
        older = self.brings(self.file([], [("20260504", "-50.00")]))
        newer = self.brings(self.file([("20260506", "-52.00", "b1")]))
        undoing.undo_batch(self.db, BY, newer)
        self.assertEqual(self.balance(), 95_000)
        undoing.undo_batch(self.db, BY, older)
        self.assertEqual(self.balance(), 100_000)
        self.brings(self.file([("20260506", "-52.00", "b1")]))
        self.assertEqual(self.balance(), 94_800)


class EditedSinceMatched(OrderCase):
    FILE = b"Date,Payee,Amount\n2026-05-01,Grebe,-50.00\n"

    def brings(self):
        return bringing_in.import_file(self.db, BY, "a.csv", self.FILE, Answers(self.current))

    def test_a_matched_entry_given_another_amount_is_known_when_its_batch_was_taken_out_and_returns(self):
        entry_id = self.spends(5_000, day=date(2026, 5, 1))
        batch = self.brings()
        correcting.correct_amount(self.db, BY, entries.get_entry(self.db, entry_id).account_lines[0].id, -3_680)
        undoing.undo_batch(self.db, BY, batch.batch_id)
        again = self.brings()
        self.assertEqual((batch.matched, again.known, len(again.changed_here), self.balance()), (1, 1, 1, 96_320))

    def test_what_a_guess_doubts_is_told(self):
        done = bringing_in.import_file(self.db, BY, "a.csv", b"Date;Payee;Amount\n2026-05-01;A;-1,000\n", Answers(self.current))
        self.assertEqual((self.balance(), len(done.warnings)), (0, 1))


class Statements(OrderCase):
    def setUp(self):
        super().setUp()
        self.spends(1_000, day=date(2026, 4, 20), state="cleared")
        self.begun = checking.begin_statement(self.db, BY, self.current, date(2026, 4, 30), 99_000)
        self.first, self.done = self.begun.made, checking.reconcile(self.db, BY, self.begun.made)

    def second(self, closing_minor=99_000):
        return checking.begin_statement(self.db, BY, self.current, TODAY, closing_minor).made

    def test_one_that_a_later_one_builds_on_is_neither_given_up_nor_given_another_closing(self):
        second = self.second()
        checking.reconcile(self.db, BY, second)
        checking.reopen(self.db, BY, self.first)
        for act in (
            lambda: checking.abandon_statement(self.db, BY, self.first),
            lambda: checking.begin_statement(self.db, BY, self.current, date(2026, 4, 30), 99_500),
            lambda: checking.begin_statement(self.db, BY, self.current, TODAY, 99_000),
            lambda: changes.undo_step(self.db, BY, self.begun.step_id),
        ):
            with self.assertRaises(BolsaError):
                act()
        checking.reconcile(self.db, BY, self.first)
        for statement in (second, self.first):
            checking.reopen(self.db, BY, statement)
            checking.abandon_statement(self.db, BY, statement)

    def test_no_undo_opens_a_second_one(self):
        self.second()
        with self.assertRaisesRegex(Conflict, "is being checked. Finish it, or give it up, first."):
            changes.undo_step(self.db, BY, self.done.step_id)

    def test_one_that_opens_with_another_amount_says_on_which_day_it_begins(self):
        said = {"opening_minor": 98_000, "opening_day": date(2026, 5, 1)}
        second = checking.begin_statement(self.db, BY, self.current, TODAY, 98_000, **said).made
        with self.assertRaisesRegex(Conflict, "does not open with what the one before closed with"):
            checking.reconcile(self.db, BY, second)
        said["opening_day"] = date(2026, 5, 3)
        checking.begin_statement(self.db, BY, self.current, TODAY, 98_000, **said)
        checking.reconcile(self.db, BY, second)


if __name__ == "__main__":
    unittest.main()
