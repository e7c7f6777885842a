"""Cures do what they say and can be undone; evidence is found where it lies; statements that do not meet are named."""

from datetime import date

from bolsa.errors import Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.bringing import bringing_in, previewing
from bolsa.services.bringing.questions import Answers
from bolsa.services.checking import checking, curing
from bolsa.services.ledger import correcting, entries
from bolsa.store.checking import statements
from tests.services.household import BY, TODAY, HouseholdCase

OFX = b"""OFXHEADER:100
DATA:OFXSGML

<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><ACCTID>1<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST>
<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260504<TRNAMT>-5.58<FITID>a1<NAME>SLUICE WHOLEFOODS
<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20260505<TRNAMT>-9.00<FITID>a2<NAME>HALDEN FERRIES
</BANKTRANLIST></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"""


class Cures(HouseholdCase):
    def begin(self, closing_minor, day=TODAY):
        return checking.begin_statement(self.db, BY, self.current, day, closing_minor).made

    def suspects(self, statement_id):
        return curing.find_findings(self.db, statements.get_statement(self.db, statement_id)).suspects

    def difference(self, statement_id):
        return checking.check_of(self.db, statements.get_statement(self.db, statement_id)).difference_minor

    def assert_cured(self, statement_id, kind, difference):
        """The first suspect is of that kind; its cure closes the gap, and its undoing opens it again."""
        self.assertEqual(self.difference(statement_id), difference)
        first = self.suspects(statement_id)[0]
        self.assertEqual(first.kind, kind)
        step_id = curing.cure(self.db, BY, statement_id, first.key).step_id
        self.assertEqual(self.difference(statement_id), 0)
        with self.assertRaisesRegex(Conflict, "does not explain"):
            curing.cure(self.db, BY, statement_id, first.key)
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(self.difference(statement_id), difference)
        curing.cure(self.db, BY, statement_id, first.key)
        checking.reconcile(self.db, BY, statement_id)

    def bring(self):
        done = bringing_in.import_file(self.db, BY, "may.ofx", OFX, Answers(self.current, others="new"))
        rows = {row.bank_ref: row for row in previewing.get_preview(self.db, done.batch_id).rows}
        return {ref: entries.entry_of_line(self.db, row.line_id) for ref, row in rows.items()}

    def test_an_amount_typed_otherwise_than_the_bank_sent_it(self):
        entry = self.bring()["a1"]
        correcting.correct_amount(self.db, BY, entry.account_lines[0].id, -585)
        self.assert_cured(self.begin(100_000 - 1458), "digits", 27)

    def test_the_banks_entry_that_was_deleted_here_comes_back_as_it_was(self):
        entry = self.bring()["a2"]
        entries.delete_entry(self.db, BY, entry.id)
        self.assert_cured(self.begin(100_000 - 1458), "missing", -900)
        self.assertEqual(entries.get_entry(self.db, entry.id).payee, entry.payee)

    def test_a_double_that_was_typed(self):
        self.bring()
        self.spends(558, payee="Sluice Wholefoods", day=date(2026, 5, 5), state="cleared")
        self.assert_cured(self.begin(100_000 - 1458), "twice", 558)

    def test_an_entry_dated_just_after_the_statement(self):
        self.spends(1200, day=date(2026, 5, 2), state="cleared")
        self.assert_cured(self.begin(100_000 - 1200, date(2026, 4, 30)), "outside", -1200)

    def test_what_comes_every_month_and_was_not_entered(self):
        for month in (1, 2, 3):
            self.spends(292, "Bank charges", date(2026, month, 28), payee="Pilot Cooperative", state="cleared")
        checking.reconcile(self.db, BY, self.begin(100_000 - 876, date(2026, 3, 31)))
        statement_id = self.begin(100_000 - 876 - 292, date(2026, 4, 30))
        self.assert_cured(statement_id, "usual", -292)
        made = self.db.execute("SELECT day FROM entry ORDER BY id DESC LIMIT 1").fetchone()["day"]
        self.assertEqual(made, "2026-04-28")

    def test_a_line_changed_since_its_statement_was_reconciled(self):
        entry_id = self.spends(2500, day=date(2026, 4, 3), state="cleared")
        checking.reconcile(self.db, BY, self.begin(97_500, date(2026, 4, 30)))
        first = statements.list_statements(self.db, self.current)[0]
        checking.reopen(self.db, BY, first.id)
        correcting.correct_amount(self.db, BY, entries.get_entry(self.db, entry_id).account_lines[0].id, -5200)
        self.assert_cured(first.id, "changed", 2700)

    def test_an_opening_that_is_not_what_the_last_one_closed_with(self):
        checking.reconcile(self.db, BY, self.begin(100_000, date(2026, 4, 30)))
        statement_id = checking.begin_statement(
            self.db, BY, self.current, TODAY, 100_000, opening_minor=99_000, opening_day=date(2026, 5, 3)
        ).made
        self.assert_cured(statement_id, "opening", 1000)
        last = checking.check_page(self.db, self.current).past[0]
        self.assertEqual(last.seam, "leaves 2 days unchecked since the one before")

    def test_a_transfer_is_corrected_on_both_sides_unless_the_other_is_locked(self):
        typed = entries.TypedEntry(date(2026, 5, 3), "Reserve", -5000, other_account_id=self.reserve, state="cleared")
        entry_id = entries.record_entry(self.db, BY, self.current, typed).made
        self.assert_cured(self.begin(100_000 + 5000), "sign", 10_000)
        self.assertEqual(self.balance(self.reserve), -5000)
        self.assertEqual(len(entries.get_entry(self.db, entry_id).account_lines), 2)

    def test_what_was_written_off_is_counted_by_year(self):
        statement_id = self.begin(99_990)
        checking.write_off(self.db, BY, statement_id, self.category("Bank charges"))
        off = checking.check_page(self.db, self.current).written_off
        self.assertEqual([(w.year, w.category, w.amount_minor, w.times) for w in off], [(2026, "Bank charges", -10, 1)])


class Missing(HouseholdCase):
    def test_what_the_statement_shows_and_is_missing_here_is_entered_cleared_and_ticked(self):
        statement_id = checking.begin_statement(self.db, BY, self.current, date(2026, 4, 30), 99_100).made
        ids = [line.line_id for line in checking.check_page(self.db, self.current).check.items]
        checking.set_ticks(self.db, BY, statement_id, ids, ticked=True)
        typed = entries.TypedEntry(date(2026, 4, 9), "Quay Books", -900)
        step_id = checking.enter_missing(self.db, BY, statement_id, typed).step_id
        page = checking.check_page(self.db, self.current)
        self.assertTrue(page.check.agrees and all(line.ticked for line in page.check.items))
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(checking.check_page(self.db, self.current).check.difference_minor, -900)
        with self.assertRaisesRegex(InvalidInput, "closes on 2026-04-30; this is dated later"):
            checking.enter_missing(self.db, BY, statement_id, entries.TypedEntry(TODAY, "Quay Books", -900))
