"""What a row that was brought in is: the order of proof, and bringing in twice."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.bringing.matching import DAYS_APART, DAYS_SAME_ID, KnownRow, OpenLine, judge_rows
from bolsa.core.bringing.rows import BroughtRow

DAY = date(2026, 5, 4)
ROWS = st.lists(
    st.builds(
        BroughtRow,
        day=st.integers(0, 3).map(lambda i: DAY + timedelta(days=i)),
        amount_minor=st.sampled_from([-320, -320, -1250, 500]),
        payee=st.sampled_from(["Millstone Bakery", "Cormorant Café"]),
        bank_ref=st.just(""),
    ),
    max_size=12,
)


def known_of(rows, source="csv"):
    return [KnownRow(i + 1, r.day, r.amount_minor, r.raw_text, r.bank_ref, i + 1, source) for i, r in enumerate(rows)]


def kinds(verdicts):
    return [verdict.kind for verdict in verdicts]


class Judging(unittest.TestCase):
    @given(ROWS)
    def test_the_same_file_twice_brings_nothing_and_equal_purchases_all_stay(self, rows):
        self.assertEqual(kinds(judge_rows(rows, [], [], "csv")), ["new"] * len(rows))
        self.assertEqual(kinds(judge_rows(rows, known_of(rows), [], "csv")), ["known"] * len(rows))

    @given(ROWS, ROWS)
    def test_a_longer_export_brings_only_what_it_adds(self, rows, more):
        verdicts = judge_rows(rows + more, known_of(rows), [], "csv")
        self.assertEqual(kinds(verdicts).count("new"), len(more))

    def test_two_purchases_with_ids_of_their_own_stay_two(self):
        rows = [BroughtRow(DAY, -320, "Bakery", bank_ref=ref) for ref in ("a", "b")]
        self.assertEqual(kinds(judge_rows(rows, known_of(rows[:1], "ofx"), [], "ofx")), ["known", "new"])

    def test_an_id_given_out_again_months_later_is_new(self):
        old = [KnownRow(1, DAY - timedelta(days=60), -320, "Bakery", "1", 7, "ofx")]
        self.assertEqual(kinds(judge_rows([BroughtRow(DAY, -320, "Bakery", bank_ref="1")], old, [], "ofx")), ["new"])

    def test_an_id_with_another_amount_is_doubtful_and_brought(self):
        old = [KnownRow(1, DAY, -320, "Bakery", "1", 7, "ofx")]
        verdict = judge_rows([BroughtRow(DAY, -330, "Bakery", bank_ref="1")], old, [], "ofx")[0]
        self.assertEqual((verdict.kind, verdict.take), ("suspicious", True))

    def test_the_same_row_with_one_id_twice_in_a_file_counts_once(self):
        row = BroughtRow(DAY, -320, "Bakery", bank_ref="a")
        self.assertEqual(kinds(judge_rows([row, row], [], [], "ofx")), ["new", "known"])

    def test_a_typed_entry_is_matched_to_the_nearest_likely_row(self):
        typed = [
            OpenLine(1, DAY, -2340, "Grebe Street Grocer"),
            OpenLine(2, DAY + timedelta(days=3), -2340, "Grebe Street Grocer"),
        ]
        rows = [BroughtRow(DAY + timedelta(days=2), -2340, "CARD GREBE STREET GROCER 0093", bank_ref="x")]
        verdict = judge_rows(rows, [], typed, "ofx")[0]
        self.assertEqual((verdict.kind, verdict.line_id), ("matched", 2))

    def test_the_same_amount_with_another_payee_is_only_said(self):
        typed = [OpenLine(1, DAY, -2340, "Otter Books")]
        verdict = judge_rows([BroughtRow(DAY, -2340, "TIDEWATER POWER")], [], typed, "csv")[0]
        self.assertEqual((verdict.kind, verdict.take, verdict.line_id), ("suspicious", True, 1))

    def test_a_deleted_entry_does_not_come_back(self):
        old = [KnownRow(1, DAY, -320, "Bakery", "1", None, "ofx")]
        verdict = judge_rows([BroughtRow(DAY, -320, "Bakery", bank_ref="1")], old, [], "ofx")[0]
        self.assertEqual(verdict.reason, "the same bank id, in the trash")

    def test_another_kind_of_file_is_known_by_day_amount_and_likeness(self):
        old = [KnownRow(1, DAY, -2340, "GREBE STREET GROCER 0093", "q1", 5, "ofx")]
        self.assertEqual(kinds(judge_rows([BroughtRow(DAY, -2340, "Grebe Street Grocer")], old, [], "csv")), ["known"])
        self.assertEqual(kinds(judge_rows([BroughtRow(DAY, -2340, "Otter Books")], old, [], "csv")), ["new"])

    def test_the_last_day_apart_that_matches_and_the_first_that_does_not(self):
        self.assertEqual((DAYS_APART, DAYS_SAME_ID), (4, 10))
        typed = [OpenLine(7, DAY, -1250, "Cormorant Café")]
        for days, kind in ((4, "matched"), (5, "new"), (-4, "matched"), (-5, "new")):
            with self.subTest(days):
                row = BroughtRow(DAY + timedelta(days=days), -1250, "CORMORANT CAFE 0093")
                self.assertEqual(kinds(judge_rows([row], [], typed, "csv")), [kind])

    def test_the_last_day_apart_that_only_warns(self):
        typed = [OpenLine(7, DAY, -1250, "Heron School")]
        for days, kind in ((4, "suspicious"), (5, "new")):
            row = BroughtRow(DAY + timedelta(days=days), -1250, "CORMORANT CAFE 0093")
            self.assertEqual(kinds(judge_rows([row], [], typed, "csv")), [kind])

    def test_the_last_day_an_id_is_the_same_and_the_first_it_was_given_out_again(self):
        known = [KnownRow(1, DAY, -1250, "CORMORANT", "A1", 1, "csv")]
        for days, same, other in (
            (10, "known", "suspicious"),
            (11, "new", "new"),
            (-10, "known", "suspicious"),
            (-11, "new", "new"),
        ):
            with self.subTest(days):
                day = DAY + timedelta(days=days)
                self.assertEqual(kinds(judge_rows([BroughtRow(day, -1250, "X", bank_ref="A1")], known, [], "csv")), [same])
                self.assertEqual(kinds(judge_rows([BroughtRow(day, -1300, "X", bank_ref="A1")], known, [], "csv")), [other])


if __name__ == "__main__":
    unittest.main()
