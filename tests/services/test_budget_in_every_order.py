"""What falsified a budget once, each by the promise that was broken."""

import unittest
from datetime import date

from bolsa.core.months import Month
from bolsa.errors import InvalidInput
from bolsa.services import changes
from bolsa.services.accounts import accounts
from bolsa.services.budget import budgeting, expecting, placing
from bolsa.services.budget.workings import WORKINGS
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from tests.services.household import BY, OrderCase


class Placing(OrderCase):
    def setUp(self):
        super().setUp()
        self.groceries, self.household = self.category("Groceries"), self.category("Household")

    def unplaced(self, month):
        return budgeting.budget_view(self.db, BY, month).budget.unplaced_minor

    def test_a_past_month_is_filled_with_no_more_than_is_there_in_every_month_since(self):
        self.spends(80_000, category="Household", day=date(2026, 4, 10))
        expecting.set_expected(self.db, BY, self.groceries, Month(2026, 3), 60_000)
        expecting.set_expected(self.db, BY, self.groceries, Month(2026, 4), 0)
        filled = placing.fill(self.db, BY, Month(2026, 3), []).made
        self.assertEqual(filled.placed_minor, 20_000)
        self.assertEqual([self.unplaced(Month(2026, m)) >= 0 for m in (3, 4, 5)], [True, True, True])

    def test_a_coming_month_is_filled_with_no_more_than_is_there_now(self):
        entries.record_entry(self.db, BY, self.current, TypedEntry(date(2026, 6, 1), "Pay to come", 50_000))
        expecting.set_expected(self.db, BY, self.groceries, Month(2026, 6), 120_000)
        filled = placing.fill(self.db, BY, Month(2026, 6), []).made
        self.assertEqual(filled.placed_minor, 100_000)
        self.assertEqual(self.unplaced(Month(2026, 5)), 0)

    def test_by_hand_no_more_is_placed_than_is_there_either(self):
        self.spends(80_000, category="Household", day=date(2026, 4, 10))
        for month, most in ((Month(2026, 3), 20_000), (Month(2026, 5), 20_000), (Month(2026, 7), 20_000)):
            with self.assertRaisesRegex(InvalidInput, "200.00 EUR is there to be placed"):
                placing.place(self.db, BY, self.groceries, month, most + 1)
            placed = placing.place(self.db, BY, self.groceries, month, most)
            changes.undo_step(self.db, BY, placed.step_id)


class Totals(OrderCase):
    def test_a_groups_total_counts_what_is_hidden(self):
        self.spends(-5_000, account=self.reserve)
        before = {group.name: group.total_minor for group in accounts.account_groups(self.db)}
        accounts.set_shown(self.db, BY, self.reserve, False)
        after = {group.name: (group.total_minor, len(group.states), group.hidden) for group in accounts.account_groups(self.db)}
        self.assertEqual(before, {"Everyday": 105_000})
        self.assertEqual(after, {"Everyday": (105_000, 1, 1)})
        accounts.set_shown(self.db, BY, self.current, False)
        self.assertEqual([(g.total_minor, g.states) for g in accounts.account_groups(self.db)], [(105_000, ())])


class SetByAbroad(OrderCase):
    def setUp(self):
        super().setUp()
        self.kronor = self.an_account("Kronor", "savings", currency="SEK")
        self.groceries = self.category("Groceries")

    def figures(self):
        view = budgeting.budget_view(self.db, BY, Month(2026, 5))
        row = view.budget.row_of(self.groceries)
        working = WORKINGS["spent"](self.db, BY, str(self.groceries), Month(2026, 5))
        return row.spent_minor, view.budget.unplaced_minor, working.figure.minor

    def test_money_set_by_into_another_currency_leaves_the_budget_with_the_home_amount(self):
        more = {"other_amount_minor": 100_000, "set_by_id": self.groceries}
        made = self.moves(self.current, self.kronor, 11_500, date(2026, 5, 2), **more)
        self.assertEqual(self.figures(), (11_500, 100_000, 11_500))
        back = self.moves(self.kronor, self.current, 50_000, date(2026, 5, 3), other_amount_minor=5_600, set_by_id=self.groceries)
        self.assertEqual(self.figures(), (11_500 - 5_600, 100_000, 11_500 - 5_600))
        changes.undo_step(self.db, BY, back.step_id)
        changes.undo_step(self.db, BY, made.step_id)
        self.assertEqual(self.figures(), (0, 100_000, 0))


class NotSorted(OrderCase):
    def comes(self, amount_minor):
        entries.record_entry(self.db, BY, self.current, TypedEntry(date(2026, 5, 2), "Sluice", amount_minor))

    def test_what_came_in_and_what_went_out_show_on_the_ribbon_before_they_are_sorted(self):
        self.an_account("Card", "card", opening_minor=-70_000)  # an old debt is nobody's spending
        self.comes(300_000)
        self.comes(-200_000)
        self.spends(1_000)
        month = budgeting.ribbon(self.db, "EUR", Month(2026, 5), Month(2026, 5))[0]
        self.assertEqual((month.in_minor, month.out_minor), (300_000, 201_000))

    def test_two_that_cancel_out_are_still_named(self):
        self.comes(10_000)
        self.comes(-10_000)
        named = budgeting.budget_view(self.db, BY, Month(2026, 5)).outside
        self.assertEqual([(one.name, one.amount_minor) for one in named], [("Not sorted yet", 0)])


if __name__ == "__main__":
    unittest.main()
