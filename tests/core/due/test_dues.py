"""What is due, and what came for it."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.due.dues import MOST_UNMET, TOLERANCE_DAYS, Came, Mark, Series, follow
from bolsa.core.due.rhythm import Rhythm

START, TODAY = date(2026, 1, 10), date(2026, 5, 14)


def a_series(**more):
    kept = {"rhythm": Rhythm("FREQ=MONTHLY", START), "amount_minor": -1000} | more
    return Series(1, 7, "Tidewater Power", 1, "EUR", **kept)


def came(*lines):
    """Lines from (day, amount)."""
    return [Came(n, n, day, amount) for n, (day, amount) in enumerate(lines, 1)]


def states(dues):
    return [due.state for due in dues]


class Following(unittest.TestCase):
    def follow(self, lines, marks=(), today=TODAY, known=TODAY, until=None, **more):
        return follow(a_series(**more), came(*lines), marks, until or today, today, known)

    def test_each_due_has_its_entry_and_the_next_is_awaited(self):
        dues = self.follow([(date(2026, m, 10), -1000) for m in (1, 2, 3, 4, 5)], until=date(2026, 6, 10))
        self.assertEqual(states(dues), ["arrived"] * 5 + ["awaited"])

    def test_the_last_day_that_claims_and_the_first_that_does_not(self):
        self.assertEqual(TOLERANCE_DAYS, 3)
        for days, state in ((3, "arrived"), (-3, "arrived"), (4, "late"), (-4, "late")):
            with self.subTest(days):
                dues = self.follow([(START + timedelta(days=days), -1000)], today=date(2026, 1, 30), known=date(2026, 1, 30))
                self.assertEqual(states(dues), [state])

    def test_the_last_day_it_is_awaited_and_the_first_it_is_late(self):
        for days, state in ((3, "awaited"), (4, "late")):
            today = START + timedelta(days=days)
            with self.subTest(days):
                self.assertEqual(states(self.follow([], today=today, known=today)), [state])
        self.assertEqual(states(self.follow([], today=date(2026, 2, 1), known=date(2026, 1, 13))), ["awaited"], "not known yet")
        self.assertEqual(states(self.follow([], today=date(2026, 2, 1), known=date(2026, 1, 14))), ["late"])

    def test_another_amount_is_said_with_per_cent_and_since_when(self):
        lines = [(START, -1000), (date(2026, 2, 10), -1250), (date(2026, 3, 10), -1250)]
        dues = self.follow(lines, today=date(2026, 3, 20))
        self.assertEqual(states(dues), ["arrived", "different", "different"])
        self.assertEqual(
            [(d.differs_minor, d.differs_percent, d.changed_since) for d in dues[1:]], [(-250, 25, date(2026, 2, 10))] * 2
        )
        last = self.follow(lines, today=date(2026, 3, 20), amount_kind="last")
        self.assertEqual(states(last), ["arrived", "different", "arrived"], "the new price is the last one")

    def test_the_last_per_cent_that_is_as_expected(self):
        for amount, state in ((-1100, "arrived"), (-1101, "different"), (-900, "arrived"), (-899, "different")):
            with self.subTest(amount):
                self.assertEqual(states(self.follow([(START, amount)], today=START, tolerance_percent=10)), [state])

    def test_money_the_other_way_is_no_due(self):
        self.assertEqual(states(self.follow([(START, 1000)], today=date(2026, 1, 20))), ["late"])

    def test_what_a_person_said_goes_before(self):
        lines = [(START, -1000), (date(2026, 1, 28), -1000)]
        today = date(2026, 1, 30)
        told = self.follow(lines, [Mark("matched", START, 2)], today=today)
        self.assertEqual([due.came.line_id for due in told], [2])
        self.assertEqual(states(self.follow(lines, [Mark("out", START, 1)], today=today)), ["late"])
        self.assertEqual(states(self.follow(lines, [Mark("skipped", START)], today=today)), ["skipped"])
        self.assertEqual(states(self.follow([], [Mark("matched", START, 99)], today=today)), ["late"], "that entry is gone")

    def test_three_in_a_row_that_did_not_come_end_it(self):
        for months, is_over in ((MOST_UNMET - 1, False), (MOST_UNMET, True)):
            today = date(2026, 1 + months, 9)
            dues = self.follow([], today=today, known=today, until=date(2026, 12, 31))
            with self.subTest(months):
                self.assertEqual("awaited" not in states(dues), is_over)

    def test_an_ended_one_awaits_nothing(self):
        dues = self.follow([(START, -1000)], until=date(2026, 12, 31), ended_on=date(2026, 1, 31))
        self.assertEqual(states(dues), ["arrived"])

    @given(st.lists(st.tuples(st.integers(0, 150), st.sampled_from([-1000, -1250, 1000])), max_size=12))
    def test_one_entry_claims_one_due_and_one_due_one_entry(self, drawn):
        dues = self.follow([(START + timedelta(days=n), amount) for n, amount in drawn])
        claimed = [due.came.line_id for due in dues if due.came]
        self.assertEqual(len(claimed), len(set(claimed)))
        self.assertEqual(len({due.day for due in dues}), len(dues))

    def test_the_first_due_may_move_before_the_start(self):
        rhythm = Rhythm("FREQ=MONTHLY", date(2026, 1, 31), weekend="before")  # a Saturday
        self.assertEqual([due.day for due in self.follow([], today=date(2026, 1, 31), rhythm=rhythm)], [date(2026, 1, 30)])

    def test_of_two_entries_the_nearer_claims(self):
        (due,) = self.follow([(START + timedelta(days=2), -1000), (START + timedelta(days=1), -1000)], today=date(2026, 1, 20))
        self.assertEqual(due.came.line_id, 2)


if __name__ == "__main__":
    unittest.main()
