"""The budget through the services: placing, filling in order, shifting, months past and ahead, spending with no plan."""

import unittest
from datetime import date

from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.budget import budgeting, expecting, placing, shifting, year
from bolsa.services.ledger import entries
from bolsa.services.sorting import categories
from tests.services.household import BY, HouseholdCase

JANUARY, APRIL, MAY, JUNE = Month(2026, 1), Month(2026, 4), Month(2026, 5), Month(2026, 6)


class Budgeting(HouseholdCase):
    def view(self, month=MAY):
        return budgeting.budget_view(self.db, BY, month)

    def row(self, name, month=MAY):
        return self.view(month).budget.row_of(self.category(name))

    def expects(self, name, amount, month=MAY):
        return expecting.set_expected(self.db, BY, self.category(name), month, amount)

    def places(self, name, amount, month=MAY):
        return placing.place(self.db, BY, self.category(name), month, amount)

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
        done = placing.fill(self.db, BY, MAY, [])
        filling, step_id = done.made, done.step_id
        self.assertTrue(filling.is_short)
        self.assertEqual([self.row(n).placed_minor for n in ("Groceries", "Clothes", "Holidays")], [60_000, 30_000, 10_000])
        changes.undo_step(self.db, BY, step_id)
        for _ in range(3):
            categories.move_category(self.db, BY, self.category("Clothes"), -1)
        self.expects("Groceries", 95_000)
        placing.fill(self.db, BY, MAY, [])
        self.assertEqual([self.row(n).placed_minor for n in ("Clothes", "Groceries", "Holidays")], [30_000, 70_000, 0])

    def test_filling_a_selection_leaves_the_others(self):
        for name in ("Groceries", "Clothes"):
            self.expects(name, 10_000)
        placing.fill(self.db, BY, MAY, [self.category("Clothes")])
        self.assertEqual((self.row("Groceries").placed_minor, self.row("Clothes").placed_minor), (0, 10_000))
        self.assertIsNone(placing.fill(self.db, BY, MAY, [self.category("Clothes")]).step_id)

    def test_taking_back_returns_what_is_not_spent(self):
        self.places("Groceries", 20_000)
        self.spends(4_500)
        amount = placing.take_back(self.db, BY, MAY, [self.category("Groceries")]).made
        self.assertEqual((amount, self.row("Groceries").left_minor), (15_500, 0))
        self.assertIsNone(placing.take_back(self.db, BY, MAY, [self.category("Groceries")]).step_id)

    def test_shifts_keep_their_reason_and_their_bounds(self):
        self.places("Holidays", 20_000)
        ids = self.category("Holidays"), self.category("Groceries")
        shifting.shift(self.db, BY, MAY, *ids, 8_000, "the heater")
        self.assertEqual((self.row("Holidays").left_minor, self.row("Groceries").left_minor), (12_000, 8_000))
        for wrong in ((*ids, 12_001), (*ids, 0), (*ids, -5), (ids[0], ids[0], 5)):
            with self.subTest(wrong), self.assertRaises(InvalidInput):
                shifting.shift(self.db, BY, MAY, *wrong)

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
            placing.fill(self.db, BY, month, [])
        # What carries over from May lessens June's need: twenty thousand once covers both until it is spent.
        self.assertEqual(self.view().budget.covered_until, MAY + 24)
        self.spends(20_000)
        self.assertEqual(self.view().budget.covered_until, MAY)

    def test_a_category_out_of_the_budget_cannot_be_placed_into(self):
        for name in ("Pay", "Not sorted yet"):
            with self.subTest(name), self.assertRaises(InvalidInput):
                self.places(name, 100)


class TheYear(HouseholdCase):
    def view(self, first=JANUARY):
        return year.year_view(self.db, BY, first)

    def test_usual_amounts_are_taken_by_one_step_and_undone_whole(self):
        for month in (2, 3, 4):
            self.spends(3_000 * month, "Groceries", date(2026, month, 10))
        self.spends(99_999, "Groceries")
        self.assertEqual([(c.name, row.usual_minor) for c, row in self.view().offered], [("Groceries", 9_000)])
        done = year.take_usual(self.db, BY, Month(2026, 1))
        self.assertEqual((done.made, self.view().offered), (1, ()))
        groceries = self.view().year.row_of(self.category("Groceries"))
        self.assertEqual([cell.expected_minor for cell in groceries.cells], [0] * 4 + [9_000] * 8)
        changes.undo_step(self.db, BY, done.step_id)
        self.assertEqual(len(self.view().offered), 1)

    def test_a_half_yearly_bill_stands_in_both_views(self):
        lease = self.category("Holidays")
        expecting.set_expected(self.db, BY, lease, JUNE, 129_000, every=6)
        expected = [cell.expected_minor for cell in self.view().year.row_of(lease).cells]
        self.assertEqual(expected, [0] * 5 + [129_000] + [0] * 5 + [129_000])
        for month, need in ((JUNE, 129_000), (Month(2026, 7), 0), (Month(2027, 6), 129_000)):
            self.assertEqual(budgeting.budget_view(self.db, BY, month).budget.row_of(lease).expected_minor, need)

    def test_income_is_expected_too_and_what_bolsa_keeps_is_not(self):
        pay = self.category("Pay")
        expecting.set_expected(self.db, BY, pay, MAY, 250_000)
        self.spends(-240_000, "Pay", APRIL.day(8))
        whole = self.view().year
        self.assertEqual((whole.came_in[3], whole.came_in[4]), (240_000, 250_000))
        for category_id in (1, 2, 3):
            with self.assertRaises(InvalidInput):
                expecting.set_expected(self.db, BY, category_id, MAY, 100)

    def test_what_is_spent_without_a_plan_is_in_the_sums(self):
        entries.record_quick_line(self.db, BY, self.current, "Grebe 12.50 2026-04-03")
        whole = self.view().year
        self.assertEqual((whole.outside[3], whole.went_out[3]), (1_250, 1_250))


if __name__ == "__main__":
    unittest.main()
