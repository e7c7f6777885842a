"""The life of a pending entry."""

import unittest
from datetime import date, timedelta

from bolsa.core.bringing.bookings import Booking, Here, OpenLine, Source, Told
from bolsa.core.bringing.likelihood import DAYS_TO_BOOK, LIKE_SURELY
from bolsa.core.bringing.matching import judge_rows
from bolsa.core.bringing.pending import judge_pending
from bolsa.core.bringing.rows import BroughtRow
from bolsa.core.ledger.payees import likeness

DAY = date(2026, 5, 14)


def line(line_id, amount, text="QUAYSIDE DIESEL 0440", ref="", days=0):
    return OpenLine(line_id, DAY + timedelta(days=days), amount, text, is_announced=True, bank_ref=ref)


def row(amount, text="QUAYSIDE DIESEL 0440", ref="", days=0, *, pending=False):
    return BroughtRow(DAY + timedelta(days=days), amount, text, bank_ref=ref, pending=pending)


class Booked(unittest.TestCase):
    def booked(self, rows, pending):
        verdicts = judge_rows(rows, Here((), pending), Source("ofx"))
        return {i: v.line_id for i, v in enumerate(verdicts) if v.kind == "matched"}

    def test_by_reference_before_amount_before_likeness(self):
        pending = [line(1, -6000, ref="P1"), line(2, -6320, ref="P2")]
        self.assertEqual(self.booked([row(-6320, ref="P1", days=2)], pending), {0: 1})
        self.assertEqual(self.booked([row(-6320, ref="F9", days=2)], pending), {0: 2})
        self.assertEqual(self.booked([row(-6100, days=3)], pending[:1]), {0: 1})

    def test_a_moved_amount_with_two_that_could_be_it_is_left_to_the_user(self):
        self.assertEqual(self.booked([row(-6100)], [line(1, -6000), line(2, -6050)]), {})

    def test_another_shop_another_direction_or_too_late_is_not_it(self):
        for other in (row(-6000, "OTTER BOOKS 0055"), row(6000), row(-6000, days=11), row(-60000)):
            with self.subTest(other):
                self.assertEqual(self.booked([other], [line(1, -6000)]), {})

    def test_the_reason_tells_the_amount_it_was_announced_with(self):
        (verdict,) = judge_rows([row(-6100)], Here((), [line(1, -6000)]), Source("ofx"))
        self.assertIn("with -60.00 EUR, now booked", verdict.reason)

    def test_each_line_is_booked_once(self):
        self.assertEqual([*self.booked([row(-6000), row(-6000)], [line(1, -6000)]).values()], [1])

    def test_the_last_day_to_book_and_the_first_too_late(self):
        self.assertEqual(DAYS_TO_BOOK, 10)
        for days, found in ((10, {0: 1}), (11, {}), (-10, {0: 1}), (-11, {})):
            with self.subTest(days):
                self.assertEqual(self.booked([row(-6000, days=days)], [line(1, -6000)]), found)

    def test_how_far_a_reservation_may_move(self):
        for before, now, found in (
            (-6000, -12000, {0: 1}), (-6000, -12001, {}), (-6000, -3000, {0: 1}), (-6000, -2999, {}), (-6000, 6100, {}),
        ):  # fmt: skip
            with self.subTest(now):
                self.assertEqual(self.booked([row(now)], [line(1, before)]), found)

    def test_how_alike_the_texts_must_be(self):
        here = "QUAYSIDE DIESEL"
        for text, least, same_amount, moved in (
            ("QUAYSIDE DIESEL LTD", LIKE_SURELY, {0: 1}, {0: 1}),
            ("QUAYSIDE KIOSK", 60, {0: 1}, {}),
            ("OTTER BOOKS", 0, {}, {}),
        ):
            with self.subTest(text):
                self.assertGreaterEqual(likeness(here, text), least)
                self.assertEqual(self.booked([row(-6000, text)], [line(1, -6000, here)]), same_amount)
                self.assertEqual(self.booked([row(-6100, text)], [line(1, -6000, here)]), moved)


class StillPending(unittest.TestCase):
    def judge(self, rows, pending, lists_all=True, **more):
        verdicts, vanished = judge_pending(rows, pending, "EUR", lists_all=lists_all, **more)
        return [(v.kind, v.line_id) for v in verdicts], [one.line_id for one in vanished]

    def test_new_known_changed_and_vanished(self):
        here = [line(1, -6000, ref="P1"), line(2, -900, ref="P2"), line(3, -75, ref="P3")]
        listed = [row(-6000, ref="P1", pending=True), row(-950, ref="P2", pending=True), row(-10, ref="P9", pending=True)]
        self.assertEqual(self.judge(listed, here), ([("known", 1), ("changed", 2), ("new", None)], [3]))

    def test_nothing_vanishes_from_a_file_that_does_not_list_what_is_pending(self):
        self.assertEqual(self.judge([], [line(1, -6000)], lists_all=False), ([], []))

    def test_without_references_day_and_likeness_tell(self):
        self.assertEqual(self.judge([row(-6100, pending=True)], [line(1, -6000)]), ([("changed", 1)], []))
        self.assertEqual(self.judge([row(-6100, days=1, pending=True)], [line(1, -6000)]), ([("new", None)], [1]))

    def test_what_was_booked_before_its_list_came_adds_nothing(self):
        for days, kind in ((0, "known"), (10, "known"), (11, "new"), (-1, "new")):
            booked = [Booking(5, 5, (Told(1, "camt", DAY + timedelta(days=days), -6000, "Quayside Diesel"),))]
            self.assertEqual(self.judge([row(-6000, pending=True)], [], booked=booked)[0][0][0], kind, days)

    def test_what_was_deleted_or_left_out_is_not_offered_again(self):
        deleted = [Booking(-5, None, (Told(5, "", DAY, -6000, "QUAYSIDE DIESEL 0440", "P1"),))]
        self.assertEqual(self.judge([row(-6000, ref="P1", pending=True)], [], booked=deleted)[0], [("known", None)])
        self.assertEqual(self.judge([row(-6000, ref="P2", pending=True)], [], booked=deleted)[0], [("new", None)])

    def test_what_was_typed_before_it_was_announced_is_that_entry(self):
        typed = [OpenLine(8, DAY, -6000, "Quayside Diesel")]
        self.assertEqual(self.judge([row(-6000, days=1, pending=True)], [], typed=typed)[0], [("matched", 8)])


if __name__ == "__main__":
    unittest.main()
