"""The budget's rows: choosing, filling, taking back, shifting, expecting."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Budgeting(Story):
    def test_choosing_rows_fills_the_foot_bar_and_taking_back_returns_money(self):
        v = self.visitor
        v.goes_to("/budget")
        v.presses("j", "x")
        expect(v.page.locator(".foot")).to_contain_text("1 chosen")
        v.clicks("Take back")
        self.assertIn("Took back €", v.text)
        self.assertIn("is unplaced", v.headline)
        v.presses("x")
        expect(v.page.locator(".foot")).to_contain_text("Would remain")
        v.clicks("Fill these needs")
        expect(v.page.locator("[role=status]")).to_contain_text("Placed €")
        self.assertIn("All is placed", v.headline)

    def test_a_category_that_is_over_is_met_from_another_with_the_reason_kept(self):
        v = self.visitor
        v.goes_to("/budget")
        row = v.page.locator("tr:has-text('Household')").first
        self.assertIn("over 84.69", row.inner_text())
        row.get_by_role("link", name="Household").click()
        v.fills("Reason", "the galley heater")
        v.clicks("Shift it")
        self.assertNotIn("over", v.page.locator("tr:has-text('Household')").first.inner_text())
        v.goes_to("/working/left/8")
        self.assertIn("the galley heater", v.text)
        v.goes_to("/budget?open=8")

    def test_six_hundred_twice_a_year_is_three_entries(self):
        v = self.visitor
        for month, amount in (("2026-06", "600"), ("2026-07", "0"), ("2026-12", "600")):
            v.goes_to(f"/budget?month={month}&open=19")
            v.page.get_by_label("Expected from").fill(amount)
            v.clicks("Set")
        v.goes_to("/budget?month=2026-09&open=19")
        self.assertIn("€0.00 expected (set in July 2026 and carried on)", v.text)

    def test_a_bad_amount_is_answered_and_nothing_changes(self):
        v = self.visitor
        v.goes_to("/budget")
        before = v.headline
        field = v.page.get_by_label("Placed for Groceries")
        field.fill("lots")
        field.press("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("“lots” is not an amount")
        self.assertEqual(v.headline, before)
