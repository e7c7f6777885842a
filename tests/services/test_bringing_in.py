"""Bringing in: twice is once, matching, undo of a batch, sorting what came, and a process killed in the middle."""

import signal
import subprocess
import sys
import textwrap
import time
import unittest
from contextlib import closing
from datetime import date
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from bolsa.errors import BolsaError, Conflict, InvalidInput
from bolsa.services import changes
from bolsa.services.accounts.accounts import get_account
from bolsa.services.bringing import bringing_in, judging, previewing, undoing
from bolsa.services.bringing.questions import Answers, Choice
from bolsa.services.bringing.taking_in import answer, take_in
from bolsa.services.house import files
from bolsa.services.ledger import entries, listing
from bolsa.services.sorting import sorting, transferring
from bolsa.services.sorting.sorting import what_to_sort
from bolsa.store.bringing import brought
from tests.formats.test_ofx import ROW, ofx
from tests.services.household import BY, HouseholdCase

BREAD = "2026-05-04,MILLSTONE BAKERY 0004,-3.20\n"
CSV = f"Date,Payee,Amount\n{BREAD}{BREAD}2026-05-05,TIDEWATER POWER,-88.00\n"


class BringingIn(HouseholdCase):
    def bring(self, text, name="bank.csv", account=None, **more):
        return bringing_in.import_file(self.db, BY, name, text.encode(), Answers(account or self.current, others="new"), **more)

    def test_what_stayed_when_its_batch_was_taken_out_is_known_when_the_file_returns(self):
        entries.record_quick_line(self.db, BY, self.current, "Tidewater Power 88 2026-05-05 groceries")
        first = self.bring(CSV)
        (bread, *_) = what_to_sort(self.db).piles
        sorting.file_entries(self.db, BY, [bread.entries[0].entry_id], self.category("Groceries"))
        undoing.undo_batch(self.db, BY, first.batch_id)
        self.assertEqual(self.balance(), 100_000 - 320 - 8_800)  # what was filed stays, and so does what was typed
        again = self.bring(CSV)
        self.assertEqual((again.new, again.matched, again.known), (1, 1, 1))
        self.assertEqual(self.balance(), 100_000 - 640 - 8_800)
        undoing.undo_batch(self.db, BY, again.batch_id)
        self.bring(CSV)
        self.assertEqual(self.balance(), 100_000 - 640 - 8_800)

    def counts(self, text, **more):
        done = self.bring(text, **more)
        return done.new, done.matched, done.known

    def test_twice_is_once_and_two_equal_purchases_stay(self):
        self.assertEqual(self.counts(CSV), (3, 0, 0))
        self.assertEqual(self.counts(CSV), (0, 0, 3))
        self.assertEqual(self.balance(), 100_000 - 640 - 8800)

    @given(st.lists(st.integers(0, 5), max_size=14), st.integers(0, 14))
    def test_overlapping_exports_bring_each_row_once(self, picks, cut):
        account = self.an_account(f"Account {time.monotonic_ns()}")
        lines = [f"2026-04-{10 + pick},SHOP {pick % 3},-{pick + 1}.00" for pick in sorted(picks)]
        for part in (lines[:cut], lines[max(0, cut - 3) :], lines):
            whole = [line for line in lines if line in part]  # an export holds every row of its days
            self.bring("Date,Payee,Amount\n" + "\n".join(whole) + "\n", account=account)
        self.assertEqual(self.balance(account), -sum(100 * (pick + 1) for pick in picks))

    @given(
        st.lists(st.tuples(st.integers(0, 25), st.integers(1, 3)), max_size=14),
        st.lists(st.tuples(st.integers(0, 25), st.integers(1, 3)), max_size=6),
        st.integers(0, 14),
    )
    def test_a_file_judged_some_days_at_a_time_is_judged_as_a_whole(self, rows, typed, known):
        lines = [f"2026-04-{1 + day:02},SHOP,-{amount}.00" for day, amount in rows]
        found = []
        for together in (2, 5_000):
            account = self.an_account(f"Account {time.monotonic_ns()}")
            self.bring("Date,Payee,Amount\n" + "\n".join(lines[:known]) + "\n", account=account)
            for day, amount in typed:
                self.spends(100 * amount, day=date(2026, 4, 1 + day), payee="Shop", account=account, state="pending")
            with mock.patch.object(judging, "JUDGED_TOGETHER", together):
                batch = self.bring("Date,Payee,Amount\n" + "\n".join(lines) + "\n", account=account).batch_id
            kept = brought.list_rows(self.db, batch)
            claimed = [row.line_id for row in kept if row.verdict == "matched"]
            self.assertEqual(len(claimed), len(set(claimed)), "an entry belongs to one row")
            found.append((sum(row.verdict == "known" for row in kept), self.balance(account)))
        self.assertEqual(found[0], found[1])

    def test_a_typed_entry_is_merged_and_keeps_its_words(self):
        entry_id = self.spends(2340, day=date(2026, 5, 3), state="pending")
        row = ROW.replace("20260514", "20260505").replace("-12.30", "-23.40").replace("Grebe", "CARD GREBE")
        self.assertEqual(self.counts(ofx(rows=row), name="a.ofx"), (0, 1, 0))
        line = entries.get_entry(self.db, entry_id).lines[0]
        self.assertEqual((line.state, line.bank_ref, line.raw_text), ("cleared", "a1", "CARD GREBE Street Grocer"))
        self.assertEqual(self.counts(ofx(rows=row), name="a.ofx"), (0, 0, 1))

    def test_a_batch_is_taken_out_whole_but_for_what_was_changed_since(self):
        typed = self.spends(8800, "Power and water", day=date(2026, 5, 5), payee="Tidewater Power")
        batch = self.bring(CSV)
        pile = what_to_sort(self.db).piles[0]
        sorting.file_entries(self.db, BY, [pile.entries[0].entry_id], self.category("Groceries"))
        said = undoing.undo_batch(self.db, BY, batch.batch_id).made
        self.assertIn("1 entry of “bank.csv” is out again. 1 changed since stayed here: Millstone Bakery of 2026-05-04.", said)
        self.assertEqual(entries.get_entry(self.db, typed).lines[0].state, "pending")
        with self.assertRaises(Conflict):
            undoing.undo_batch(self.db, BY, batch.batch_id)

    def test_a_deleted_entry_stays_deleted(self):
        self.bring(CSV)
        entry = next(e for e in what_to_sort(self.db).piles if e.payee == "Tidewater Power").entries[0]
        entries.delete_entry(self.db, BY, entry.entry_id)
        self.assertEqual(self.counts(CSV), (0, 0, 3))

    def test_a_dry_run_keeps_nothing(self):
        self.assertEqual(self.counts(CSV, dry_run=True), (3, 0, 0))
        self.assertEqual(self.counts(CSV), (3, 0, 0))

    def test_a_file_with_a_bad_row_changes_nothing(self):
        with self.assertRaisesRegex(InvalidInput, "abc"):
            self.bring(CSV.replace("2026-05-04,MILLSTONE BAKERY 0004,-3.20\n2026-05-05", "2026-05-04,X,abc\n2026-05-05", 1))
        self.assertEqual([self.db.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in ("batch", "brought_row")], [0, 0])

    def test_a_renamed_payee_is_known_again(self):
        self.bring(CSV)
        entry = what_to_sort(self.db).piles[0].entries[0]
        kept = entries.get_entry(self.db, entry.entry_id)
        typed = entries.TypedEntry(kept.day, "The bakery", -320)
        entries.change_entry(self.db, BY, kept.id, self.current, typed)
        self.bring(CSV.replace("2026-05-04", "2026-05-11"))
        self.assertIn("The bakery", {pile.payee for pile in what_to_sort(self.db).piles})

    def test_several_accounts_in_a_file_find_theirs_by_number(self):
        other = self.an_account("Other", number="456")
        two = ofx() + ofx(header="", account="<ACCTID>456", rows=ROW.replace("a1", "b1"))
        self.assertEqual(self.counts(two.replace("</OFX><OFX>", ""), name="two.ofx"), (2, 0, 0))
        self.assertEqual((self.balance(), self.balance(other)), (98_770, 8_770))  # of Other nothing was known before
        unknown = two.replace("456", "789").replace("123", "999").replace("</OFX><OFX>", "").encode()
        batch_id = take_in(self.db, BY, "two.ofx", unknown, Answers()).batch_id
        shown = previewing.get_preview(self.db, batch_id)
        self.assertEqual([(one.number, one.account, one.rows) for one in shown.found], [("999", None, 1), ("789", None, 1)])
        with self.assertRaises(Conflict):
            bringing_in.bring_in(self.db, BY, batch_id)
        choices = {"999": Choice("here", self.reserve), "789": Choice("new", name="Reserve", kind="savings")}
        with self.assertRaisesRegex(InvalidInput, "There is an account “Reserve” already"):
            answer(self.db, BY, batch_id, Answers(accounts=choices, others="leave"))
        previewing.discard(self.db, batch_id)
        done = bringing_in.import_file(self.db, BY, "two.ofx", unknown, Answers(self.reserve, others="new"))
        self.assertEqual((done.new, self.balance(self.reserve)), (2, 8_770))
        self.assertIn("Made the account “Current 789”", done.warnings[0])

    def test_an_interim_and_a_final_statement_in_one_file_count_once(self):
        both = ofx() + ofx(header="", rows=ROW + ROW.replace("a1", "a2").replace("20260514", "20260513"))
        self.assertEqual(self.counts(both.replace("</OFX><OFX>", ""), name="both.ofx"), (2, 0, 1))

    def test_the_files_currency_must_be_the_accounts_unless_that_is_empty(self):
        dollars = ofx(currency="<CURDEF>USD")
        with self.assertRaisesRegex(InvalidInput, "The file is in USD, but Current is kept in EUR"):
            self.bring(dollars, name="usd.ofx")
        done = self.bring(dollars, name="usd.ofx", account=self.reserve)
        self.assertIn("now kept in USD", done.warnings[0])
        self.assertFalse(get_account(self.db, self.reserve).everyday)

    def test_one_file_in_preview_twice_is_brought_in_once(self):
        waiting = [take_in(self.db, BY, "bank.csv", CSV.encode(), Answers(self.current)).batch_id for _ in range(2)]
        row = previewing.get_preview(self.db, waiting[1]).rows[2]
        previewing.overrule(self.db, waiting[1], row.id, "bring")
        done = [bringing_in.bring_in(self.db, BY, batch).made for batch in waiting]
        # The row that the user decided to bring comes a second time; nothing else does.
        self.assertEqual([(d.new, d.known) for d in done], [(3, 0), (1, 2)])

    def test_what_is_odd_in_a_file_is_said_in_its_preview(self):
        text = "Date,Payee,Amount,Balance\n2026-05-01,A,-1,99\n2026-05-02,B,-2,98\n2026-05-03,C,-3,94\n2026-05-13,D,-4,90\n"
        batch = take_in(self.db, BY, "odd.csv", text.encode(), Answers(self.current)).batch_id
        self.assertIn("do not follow", previewing.get_preview(self.db, batch).batch.warnings[0])

    def test_a_mapping_is_remembered_for_the_shape(self):
        card = "When,Shop,Sum\n2026-05-04,Otter Books,7.00\n"
        batch = take_in(self.db, BY, "card.csv", card.encode(), Answers(self.current)).batch_id
        mapping = previewing.get_preview(self.db, batch).csv.mapping
        answer(self.db, BY, batch, Answers(columns=type(mapping)(**{**vars(mapping), "flip": True})))
        bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual(self.balance(), 99_300)
        self.bring(card.replace("04", "06"), name="next.csv")
        self.assertEqual(self.balance(), 98_600)

    def test_a_table_that_names_no_account_waits_for_it(self):
        taken = take_in(self.db, BY, "bank.csv", CSV.encode())
        self.assertEqual((taken.question.asks, previewing.get_preview(self.db, taken.batch_id).rows), ("account", ()))
        with self.assertRaisesRegex(Conflict, "which account it belongs to"):
            bringing_in.bring_in(self.db, BY, taken.batch_id)
        self.assertIsNone(answer(self.db, BY, taken.batch_id, Answers(self.current)))
        self.assertEqual(bringing_in.bring_in(self.db, BY, taken.batch_id).made.new, 3)

    def test_an_answer_in_two_tabs_counts_once_and_a_decided_file_takes_none(self):
        taken = take_in(self.db, BY, "bank.csv", CSV.encode())
        for account_id in (self.reserve, self.current):
            answer(self.db, BY, taken.batch_id, Answers(account_id))
        self.assertEqual(bringing_in.bring_in(self.db, BY, taken.batch_id).made.new, 3)
        self.assertEqual((self.balance(self.reserve), self.db.execute("SELECT count(*) FROM brought_row").fetchone()[0]), (0, 3))
        with self.assertRaises(Conflict):
            answer(self.db, BY, taken.batch_id, Answers(self.reserve))

    def test_two_sides_become_one_transfer_and_come_apart_again(self):
        self.bring("Date,Payee,Amount\n2026-05-04,TRANSFER 0093,-250.00\n")
        self.bring("Date,Payee,Amount\n2026-05-06,FROM CURRENT,250.00\n", account=self.reserve)
        pair = what_to_sort(self.db).transfers[0]
        step_id = transferring.merge_transfer(self.db, BY, pair.out.entry_id, pair.into.entry_id).step_id
        self.assertEqual(what_to_sort(self.db).entry_count, 0)
        lines = entries.get_entry(self.db, pair.out.entry_id).lines
        self.assertEqual([str(line.day) for line in lines], ["2026-05-04", "2026-05-06"])
        changes.undo_step(self.db, BY, step_id)
        self.assertEqual(what_to_sort(self.db).entry_count, 2)


class Killed(HouseholdCase):
    def test_a_process_killed_in_the_middle_of_a_large_import_leaves_none_or_all(self):
        rows = "".join(f"2026-0{1 + i % 4}-{10 + i % 18},SHOP {i},-{i % 90}.10\n" for i in range(25_000))
        large = self.folder / "large.csv"
        large.write_text("Date,Payee,Amount\n" + rows)
        code = textwrap.dedent(f"""
            from bolsa import cli; print("begun", flush=True)
            cli.main(["import", {str(large)!r}, "--account", "Reserve", "--data", {str(self.path)!r}])
        """)
        for delay in (0.8, 1.5, 2.2):
            process = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
            process.stdout.readline()
            time.sleep(delay)
            process.send_signal(signal.SIGKILL)
            process.wait()
            process.stdout.close()
            with closing(files.make_file(self.path)) as db:
                count = db.execute("SELECT count(*) FROM entry").fetchone()[0]
                self.assertIn(count, (1, 25_001))
                self.assertEqual(listing.check(db), [])


class Refusals(HouseholdCase):
    def test_files_that_are_not_what_they_say(self):
        for name, content in (
            ("a.ofx", b""),
            ("a.csv", b"%PDF-1.4"),
            ("a.xml", b"<?xml version='1.0'?><a/>"),
            ("a.csv", b"\x00" * 99),
            ("a.txt", b"hello\nworld\n"),
        ):
            with self.subTest(content[:9]), self.assertRaises(BolsaError):
                bringing_in.import_file(self.db, BY, name, content, Answers(self.current, others="new"))


class Cards(HouseholdCase):
    def test_a_card_whose_file_shows_spending_as_positive_is_turned(self):
        card = self.an_account("Card", "card")
        rows = ["Date,Payee,Amount", *(f"2026-05-0{i},Otter Books,{i}.50" for i in range(1, 8)), "2026-05-09,Refund,-4.00"]
        done = bringing_in.import_file(self.db, BY, "card.csv", "\n".join(rows).encode(), Answers(card, others="new"))
        self.assertEqual((done.new, self.balance(card)), (8, -2750))
        current = bringing_in.import_file(self.db, BY, "pay.csv", "\n".join(rows).encode(), Answers(self.current, others="new"))
        self.assertEqual((current.new, self.balance()), (8, 102_750))


class Investments(HouseholdCase):
    def test_an_investment_statement_is_kept_for_holdings_and_said_so(self):
        content = b"<OFX><INVSTMTMSGSRSV1><INVSTMTTRNRS><INVSTMTRS><CURDEF>EUR</INVSTMTRS></INVSTMTTRNRS></INVSTMTMSGSRSV1></OFX>"
        done = bringing_in.import_file(self.db, BY, "broker.ofx", content, Answers(self.current, others="new"))
        self.assertEqual(done.new, 0)
        self.assertIn("kept whole, for Holdings", done.warnings[0])
        self.assertEqual(self.db.execute("SELECT content FROM upload").fetchone()["content"], content)


if __name__ == "__main__":
    unittest.main()
