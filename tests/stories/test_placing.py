"""Placing by the month: a payday to zero with a shortfall met, two months ahead, too little money, and the log."""

import contextlib
import re
import unittest
from datetime import date

from playwright.sync_api import expect

from bolsa.core.ledger.entries import Part
from bolsa.core.months import Month
from bolsa.services.budget import budgeting
from bolsa.services.clock import By
from bolsa.services.house import files
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.sorting.categories import find_category_named
from tests.stories.visitor import Story

BY = By(date(2026, 5, 14), "2026-05-14T10:00:00Z", 1)


class Placing(Story):
    def comes(self, amount_minor):
        """A pay that is there and sorted: what the stories begin with."""
        with contextlib.closing(files.make_file(self.path)) as db:
            pay = find_category_named(db, "Noor’s pay").id
            entries.record_entry(db, BY, 1, TypedEntry(BY.today, "Ferry Company", amount_minor, (Part(pay, -amount_minor),)))

    def unplaced(self, month="2026-05"):
        with contextlib.closing(files.make_file(self.path)) as db:
            return budgeting.budget_view(db, BY, Month.parse(month)).budget.unplaced_minor

    def row(self, name):
        return self.visitor.page.locator("#budget-table tr[data-row]", has_text=name).first

    def test_a_payday_is_placed_to_zero_with_one_shortfall_shifted(self):
        v = self.visitor
        self.comes(124_000)
        v.goes_to("/budget")
        self.assertIn("€1,240.00 is unplaced", v.headline)
        self.row("Upkeep").get_by_role("link", name="Upkeep").click()
        expect(v.page.get_by_label("Amount", exact=True)).to_have_value("76.31")
        v.fills("Reason", "new fenders")
        v.clicks("Shift it")
        self.assertNotIn("over", self.row("Upkeep").inner_text())
        self.assertIn("new fenders", v.text)
        v.clicks("Fill all needs in order")
        expect(v.page.locator("[role=status]")).to_contain_text("is still missing")
        self.assertIn("All is placed", v.headline)
        self.assertEqual(self.unplaced(), 0)

    def test_two_months_ahead_are_filled_and_the_page_says_how_far_it_is_covered(self):
        v = self.visitor
        self.comes(1_200_000)
        for month, words in (("2026-05", "May"), ("2026-06", "June"), ("2026-07", "July")):
            v.goes_to(f"/budget?month={month}")
            v.clicks("Fill all needs in order")
            self.assertIn("Placed €", v.text, words)
        v.goes_to("/budget?month=2026-05")
        self.assertRegex(v.text, r"Covered until the end of (July|August) 2026, (two|three) months ahead")
        self.assertIn("placed in later months", v.text)
        self.assertGreaterEqual(self.unplaced(), 0)

    def test_with_less_money_than_needs_the_first_in_order_get_it_and_the_rest_is_named(self):
        v = self.visitor
        self.comes(10_000)
        v.goes_to("/budget/order")
        row = v.page.locator("tr[data-id]", has_text="Power and water")
        row.hover()
        row.get_by_role("button", name="Move Power and water to the top").click()
        v.settles()
        self.assertIn("Money goes to Power and water first", v.headline)
        v.goes_to("/budget")
        for name in ("Power and water", "Fuel and gas"):
            v.page.get_by_label(f"Choose {name}").check()
        foot = v.page.locator(".foot")
        expect(foot).to_contain_text("They still need €161.90")
        expect(foot).to_contain_text("There is €100.00")
        v.clicks("Fill as far as it goes")
        expect(v.page.get_by_label("Placed for Power and water")).to_have_value("91.90")
        expect(v.page.get_by_label("Placed for Fuel and gas")).to_have_value("8.10")
        expect(v.page.locator("[role=status]")).to_contain_text("€61.90 is still missing")

    def test_step_keys_show_the_arithmetic_and_the_log_undoes_each_act(self):
        v = self.visitor
        self.comes(50_000)
        v.goes_to("/budget")
        cell = v.page.get_by_label("Placed for Subscriptions")
        cell.focus()
        v.presses("ArrowUp", "ArrowUp", "Shift+ArrowUp")
        self.assertEqual(cell.input_value(), "0.00+21")
        v.presses_and_waits("Enter")
        expect(v.page.get_by_label("Placed for Subscriptions")).to_have_value("21.00")
        v.clicks("What was placed", role="link")
        v.page.locator("tr.group", has_text="Placed money for Subscriptions").get_by_role("button", name="Undo").click()
        v.settles()
        v.goes_to("/budget")
        expect(v.page.get_by_label("Placed for Subscriptions")).to_have_value("0.00")

    def test_in_other_ways_as_last_month_and_small_change_swept(self):
        v = self.visitor
        self.comes(90_000)
        v.goes_to("/budget")
        v.page.get_by_label("Choose Studio rent").check()
        v.clicks("As last month")
        expect(v.page.get_by_label("Placed for Studio rent")).not_to_have_value("0.00")
        self.row("Presents").get_by_role("link", name="Presents").click()
        v.clicks("Sweep the small change of all others here")
        expect(v.page.locator("[role=status]")).to_contain_text("of small change together")
        v.clicks("Undo")

    def test_spending_without_a_plan_opens_to_its_entries_and_is_moved_in_place(self):
        v = self.visitor
        v.goes_to("/budget")
        v.clicks("Not sorted yet", role="link")
        mover = v.page.get_by_label(re.compile("^Move .* to$")).first
        before = self.row("Fuel and gas").inner_text()
        v.picks(mover, "Fuel and gas")
        mover.locator("xpath=ancestor::form").get_by_role("button", name="Move").click()
        v.settles()
        self.assertNotEqual(self.row("Fuel and gas").inner_text(), before)


if __name__ == "__main__":
    unittest.main()
