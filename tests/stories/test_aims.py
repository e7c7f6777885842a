"""Aims as sentences: a half-yearly bill met without strain, an amount built up, goals with a sign, the order by drag and keys."""

import unittest

from playwright.sync_api import expect

from tests.services.household import picture
from tests.stories.visitor import NARROW, Story


class Aims(Story):
    def test_a_half_yearly_bill_is_met_without_strain(self):
        v = self.visitor
        v.goes_to("/budget/year")
        cell = v.page.get_by_label("Cargo bike, July 2026, expected")
        cell.fill("180 every 6")
        v.presses("Enter")
        v.settles()
        v.goes_to("/budget?open=24&aim=1")
        v.page.get_by_label("Spread: put by month after month").check()
        expect(v.page.locator("#needs .readout")).to_be_visible()
        v.clicks("Set this aim")
        expect(v.page.locator("[role=status]")).to_contain_text("Set the aim of Cargo bike: spread over the months before")
        self.assertIn("Spread: €", v.text)
        needed = v.page.locator("tr:has(#row-24) td[data-label=need]").inner_text()
        v.page.get_by_label("Choose Cargo bike").check()
        expect(v.page.locator(".foot")).to_contain_text(f"They still need €{needed}")

    def test_an_aim_is_tried_before_it_is_kept_and_what_cannot_be_says_why(self):
        v = self.visitor
        v.goes_to("/budget?open=29&aim=1")
        v.page.get_by_label("Build up", exact=False).first.check()
        v.fills("Build up, how much", "600")
        v.fills("By when", "yesterday")
        expect(v.page.locator("#needs")).to_contain_text("That day is past")
        v.fills("By when", "31/10/2026")
        expect(v.page.locator("#needs .readout")).to_contain_text("needed")
        self.assertIn("Keep: €100.00", v.text)
        v.clicks("Set this aim")
        self.assertIn("Build up: €600.00 by the end of October 2026", v.text)
        v.clicks("Undo")
        v.goes_to("/budget?open=29")
        self.assertIn("Keep: €100.00", v.text)

    def test_goals_have_a_page_with_a_sign_or_a_picture(self):
        v = self.visitor
        v.goes_to("/budget")
        v.clicks("Goals", role="link")
        self.assertIn("Four goals need", v.headline)
        self.assertIn("At €", v.text)
        goal = v.page.get_by_role("region", name="New kiln")
        goal.get_by_text("Its sign").click()
        goal.get_by_label("or a picture").set_input_files(
            {"name": "kiln.png", "mimeType": "image/png", "buffer": picture((60, 60))}
        )
        goal.get_by_role("button", name="Keep it").click()
        v.settles()
        expect(v.page.get_by_role("region", name="New kiln").locator(".sign img")).to_be_visible()
        self.assert_accessible()
        v.page.set_viewport_size(NARROW)
        self.assertLessEqual(v.page.evaluate("document.documentElement.scrollWidth"), 380)

    def test_the_order_is_changed_by_drag_and_by_keys(self):
        v = self.visitor
        v.goes_to("/budget/order")
        v.page.locator("tr[data-id]", has_text="Eating out").drag_to(v.page.locator("tr[data-id]").first)
        v.settles()
        self.assertIn("Money goes to Eating out first", v.headline)
        v.presses("j")
        v.presses_and_waits("J")
        self.assertIn("Money goes to Groceries first", v.headline)
        v.goes_to("/budget")
        v.goes_to("/budget/order")
        self.assertIn("Money goes to Groceries first", v.headline)
        self.assert_accessible()


if __name__ == "__main__":
    unittest.main()
