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

    def test_a_kept_case_is_carried_out_into_the_budget_and_reminders_and_undone_whole(self):
        v = self.visitor
        v.goes_to("/ahead")
        expect(v.page.locator("h1")).to_contain_text("six single changes would mend it")
        v.clicks("Carry it out", role="link")
        self.assertIn("asks for two amounts to put by", v.headline)
        v.page.get_by_label("Category for Mika studies").select_option("")
        v.page.get_by_label("Artists’ fund begins").uncheck()
        self.assert_accessible()
        v.presses("a")
        expect(v.page.locator("[role=status]")).to_contain_text("Carried out As it stands")
        v.goes_to("/budget/year?first=2026-06")
        row = v.page.locator("tr[data-row]", has_text="Re-plating the Alkyon")
        expect(row.locator("input.cell").first).to_have_value("451.62")
        v.goes_to("/due")
        expect(v.page.locator("#reminders")).to_contain_text("Re-plating the Alkyon is planned for 2029")
        self.assertNotIn("Artists’ fund begins", v.text)
        v.page.get_by_role("textbox", name="On the day").fill("20 may")
        v.page.get_by_label("Remind us of").fill("call the yard")
        v.clicks("Remind us")
        v.settles()
        v.goes_to("/")
        expect(v.page.locator("div.my-1", has_text="call the yard")).to_contain_text("20 May 2026")
        v.page.locator("div.my-1", has_text="call the yard").get_by_role("button", name="Done").click()
        expect(v.page.locator("[role=status]")).to_contain_text("Done: call the yard")
        v.goes_to("/house")
        v.page.locator("tr, li", has_text="Carried out As it stands").get_by_role("button", name="Undo").first.click()
        v.settles()
        v.goes_to("/budget/year?first=2026-06")
        expect(v.page.locator("tr[data-row]", has_text="Re-plating the Alkyon")).to_have_count(0)
        v.goes_to("/due")
        self.assertNotIn("Re-plating the Alkyon is planned", v.text)
