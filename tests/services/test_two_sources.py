"""One booking told by several sources is one: files of the same days in other layouts, and households doubled already."""

import unittest
from datetime import date, timedelta
from unittest import mock

from bolsa.bench.identity import layouts
from bolsa.bench.identity.layouts import Window
from bolsa.bench.identity.truth import Booking
from bolsa.core.bringing.bookings import Verdict
from bolsa.errors import Conflict
from bolsa.services import changes
from bolsa.services.bringing import bringing_in, doubles, judging, previewing, undoing
from bolsa.services.bringing.questions import Answers
from bolsa.services.bringing.taking_in import take_in
from bolsa.services.ledger import attaching, entries
from bolsa.services.sorting import keeping_out, sorting, transferring
from bolsa.services.sorting.sorting import what_to_sort
from tests.services.household import BY, HouseholdCase, picture

FIRST = date(2026, 4, 1)
SHOPS = ("Heron Grocer", "Tern Bakery", "Plover Books", "Skerry Diesel", "Otter Café")


def bookings(many=20, seed=7):
    """Made-up bookings, some of them alike on one day; booked the day after they were paid."""
    found = []
    for n in range(many):
        paid = FIRST + timedelta(days=n * 26 // many)
        amount = -350 if n % 4 == 0 else -(1_000 + 37 * n * seed)
        found.append(Booking(n + 1, paid, paid + timedelta(days=1), amount, SHOPS[n % 5 if n % 4 else 1]))
        if n % 8 == 0:
            found.append(Booking(n + 101, paid, paid + timedelta(days=1), amount, SHOPS[1]))
    return sorted(found, key=lambda one: (one.booked, one.number))


def window(told, first=FIRST, last=date(2026, 4, 30), announced=(), seed=1):
    return Window(first, last, [one for one in told if first <= one.booked <= last], announced, 100_000, seed)


class FilesCase(HouseholdCase):
    def bring(self, layout, shown, **more):
        name = f"bank.{layout}"
        return bringing_in.import_file(self.db, BY, name, layouts.LAYOUTS[layout](shown), Answers(self.current), **more)


class TwoSources(FilesCase):
    def test_the_same_days_in_any_two_layouts_change_nothing(self):
        told = bookings()
        total = 100_000 + sum(one.amount_minor for one in told)
        for first in layouts.LAYOUTS:
            self.current = self.an_account(f"By {first}", opening_minor=100_000)
            self.assertEqual(self.bring(first, window(told)).new, len(told), first)
            for other in layouts.LAYOUTS:
                done = self.bring(other, window(told, seed=2))
                self.assertEqual((done.new, done.known, done.asked), (0, len(told), 0), f"{other} after {first}")
            self.assertEqual(self.balance(), total)

    def test_only_what_a_longer_window_adds_is_new(self):
        told = bookings()
        self.bring("csv", window(told, last=date(2026, 4, 14)))
        done = self.bring("camt.xml", window(told))
        self.assertEqual((done.known, done.asked), (sum(one.booked <= date(2026, 4, 14) for one in told), 0))
        self.assertEqual(self.balance(), 100_000 + sum(one.amount_minor for one in told))

    def test_the_announced_list_that_comes_after_the_booking_adds_nothing(self):
        told = bookings()
        waits = [one for one in told if one.booked > date(2026, 4, 20)][:2]
        self.bring("camt.xml", window(told))
        self.bring("ofx", window([one for one in told if one not in waits], last=date(2026, 4, 20), announced=waits))
        self.assertEqual(self.balance(), 100_000 + sum(one.amount_minor for one in told))

    def test_an_announced_entry_deleted_by_hand_is_not_offered_again(self):
        told = bookings()
        waits = [told[-1]]
        early = window(told[:-1], last=date(2026, 4, 25), announced=waits)
        self.bring("ofx", early)
        line = next(e for e in what_to_sort(self.db).piles for e in e.entries if e.amount_minor == waits[0].amount_minor)
        entries.delete_entry(self.db, BY, line.entry_id)
        done = self.bring("ofx", early)
        self.assertEqual((done.new, done.known), (0, len(told[:-1]) + 1))

    def test_at_an_edge_nobody_proves_the_row_is_asked_left_out_and_asked_again(self):
        one = Booking(1, date(2026, 4, 10), date(2026, 4, 10), -2_341, "Heron Grocer")
        self.bring("purchases.csv", window([one]))
        later = Booking(2, date(2026, 4, 11), date(2026, 4, 11), -2_341, "Heron Grocer")
        text = f"Booking date,Details,Amount\n{later.booked},CARD HERON GROCER,-23.41\n".encode()
        for _ in range(2):
            done = bringing_in.import_file(self.db, BY, "b.csv", text, Answers(self.current))
            self.assertEqual((done.new, done.asked), (0, 1))
        batch = take_in(self.db, BY, "b.csv", text, Answers(self.current)).batch_id
        (row,) = previewing.get_preview(self.db, batch).rows
        self.assertIn(
            "bring it in if it is another one", row.reason.replace("asked about before", "bring it in if it is another one")
        )
        previewing.overrule(self.db, batch, row.id, "bring")
        self.assertEqual(bringing_in.bring_in(self.db, BY, batch).made.new, 1)
        self.assertEqual(self.balance(), 100_000 - 2 * 2_341)

    def test_the_declared_balance_decides_what_would_be_asked(self):
        for counts, expected in ((True, 1), (False, 0)):
            with self.subTest(counts=counts):
                self.current = self.an_account(f"Account {counts}", opening_minor=100_000)
                one = Booking(1, date(2026, 4, 8), date(2026, 4, 8), -2_341, "Heron Grocer")
                self.bring("camt.xml", window([one], last=date(2026, 4, 8)))
                again = Booking(2, date(2026, 4, 9), date(2026, 4, 9), -2_341, "Heron Grocer")
                shown = Window(date(2026, 4, 9), date(2026, 4, 14), [again], (), 100_000 - (2_341 if counts else 0), 3)
                done = self.bring("other.ofx", shown)
                self.assertEqual((done.new, done.asked), (expected, 0))

    def test_a_booking_corrected_by_the_bank_is_offered_as_a_cure(self):
        one = Booking(1, FIRST, FIRST, -2_341, "Heron Grocer")
        self.bring("ofx", window([one]))
        turned = Booking(1, FIRST, FIRST, 2_341, "Heron Grocer")
        batch = take_in(self.db, BY, "a.ofx", layouts.write_ofx(window([turned])), Answers(self.current)).batch_id
        shown = previewing.get_preview(self.db, batch)
        self.assertEqual([c.amount_minor for c in shown.changed_here], [2_341])
        previewing.overrule(self.db, batch, shown.changed_here[0].row_id, "correct")
        bringing_in.bring_in(self.db, BY, batch)
        self.assertEqual(self.balance(), 102_341)

    def test_an_entry_typed_and_brought_by_two_sources_stands_once(self):
        told = bookings()
        entry = self.spends(-told[2].amount_minor, day=told[2].paid, payee=told[2].shop)
        self.assertEqual(self.bring("ofx", window(told)).matched, 1)
        self.assertEqual(self.bring("csv", window(told)).known, len(told))
        self.assertEqual(entries.get_entry(self.db, entry).category_lines[0].category_id, self.category("Groceries"))
        self.assertEqual(self.balance(), 100_000 + sum(one.amount_minor for one in told))

    def test_the_far_side_of_a_transfer_made_by_hand_is_claimed_by_its_own_bank(self):
        self.bring("ofx", window([Booking(1, FIRST, FIRST, -50_000, "Own account", is_card=False)]))
        pile = what_to_sort(self.db).piles[0]
        transferring.file_as_transfer(self.db, BY, [pile.entries[0].entry_id], self.reserve)
        mine, self.current = self.current, self.reserve
        done = self.bring("csv", window([Booking(2, FIRST, FIRST + timedelta(days=1), 50_000, "Household", is_card=False)]))
        self.assertEqual((done.new, done.matched), (0, 1))
        self.assertEqual((self.balance(), self.balance(mine)), (50_000, 50_000))


class DoubledAlready(FilesCase):
    """A household brought in when every row of another layout was new."""

    def doubled(self, many=20):
        told = bookings(many)
        self.bring("ofx", window(told))
        everything_new = lambda rows, *_: [Verdict("new", True)] * len(rows)  # noqa: E731
        with mock.patch.object(judging, "judge_rows", everything_new):
            self.bring("camt.xml", window(told))
        self.assertEqual(self.balance(), 100_000 + 2 * sum(one.amount_minor for one in told))
        return told

    def test_they_are_found_in_pairs_mended_in_one_step_and_undone_whole(self):
        told = self.doubled()
        found = doubles.list_doubles(self.db)
        self.assertEqual(len(found), len(told))
        self.assertEqual({(one.stays_from, one.goes_from) for one in found}, {("bank.ofx", "bank.camt.xml")})
        done = doubles.take_out_doubles(self.db, BY)
        self.assertEqual(self.balance(), 100_000 + sum(one.amount_minor for one in told))
        self.assertEqual(doubles.list_doubles(self.db), ())
        self.assertEqual(self.bring("csv", window(told)).known, len(told))
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.balance(), 100_000 + 2 * sum(one.amount_minor for one in told))
        self.assertEqual(len(doubles.list_doubles(self.db)), len(told))

    def test_what_someone_worked_on_stays_and_its_twin_goes(self):
        self.doubled(4)
        first = doubles.list_doubles(self.db)[0]
        sorting.file_entries(self.db, BY, [first.goes.id], self.category("Groceries"))
        (found,) = [one for one in doubles.list_doubles(self.db) if first.goes.id in (one.stays.id, one.goes.id)]
        self.assertEqual((found.stays.id, found.goes.id), (first.goes.id, first.stays.id))
        sorting.file_entries(self.db, BY, [first.stays.id], self.category("Groceries"))
        (found,) = [one for one in doubles.list_doubles(self.db) if one.problem]
        self.assertIn("both were changed", found.problem)
        before = len(doubles.list_doubles(self.db))
        self.assertEqual(doubles.take_out_doubles(self.db, BY).made, before - 1)
        self.assertEqual([one.stays.id for one in doubles.list_doubles(self.db)], [first.stays.id])
        with self.assertRaises(Conflict):
            doubles.take_out_doubles(self.db, BY)

    def test_what_was_brought_as_new_on_purpose_is_none(self):
        told = bookings(4)
        self.bring("ofx", window(told))
        batch = take_in(self.db, BY, "a.xml", layouts.write_camt(window(told)), Answers(self.current)).batch_id
        previewing.overrule(self.db, batch, previewing.get_preview(self.db, batch).rows[0].id, "bring")
        self.assertEqual(bringing_in.bring_in(self.db, BY, batch).made.new, 1)
        self.assertEqual(doubles.list_doubles(self.db), ())


class TakenOut(FilesCase):
    def test_what_a_person_added_keeps_an_entry_when_its_batch_is_taken_out(self):
        told = bookings(8)
        batch = self.bring("ofx", window(told)).batch_id
        ids = [one.entry_id for pile in what_to_sort(self.db).piles for one in pile.entries]
        attaching.attach(self.db, BY, ids[0], "receipt.png", picture())
        keeping_out.keep_out(self.db, BY, [ids[1]], out=True)
        said = undoing.undo_batch(self.db, BY, batch).made
        self.assertIn("2 changed since stayed here", said)
        again = self.bring("ofx", window(told))
        self.assertEqual((again.new, again.known), (len(told) - 2, 2))
        self.assertEqual(self.balance(), 100_000 + sum(one.amount_minor for one in told))


if __name__ == "__main__":
    unittest.main()
