"""Placing in its ways, gathering money from several categories, and the log of it."""

import unittest
from datetime import date

from bolsa.core.due.rhythm import Rhythm
from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting, expecting, placing, shifting
from bolsa.services.clock import By
from bolsa.services.due import keeping
from bolsa.services.due.keeping import TypedSeries
from tests.services.household import BY, HouseholdCase

APRIL, MAY, JUNE = Month(2026, 4), Month(2026, 5), Month(2026, 6)


class Placing(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.groceries, self.clothes, self.holidays = (self.category(name) for name in ("Groceries", "Clothes", "Holidays"))

    def view(self, month=MAY):
        return budgeting.budget_view(self.db, BY, month)

    def unplaced(self, month=MAY):
        return self.view(month).budget.unplaced_minor

    def would(self, way, *ids):
        return placing.filling_of(self.db, BY, self.view(), list(ids), way).amounts

    def test_as_last_month_and_as_usual_count_what_is_placed_already(self):
        placing.place(self.db, BY, self.groceries, APRIL, 30_000)
        placing.place(self.db, BY, self.groceries, MAY, 12_000)
        self.assertEqual(self.would("before", self.groceries, self.clothes), {self.groceries: 18_000})
        self.spends(9_000, "Clothes", date(2026, 3, 3))
        self.spends(5_000, "Clothes", date(2026, 4, 3))
        self.assertEqual(self.would("usual"), {self.clothes: 7_000})
        self.assertEqual(placing.fill(self.db, BY, MAY, [self.clothes], "usual").made.placed_minor, 7_000)
        self.assertIsNone(placing.fill(self.db, BY, MAY, [self.clothes], "usual").step_id)
        with self.assertRaises(InvalidInput):
            placing.fill(self.db, BY, MAY, [], "somehow")

    def test_half_of_the_bills_on_each_of_two_paydays(self):
        rhythm = Rhythm("FREQ=WEEKLY;INTERVAL=2", date(2026, 5, 8))
        keeping.add_series(self.db, BY, TypedSeries("Ferry", self.current, rhythm, 90_000, category_id=self.category("Pay")))
        expecting.set_expected(self.db, BY, self.groceries, MAY, 40_001)
        self.assertEqual(placing.paydays_of(self.db, MAY), [date(2026, 5, 8), date(2026, 5, 22)])
        self.assertEqual(self.would("payday"), {self.groceries: 20_001})
        late = By(date(2026, 5, 22), "2026-05-22T10:00:00Z", 1)
        view = budgeting.budget_view(self.db, late, MAY)
        self.assertEqual(placing.filling_of(self.db, late, view, [], "payday").placed_minor, 40_001)

    def test_small_change_is_swept_together_and_the_whole_stays(self):
        placing.place(self.db, BY, self.groceries, MAY, 1_237)
        placing.place(self.db, BY, self.clothes, MAY, 4_463)
        before = self.unplaced()
        done = placing.sweep(self.db, BY, MAY, [], self.holidays)
        self.assertEqual((done.made, self.unplaced()), (100, before))
        self.assertEqual(self.view().budget.row_of(self.holidays).left_minor, 100)
        with self.assertRaises(InvalidInput):
            placing.sweep(self.db, BY, MAY, [], self.holidays)

    def test_a_shortfall_is_met_by_several_together_as_one_step(self):
        placing.place(self.db, BY, self.clothes, MAY, 1_000)
        placing.place(self.db, BY, self.holidays, MAY, 2_500)
        self.spends(3_000)
        sources = shifting.sources_for(self.db, BY, self.view(), self.groceries, 3_000)
        self.assertEqual(
            [[(c.name, amount) for c, amount in one.parts] for one in sources], [[("Holidays", 2_500), ("Clothes", 500)]]
        )
        parts = [(c.id, amount) for c, amount in sources[0].parts]
        done = shifting.shift_several(self.db, BY, MAY, parts, self.groceries, "the guests")
        self.assertEqual(self.view().budget.row_of(self.groceries).left_minor, 0)
        for wrong in ([], [(self.clothes, 501)], [(self.groceries, 1)], [(self.clothes, 1), (self.clothes, 1)]):
            with self.assertRaises(InvalidInput):
                shifting.shift_several(self.db, BY, MAY, wrong, self.groceries)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(self.view().budget.row_of(self.groceries).left_minor, -3_000)

    def test_what_is_due_this_month_is_never_proposed(self):
        rent = keeping.TypedSeries(
            "Landlord", self.current, Rhythm("FREQ=MONTHLY", date(2026, 5, 28)), -2_000, category_id=self.holidays
        )
        keeping.add_series(self.db, BY, rent)
        placing.place(self.db, BY, self.holidays, MAY, 2_500)
        sources = shifting.sources_for(self.db, BY, self.view(), self.groceries, 0)
        self.assertEqual([one.amount_minor for one in sources], [500])

    def test_what_was_promised_and_is_not_there_is_taken_back_from_ahead_first(self):
        placing.place(self.db, BY, self.holidays, JUNE, 60_000)
        placing.place(self.db, BY, self.clothes, MAY, 40_000)
        self.spends(70_000)
        budget = self.view().budget
        self.assertEqual((budget.unplaced_minor, budget.row_of(self.groceries).left_minor), (0, -70_000))
        self.assertEqual(self.unplaced(JUNE), -70_000, "the shortfall of May is met from June")
        self.assertEqual(self.view(JUNE).returned_minor, 70_000)
        found = [(c.name, str(m), amount) for c, m, amount in shifting.promised_from(self.db, BY, self.view(JUNE))]
        self.assertEqual(found, [("Holidays", "2026-06", 60_000)])
        done = shifting.take_back_promised_money(self.db, BY, JUNE)
        self.assertEqual((done.made, self.unplaced(JUNE)), (60_000, -10_000))
        self.assertIsNone(shifting.take_back_promised_money(self.db, BY, MAY).step_id)

    def test_the_log_tells_each_act_with_its_undo(self):
        placing.place(self.db, BY, self.clothes, MAY, 4_000)
        expecting.set_expected(self.db, BY, self.groceries, MAY, 5_000)
        placing.fill(self.db, BY, MAY, [])
        shifted = shifting.shift(self.db, BY, MAY, self.clothes, self.holidays, 1_500, "a gift")
        placing.place(self.db, BY, self.clothes, JUNE, 99)
        log = shifting.list_log(self.db, MAY)
        self.assertEqual([step.amount_minor for step in log], [0, 5_000, 4_000])
        self.assertEqual((log[0].moved_minor, log[0].member, log[0].step_id), (1_500, "Ana", shifted.step_id))
        for step in log[1:] + log[:1]:  # in another order than they were made
            changes.undo_step(self.db, BY, step.step_id)
        self.assertEqual((shifting.list_log(self.db, MAY), self.unplaced(MAY)), ([], 100_000 - 99))

    def test_how_long_the_money_lasts_counts_full_months_only(self):
        self.assertIsNone(self.view().days_lasting)
        self.spends(10_000, day=date(2026, 4, 2))
        self.spends(999, day=date(2026, 5, 2))
        view = self.view()
        self.assertEqual((view.usual_minor, view.full_months), (10_000, 1))
        self.assertEqual(view.days_lasting, (100_000 - 10_999) * 365 // 120_000)


if __name__ == "__main__":
    unittest.main()
