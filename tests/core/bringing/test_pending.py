"""The life of a pending entry, and rows a bank's own balances speak against."""

import unittest
from datetime import date, timedelta

from bolsa.core.bringing.doubts import find_doubtful
from bolsa.core.bringing.matching import Verdict, judge_rows
from bolsa.core.bringing.pending import PendingLine, find_booked, judge_pending
from bolsa.core.bringing.rows import BroughtRow

DAY = date(2026, 5, 14)


def line(line_id, amount, text="QUAYSIDE DIESEL 0440", ref="", days=0):
    return PendingLine(line_id, DAY + timedelta(days=days), amount, text, ref)


def row(amount, text="QUAYSIDE DIESEL 0440", ref="", days=0, *, pending=False):
    return BroughtRow(DAY + timedelta(days=days), amount, text, bank_ref=ref, pending=pending)


class Booked(unittest.TestCase):
    def booked(self, rows, pending):
        return {i: v.line_id for i, v in find_booked(rows, pending, "EUR").items()}

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
        self.assertIn("with -60.00 EUR, now booked", find_booked([row(-6100)], [line(1, -6000)], "EUR")[0].reason)

    def test_each_line_is_booked_once(self):
        self.assertEqual(self.booked([row(-6000), row(-6000)], [line(1, -6000)]), {0: 1})

    def test_what_is_here_already_is_stronger(self):
        verdict = Verdict("matched", True, "announced", 7)
        twice = [row(-500, ref="A"), row(-500, ref="A")]
        self.assertEqual([v.kind for v in judge_rows(twice, [], [], "ofx", {0: verdict})], ["matched", "known"])


class StillPending(unittest.TestCase):
    def judge(self, rows, pending, lists_all=True):
        verdicts, vanished = judge_pending(rows, pending, "EUR", lists_all=lists_all)
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


class SpokenAgainstByTheBalance(unittest.TestCase):
    def doubtful(self, rows, off):
        found = find_doubtful(rows, off)
        return found[0] if found else None

    def test_a_row_sent_twice_that_the_balance_counts_once(self):
        twice = [row(-500, ref="A"), row(-200), row(-500, ref="A-R")]
        self.assertEqual(self.doubtful(twice, -500), 2)
        self.assertIsNone(self.doubtful(twice, 0), "two true purchases")

    def test_a_row_whose_sign_the_balance_turns(self):
        self.assertEqual(self.doubtful([row(500), row(-200)], 1_000), 0)
        self.assertIsNone(self.doubtful([row(500), row(500, days=1)], 1_000), "either could be meant")

    def test_a_difference_no_row_explains_is_left_to_check(self):
        self.assertIsNone(self.doubtful([row(500), row(-200)], 301))


if __name__ == "__main__":
    unittest.main()
