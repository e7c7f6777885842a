"""The long view: a plan that breaks in a year, mended by buying cheaper, another thing left out, compared."""

from playwright.sync_api import expect

from tests.stories.visitor import NARROW, Story


class LongView(Story):
    def test_a_plan_that_breaks_is_mended_by_buying_cheaper_another_thing_left_out_and_compared(self):
        v = self.visitor
        v.goes_to("/")
        v.goes_by_keys("l")
        self.assertIn("As it stands, money lasts until 2075, six years short", v.headline)
        self.assertIn("2076, opened", v.text)
        line = v.page.locator("#mends li", has_text="A house ashore for")
        expect(line).to_contain_text("instead of €150,000.00")
        v.presses("5")
        expect(v.page.locator("[role=status]")).to_contain_text("Kept the case A house ashore for €117,750.00")
        self.assertIn("money lasts to the end of 2081", v.headline)
        row = v.page.locator("tr[data-row]", has_text="Mika studies")
        row.get_by_role("button", name="Leave it out").click()
        v.settles()
        expect(v.page.locator("tr[data-row]", has_text="Mika studies")).to_contain_text("left out")
        cases = v.page.locator("table", has_text="Lasts").last
        expect(cases).to_contain_text("until 2075")
        expect(cases).to_contain_text("to 2081")
        v.presses("u")
        expect(v.page.locator("tr[data-row]", has_text="Mika studies")).to_contain_text("Leave it out")
        v.goes_to("/ahead?case=2")
        v.page.reload()
        self.assertIn("money lasts to the end of 2081", v.headline)
        v.opens_slip(v.page.locator("h1 a.fig").inner_text())
        v.presses("Escape")

    def test_a_plan_is_changed_nonsense_is_refused_and_nothing_is_lost(self):
        v = self.visitor
        v.goes_to("/ahead")
        v.clicks("Change the plan", role="link")
        v.page.get_by_label("Costs").nth(2).fill("a lot")
        v.page.get_by_label("What is planned").nth(3).fill("A boat for Mika")
        v.clicks("Keep the plan")
        expect(v.page.get_by_role("alert")).to_contain_text("a lot")
        v.problems.clear()  # the browser notes the 400
        expect(v.page.get_by_label("What is planned").nth(3)).to_have_value("A boat for Mika")
        v.page.get_by_label("Costs").nth(2).fill("90000")
        v.page.get_by_label("Year", exact=True).nth(3).fill("2031")
        v.page.get_by_label("Costs").nth(3).fill("2500")
        v.fills("The case is called", "A smaller house")
        v.clicks("Keep it as a new case")
        expect(v.page.locator("[role=status]")).to_contain_text("Kept the case A smaller house")
        self.assertIn("A boat for Mika", v.text)
        v.page.set_viewport_size(NARROW)
        for path in ("/ahead", "/ahead/1/plan", "/ahead/1/mends"):
            v.goes_to(path)
            self.assertFalse(v.page.evaluate("document.documentElement.scrollWidth > innerWidth"), path)
