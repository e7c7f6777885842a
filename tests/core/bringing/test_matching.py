"""What a row that was brought in is: the order of proof, and bringing in twice."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.bringing.bookings import Booking, Here, OpenLine, Source, Told
from bolsa.core.bringing.coverage import Coverage
from bolsa.core.bringing.likelihood import DAYS_APART, DAYS_APART_UNLIKE, DAYS_SAME_ID
from bolsa.core.bringing.matching import judge_rows
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


def covers(rows, layout="csv", first=None, last=None):
    days = [row.day for row in rows] or [DAY]
    return Coverage(layout, first or min(days), last or max(days), is_declared=True)


def here_of(rows, layout="csv", lines=(), first=None, last=None):
    """What an account knows after a source told these rows."""
    told = [Told(i + 1, layout, r.day, r.amount_minor, r.raw_text, r.bank_ref, r.value_day) for i, r in enumerate(rows)]
    bookings = [Booking(one.id, one.id, (one,)) for one in told]
    return Here(bookings, list(lines), [covers(rows, layout, first, last)] if rows else [])


def judge(rows, here=None, layout="csv", first=None, last=None):
    return judge_rows(rows, here or Here(), Source(layout, (covers(rows, layout, first, last),)))


def kinds(verdicts):
    return [verdict.kind for verdict in verdicts]


def on(days, amount, text="Bakery", ref="", value=None):
    value_day = DAY + timedelta(days=value) if value is not None else None
    return BroughtRow(DAY + timedelta(days=days), amount, text, bank_ref=ref, value_day=value_day)


class Repeated(unittest.TestCase):
    def test_a_row_the_bank_repeats_is_doubted_where_another_source_tells_it_once(self):
        rows = [on(0, -500, "Kiosk"), on(3, -1250, ref="a"), on(3, -1250, ref="a-R"), on(6, -700, "Ferry")]
        once = here_of([rows[0], rows[1]._replace(bank_ref=""), rows[3]], "mt940")
        verdicts = judge(rows, once, "ofx")
        self.assertEqual(sorted((v.kind, v.take) for v in verdicts[1:3]), [("known", False), ("suspicious", True)])

    def test_two_true_purchases_stay_where_no_other_source_covers_their_day(self):
        rows = [on(3, -1250, ref="a"), on(3, -1250, ref="b")]
        self.assertEqual(kinds(judge(rows, here_of([on(0, -500, "Kiosk")], "mt940"), "ofx")), ["new", "new"])


class OneSource(unittest.TestCase):
    @given(ROWS)
    def test_the_same_file_twice_brings_nothing_and_equal_purchases_all_stay(self, rows):
        self.assertEqual(kinds(judge(rows)), ["new"] * len(rows))
        self.assertEqual(kinds(judge(rows, here_of(rows))), ["known"] * len(rows))

    @given(ROWS, ROWS)
    def test_a_later_export_brings_only_what_it_adds(self, rows, later):
        later = [row._replace(day=row.day + timedelta(days=20)) for row in later]
        self.assertEqual(kinds(judge(rows + later, here_of(rows))).count("new"), len(later))

    def test_two_purchases_with_ids_of_their_own_stay_two(self):
        rows = [on(0, -320, ref=ref) for ref in ("a", "b")]
        self.assertEqual(kinds(judge(rows, here_of(rows[:1], "ofx"), "ofx")), ["known", "new"])

    def test_an_id_that_comes_back_on_another_day_is_another_booking(self):
        for days in (5, 60):
            self.assertEqual(kinds(judge([on(days, -320, ref="1")], here_of([on(0, -320, ref="1")], "ofx"), "ofx")), ["new"])

    def test_ids_that_changed_in_the_same_days_are_the_same_bookings(self):
        before = [on(i, -100 * i - 17, f"Shop {i}", ref=f"A{i}") for i in range(8)]
        changed = [row._replace(bank_ref=f"B{i}") for i, row in enumerate(before)]
        self.assertEqual(kinds(judge(changed, here_of(before, "ofx"), "ofx")), ["known"] * 8)

    def test_an_id_with_another_amount_or_sign_on_its_day_is_a_correction(self):
        for amount in (-330, 320):
            (verdict,) = judge([on(0, amount, ref="1")], here_of([on(0, -320, ref="1")], "ofx"), "ofx")
            self.assertEqual((verdict.kind, verdict.take, verdict.line_id), ("known", False, 1))
            self.assertIn("the bank corrected it: -3.20 EUR before", verdict.reason)

    def test_an_id_with_another_amount_and_other_words_is_another_booking(self):
        self.assertEqual(kinds(judge([on(0, -990, "Otter", ref="1")], here_of([on(0, -320, ref="1")], "ofx"), "ofx")), ["new"])

    def test_a_booking_the_bank_moved_by_days_keeps_its_id(self):
        for days, kind in ((DAYS_SAME_ID, "known"), (DAYS_SAME_ID + 1, "new")):
            here = here_of([on(0, -320, ref="1")], "ofx", last=DAY + timedelta(days=40))
            verdicts = judge([on(days, -320, ref="1")], here, "ofx", DAY - timedelta(days=20), DAY + timedelta(days=30))
            self.assertEqual(kinds(verdicts), [kind], days)

    def test_the_same_row_with_one_id_twice_in_a_file_counts_once(self):
        self.assertEqual(kinds(judge([on(0, -320, ref="a")] * 2, layout="ofx")), ["new", "known"])

    def test_a_deleted_entry_does_not_come_back(self):
        gone = Here([Booking(1, None, (Told(1, "ofx", DAY, -320, "Bakery", "1"),))], [], [])
        (verdict,) = judge([on(0, -320, ref="1")], gone, "ofx")
        self.assertEqual((verdict.kind, verdict.reason), ("known", "the same bank id, in the trash"))

    def test_what_was_asked_and_not_answered_is_asked_again(self):
        asked = Here([Booking(1, None, (Told(1, "csv", DAY, -320, "Bakery"),), is_asked=True)], [], [])
        self.assertEqual([(v.kind, v.take) for v in judge([on(0, -320)], asked)], [("suspicious", False)])


class TwoSources(unittest.TestCase):
    def test_the_same_days_in_another_layout_are_the_same_bookings(self):
        told = [on(i, -100 * i - 17, f"SHOP {i} 0093") for i in range(6)]
        other = [row._replace(payee=f"Shop {i}", bank_ref=f"Q{i}") for i, row in enumerate(told)]
        self.assertEqual(kinds(judge(other, here_of(told), "camt")), ["known"] * 6)

    def test_other_words_within_covered_days_are_the_same_booking(self):
        around = {"first": DAY - timedelta(days=9), "last": DAY + timedelta(days=9)}
        self.assertEqual(
            kinds(judge([on(0, -2_341, "Otter")], here_of([on(0, -2_341, "Grebe")], **around), "ofx", **around)), ["known"]
        )

    def test_two_true_purchases_stay_two_when_either_source_has_both(self):
        for before, after, fresh in ((1, 2, 1), (2, 1, 0), (2, 2, 0), (2, 3, 1)):
            verdicts = judge([on(0, -350)] * after, here_of([on(0, -350)] * before), "camt", last=DAY + timedelta(days=5))
            self.assertEqual(kinds(verdicts).count("new"), fresh, (before, after))

    def test_a_source_that_always_tells_the_purchase_day_is_understood(self):
        booked = [on(i + 1, -350) for i in range(5) for _ in range(1)] + [
            on(2 * i + 1, -1_000 * i - 7, f"Shop {i}") for i in range(1, 9)
        ]
        paid = [row._replace(day=row.day - timedelta(days=1)) for row in booked]
        here = here_of(booked, "ofx")
        verdicts = judge(paid, here, "csv:purchases")
        self.assertEqual(kinds(verdicts), ["known"] * len(paid))

    def test_rows_are_assigned_best_in_all_and_not_nearest_first(self):
        here = here_of([on(0, -500, "Grebe"), on(2, -500, "Otter")], "ofx", last=DAY + timedelta(days=9))
        verdicts = judge([on(1, -500, "Otter"), on(1, -500, "Grebe")], here, "csv", DAY, DAY + timedelta(days=9))
        self.assertEqual([v.line_id for v in verdicts], [2, 1])

    def test_at_the_edge_of_what_both_cover_it_is_asked_and_not_taken(self):
        (verdict,) = judge([on(1, -2_341)], here_of([on(0, -2_341)], "ofx"), "csv")
        self.assertEqual((verdict.kind, verdict.take, verdict.line_id), ("suspicious", False, 1))

    def test_days_nobody_covered_are_new(self):
        self.assertEqual(kinds(judge([on(20, -350)], here_of([on(0, -350)], "ofx"), "csv")), ["new"])


class TypedBefore(unittest.TestCase):
    def test_a_typed_entry_is_matched_to_the_nearest_likely_row(self):
        typed = [
            OpenLine(1, DAY, -2340, "Grebe Street Grocer"),
            OpenLine(2, DAY + timedelta(days=3), -2340, "Grebe Street Grocer"),
        ]
        (verdict,) = judge([on(2, -2340, "CARD GREBE STREET GROCER 0093", ref="x")], Here((), typed), "ofx")
        self.assertEqual((verdict.kind, verdict.line_id), ("matched", 2))

    def test_other_words_are_matched_where_amount_and_day_are_the_only_ones_and_asked_otherwise(self):
        for amount, days, kind in (
            (-2341, 0, "matched"),
            (-2341, 1, "matched"),
            (-2341, 2, "suspicious"),
            (-2000, 0, "suspicious"),
        ):
            with self.subTest(amount, days=days):
                typed = [OpenLine(1, DAY, amount, "Otter Books")]
                (verdict,) = judge([on(days, amount, "TIDEWATER POWER")], Here((), typed))
                self.assertEqual((verdict.kind, verdict.take, verdict.line_id), (kind, kind == "matched", 1))

    def test_the_far_side_of_a_transfer_is_claimed_whatever_its_words(self):
        far = [OpenLine(1, DAY, 50_000, "To the reserve", is_far_side=True)]
        (verdict,) = judge([on(2, 50_000, "PH70420001 SALTBY BANK")], Here((), far))
        self.assertEqual((verdict.kind, verdict.line_id), ("matched", 1))

    def test_the_last_day_apart_that_matches_and_the_first_that_does_not(self):
        self.assertEqual((DAYS_APART, DAYS_APART_UNLIKE), (6, 4))
        for days, like, unlike in ((4, "matched", "suspicious"), (5, "matched", "new"), (6, "matched", "new"), (7, "new", "new")):
            for sign in (1, -1):
                with self.subTest(days * sign):
                    row = on(days * sign, -1250, "CORMORANT CAFE 0093")
                    self.assertEqual(kinds(judge([row], Here((), [OpenLine(7, DAY, -1250, "Cormorant Café")]))), [like])
                    self.assertEqual(kinds(judge([row], Here((), [OpenLine(7, DAY, -1250, "Heron School")]))), [unlike])

    def test_an_announced_entry_is_booked_and_another_booking_of_its_shop_is_not_taken_for_it(self):
        announced = OpenLine(9, DAY + timedelta(days=1), -350, "BAKERY", is_announced=True)
        here = here_of([on(0, -350)], "ofx", [announced], last=DAY + timedelta(days=9))
        rows = [on(0, -350, "Bakery 1"), on(3, -350, "Bakery 2")]
        self.assertEqual([(v.kind, v.line_id) for v in judge(rows, here, "camt")], [("known", 1), ("matched", 9)])


if __name__ == "__main__":
    unittest.main()
