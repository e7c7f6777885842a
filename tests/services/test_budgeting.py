"""The budget through the services: placing, filling in order, shifting, months past and ahead, spending with no plan."""

import unittest
from datetime import date

from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting
from bolsa.services.sorting import categories
from tests.services.household import BY, HouseholdCase

APRIL, MAY, JUNE = Month(2026, 4), Month(2026, 5), Month(2026, 6)


class Budgeting(HouseholdCase):
    def view(self, month=MAY):
        return budgeting.budget_view(self.db, BY, month)

    def row(self, name, month=MAY):
        return self.view(month).budget.row_of(self.category(name))

    def expects(self, name, amount, month=MAY):
        return budgeting.set_expected(self.db, BY, self.category(name), month, amount)

    def places(self, name, amount, month=MAY):
        return budgeting.place(self.db, BY, self.category(name), month, amount)

    def test_the_equation_and_what_is_placed_ahead(self):
        self.places("Groceries", 20_000)
        self.places("Holidays", 30_000, JUNE)
        self.spends(4_500)
        figures = self.view().budget
        self.assertEqual((figures.balance_minor, figures.lefts_minor, figures.placed_later_minor), (95_500, 15_500, 30_000))
        self.assertEqual(figures.unplaced_minor, 50_000)
        self.assertEqual(self.view(JUNE).budget.unplaced_minor, 50_000)

    def test_a_month_that_is_past_knows_nothing_of_what_was_placed_since(self):
        self.places("Groceries", 20_000)
        self.assertEqual(self.view(APRIL).budget.unplaced_minor, 100_000)

    def test_clearing_a_figure_lets_the_former_carry_on(self):
        self.expects("Groceries", 60_000, APRIL)
        self.expects("Groceries", 10_000)
        self.assertTrue(self.row("Groceries").is_hand_set)
        self.expects("Groceries", None)
        self.assertEqual((self.row("Groceries").expected_minor, self.row("Groceries").is_hand_set), (60_000, False))

    def test_filling_goes_by_the_households_order(self):
        for name, amount in (("Groceries", 60_000), ("Clothes", 30_000), ("Holidays", 50_000)):
            self.expects(name, amount)
        done = budgeting.fill(self.db, BY, MAY, [])
        filling, step_id = done.made, done.step_id
        self.assertTrue(filling.is_short)
        self.assertEqual([self.row(n).placed_minor for n in ("Groceries", "Clothes", "Holidays")], [60_000, 30_000, 10_000])
        changes.undo_step(self.db, BY, step_id)
        for _ in range(3):
            categories.move_category(self.db, BY, self.category("Clothes"), -1)
        self.expects("Groceries", 95_000)
        budgeting.fill(self.db, BY, MAY, [])
        self.assertEqual([self.row(n).placed_minor for n in ("Clothes", "Groceries", "Holidays")], [30_000, 70_000, 0])

    def test_filling_a_selection_leaves_the_others(self):
        for name in ("Groceries", "Clothes"):
            self.expects(name, 10_000)
        budgeting.fill(self.db, BY, MAY, [self.category("Clothes")])
        self.assertEqual((self.row("Groceries").placed_minor, self.row("Clothes").placed_minor), (0, 10_000))
        self.assertIsNone(budgeting.fill(self.db, BY, MAY, [self.category("Clothes")]).step_id)

    def test_taking_back_returns_what_is_not_spent(self):
        self.places("Groceries", 20_000)
        self.spends(4_500)
        amount = budgeting.take_back(self.db, BY, MAY, [self.category("Groceries")]).made
        self.assertEqual((amount, self.row("Groceries").left_minor), (15_500, 0))
        self.assertIsNone(budgeting.take_back(self.db, BY, MAY, [self.category("Groceries")]).step_id)

    def test_shifts_keep_their_reason_and_their_bounds(self):
        self.places("Holidays", 20_000)
        ids = self.category("Holidays"), self.category("Groceries")
        budgeting.shift(self.db, BY, MAY, *ids, 8_000, "the heater")
        self.assertEqual((self.row("Holidays").left_minor, self.row("Groceries").left_minor), (12_000, 8_000))
        for wrong in ((*ids, 12_001), (*ids, 0), (*ids, -5), (ids[0], ids[0], 5)):
            with self.subTest(wrong), self.assertRaises(InvalidInput):
                budgeting.shift(self.db, BY, MAY, *wrong)

    def test_more_than_was_placed_cannot_be_taken_back(self):
        self.places("Groceries", 1_000)
        with self.assertRaisesRegex(InvalidInput, "Less than that was placed"):
            self.places("Groceries", -1_001)

    def test_spending_with_no_plan_falls_through_nowhere(self):
        self.spends(2_000, "Unexplained")
        categories.change_category(self.db, BY, self.category("Unexplained"), "Money", name="Unexplained", in_budget=False)
        from bolsa.services.ledger import entries

        entries.record_entry(self.db, BY, self.current, entries.TypedEntry(date(2026, 5, 3), "Who knows", -700))
        view = self.view()
        self.assertEqual({(o.name, o.amount_minor) for o in view.outside}, {("Not sorted yet", 700), ("Unexplained", 2_000)})
        self.assertEqual(view.budget.unplaced_minor, 97_300)

    def test_covered_until_counts_the_months_that_are_filled_ahead(self):
        self.expects("Groceries", 20_000)
        for month in (MAY, JUNE):
            budgeting.fill(self.db, BY, month, [])
        # What carries over from May lessens June's need: twenty thousand once covers both until it is spent.
        self.assertEqual(self.view().budget.covered_until, MAY + 24)
        self.spends(20_000)
        self.assertEqual(self.view().budget.covered_until, MAY)

    def test_a_category_out_of_the_budget_cannot_be_placed_into(self):
        for name in ("Pay", "Not sorted yet"):
            with self.subTest(name), self.assertRaises(InvalidInput):
                self.places(name, 100)


if __name__ == "__main__":
    unittest.main()
