"""The year of the budget: laid out from usual amounts, changed cell by cell with keys."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class TheYear(Story):
    def test_a_year_is_laid_out_from_usual_amounts_with_a_half_yearly_bill(self):
        v = self.visitor
        v.goes_to("/budget")
        v.clicks("Lay out the year", role="link")
        before = v.headline
        self.assertIn("Port Halden Ferry Company comes three times in", v.text)
        v.presses("a")
        expect(v.page.locator("[role=status]")).to_contain_text("Took the usual amounts of 2 categories")
        self.assertNotEqual(v.headline, before)
        expect(v.page.get_by_role("button", name="Take two usual amounts")).to_have_count(0)
        cell = v.page.get_by_label("New kiln, June 2026, expected")
        cell.click()
        cell.fill("1290 every 6")
        cell.press("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("The expected amount is set")
        expect(v.page.get_by_label("A winter in the south, June 2026, expected")).to_be_focused()
        expect(v.page.get_by_label("New kiln, June 2026, expected")).to_have_value("1,290")
        expect(v.page.get_by_label("New kiln, December 2026, expected")).to_have_attribute("placeholder", "1,290")
        expect(v.page.get_by_label("New kiln, November 2026, expected")).to_have_attribute("placeholder", "–")
        v.page.get_by_label("New kiln, June 2026, expected").focus()
        expect(v.page.get_by_label("New kiln, June 2026, expected")).to_have_value("1,290 every 6")
        v.presses("Escape")
        v.goes_to("/budget/year?first=2027-01")
        expect(v.page.get_by_label("New kiln, June 2027, expected")).to_have_attribute("placeholder", "1,290")

    def test_nonsense_is_answered_and_once_is_once(self):
        v = self.visitor
        v.goes_to("/budget/year")
        before = v.headline
        cell = v.page.get_by_label("Groceries, October 2026, expected")
        cell.fill("640 every soon")
        cell.press("Tab")
        expect(v.page.locator("[role=status]")).to_contain_text("“every soon” is no rhythm")
        self.assertEqual(v.headline, before)
        cell = v.page.get_by_label("Groceries, October 2026, expected")
        cell.fill("900 once")
        cell.press("Tab")
        expect(v.page.get_by_label("Groceries, October 2026, expected")).to_have_value("900")
        expect(v.page.get_by_label("Groceries, November 2026, expected")).to_have_attribute("placeholder", "640")
        v.clicks("Undo")
        expect(v.page.get_by_label("Groceries, October 2026, expected")).to_have_value("")
