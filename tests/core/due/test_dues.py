"""What is due, and what came for it."""

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from bolsa.core.due.dues import MOST_UNMET, TOLERANCE_DAYS, Came, Followed, Mark, Series, follow, follow_all
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

    def test_a_person_makes_one_late_from_the_day_after_it_was_due_and_an_entry_pays_it_all_the_same(self):
        said = [Mark("missed", START)]
        for days, state in ((0, "awaited"), (1, "late")):
            day = START + timedelta(days=days)
            self.assertEqual(states(self.follow([], said, today=day, known=START - timedelta(days=30), until=START)), [state])
        self.assertEqual(states(self.follow([(START, -1000)], said, today=START + timedelta(days=2))), ["arrived"])

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


class OverAllSeries(unittest.TestCase):
    """One entry pays one due, over all series of an account."""

    def claims(self, kept, lines, today=date(2026, 1, 30)):
        followed = [Followed(one, came(*lines)) for one in kept]
        found = follow_all(followed, today, today, lambda _: today)
        return [[(due.state, due.came and due.came.line_id) for due in dues] for dues in found]

    def two(self):
        rhythms = Rhythm("FREQ=MONTHLY", date(2026, 1, 1)), Rhythm("FREQ=MONTHLY", date(2026, 1, 3))
        return [a_series(rhythm=rhythms[0], amount_minor=-1000), a_series(rhythm=rhythms[1], amount_minor=-25000)]

    def test_of_two_series_of_a_payee_each_is_paid_by_its_amount(self):
        self.assertEqual(self.claims(self.two(), [(date(2026, 1, 2), -1000)]), [[("arrived", 1)], [("late", None)]])
        both = [(date(2026, 1, 1), -25000), (date(2026, 1, 3), -1000)]
        self.assertEqual(self.claims(self.two(), both), [[("arrived", 2)], [("arrived", 1)]])

    def test_a_purchase_of_another_size_takes_no_due_and_teaches_no_amount(self):
        rent = a_series(rhythm=Rhythm("FREQ=MONTHLY", date(2026, 1, 3)), amount_minor=-64000, amount_kind="last")
        lines = [(date(2026, 1, 2), -300), (date(2026, 1, 3), -64000), (date(2026, 2, 2), -300)]
        (dues,) = follow_all([Followed(rent, came(*lines))], date(2026, 3, 3), date(2026, 2, 20), lambda _: date(2026, 2, 20))
        self.assertEqual(
            [(due.state, due.expected_minor) for due in dues], [("arrived", -64000), ("late", -64000), ("awaited", -64000)]
        )

    def test_the_last_amount_that_may_be_it_and_the_first_that_may_not(self):
        for amount, state in ((-3000, "different"), (-3001, "late"), (-334, "different"), (-333, "late")):
            with self.subTest(amount):
                self.assertEqual(self.claims([a_series()], [(START, amount)])[0][0][0], state)

    def test_of_ten_entries_near_a_due_the_one_on_its_day_pays(self):
        lines = [(START + timedelta(days=n % 4), -1000) for n in (1, 2, 3, 1, 0, 2, 3, 1, 2, 3)]
        self.assertEqual(self.claims([a_series()], lines), [[("arrived", 5)]])

    def test_the_amount_goes_before_the_day(self):
        self.assertEqual(self.claims([a_series()], [(START, -1200), (START + timedelta(days=2), -1000)]), [[("arrived", 2)]])

    def test_two_dues_near_each_other_are_both_paid(self):
        weekly = a_series(rhythm=Rhythm("FREQ=DAILY;INTERVAL=2", START))
        lines = [(START + timedelta(days=1), -1000), (START + timedelta(days=3), -1000)]
        found = self.claims([weekly], lines, today=START + timedelta(days=2))
        self.assertEqual(found, [[("arrived", 1), ("arrived", 2)]])


if __name__ == "__main__":
    unittest.main()
