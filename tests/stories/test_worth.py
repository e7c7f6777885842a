"""Net worth looked at: two missing loan months filled, a tree shut and turned, investments alone, by week and by year."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Worth(Story):
    def net(self):
        return self.visitor.page.locator("h1 a.fig").first.inner_text()

    def test_two_missing_loan_months_are_found_and_filled_and_undone(self):
        v = self.visitor
        v.goes_to("/")
        v.goes_by_keys("w")
        v.settles()
        before = self.net()
        hole = v.page.locator("li", has_text="Barge loan never heard of two payments")
        expect(hole).to_contain_text("2 February 2026, 2 March 2026")
        self.assertEqual(v.page.locator("svg [fill='url(#hole)']").count(), 6)  # one is older than the picture
        hole.get_by_role("button", name="Fill with the payments found").click()
        v.settles()
        expect(v.page.locator("[role=status]")).to_contain_text("Filled 2 payments into Barge loan")
        self.assertNotIn("never heard of", v.text)
        self.assertNotEqual(self.net(), before)
        v.page.locator("[role=status]").get_by_role("button", name="Undo").click()
        v.settles()
        expect(v.page.locator("li", has_text="Barge loan never heard of two payments")).to_be_visible()
        self.assertEqual(self.net(), before)

    def test_a_tree_is_shut_and_turned_and_one_class_stands_alone(self):
        v = self.visitor
        v.goes_to("/worth")
        whole = self.net()
        branch = v.page.locator(".branch", has_text="Invested").first
        branch.locator("summary").first.click()
        expect(branch.locator("li").first).to_be_hidden()
        v.page.locator(".tree").locator("xpath=..").get_by_role("link", name="purpose", exact=True).first.click()
        self.assertIn("Arranged by purpose.", v.text)
        expect(v.page.locator(".tree .total")).to_contain_text(whole.lstrip("€"))
        v.page.get_by_role("link", name="class", exact=True).first.click()
        v.page.get_by_role("link", name="Invested", exact=True).click()
        self.assertIn("Invested comes to", v.headline)
        words = v.opens_slip(self.net())
        self.assertIn("Ferry pension", words)
        self.assertNotIn("Household current", words)
        v.page.get_by_role("link", name="All again").click()
        self.assertEqual(self.net(), whole)

    def test_by_week_and_by_year_the_picture_answers_keys_and_nonsense_is_answered_in_words(self):
        v = self.visitor
        v.goes_to("/worth")
        v.page.get_by_role("link", name="week", exact=True).click()
        v.settles()
        picture = v.page.locator("[data-picture]")
        picture.focus()
        v.presses("Home")
        expect(picture.locator(".readout")).to_contain_text("2025")
        v.page.get_by_role("link", name="year", exact=True).click()
        v.settles()
        self.assertIn("year", v.page.url)
        self.assertIn("2023", v.page.locator("[data-picture] table").text_content())
        v.goes_to("/worth?every=fortnight")
        self.assertIn("It goes by week, month, quarter or year.", v.text)
        v.goes_to("/worth?only=colour.red")
        self.assertIn("Accounts are not arranged by that.", v.text)
        v.goes_to("/worth?only=class.Nowhere&since=7")
        self.assertIn("Nowhere comes to €0.00", v.headline)
        self.visitor.problems.clear()
