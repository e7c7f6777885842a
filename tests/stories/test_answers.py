"""Questions asked of the demo's books: drilled down and back, a one-off and a month left out, food over a year, two vehicles."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Answers(Story):
    def test_where_it_went_is_drilled_down_to_the_entries_and_back(self):
        v = self.visitor
        v.goes_to("/")
        v.presses("g", "a")
        v.page.get_by_role("link", name="Where did it go?").click()
        v.goes_to("/answers/where?from=2026-03-01&to=2026-03-31")
        whole = v.headline
        v.page.get_by_role("link", name="The Alkyon", exact=True).click()
        self.assertIn("was spent on The Alkyon", v.headline)
        v.page.get_by_role("link", name="Power and water", exact=True).click()
        v.page.get_by_role("link", name="Tidewater Power", exact=True).click()
        self.assertIn("One entry of The Alkyon, Power and water, Tidewater Power comes to", v.headline)
        v.page.go_back()
        v.page.go_back()
        v.page.get_by_role("link", name="all again").click()
        self.assertEqual(v.headline.split(" was spent")[0], whole.split(" was spent")[0])

    def test_a_month_is_left_out_of_a_mean_and_comes_back(self):
        v = self.visitor
        v.goes_to("/answers/normal")
        before = v.headline
        self.assertIn("May 2026 is not over and is left out", v.text)
        v.page.get_by_text("Leave a month out").click()
        v.page.get_by_role("link", name="January 2026").click()
        self.assertNotEqual(v.headline, before)
        self.assertIn("Eleven whole months count", v.text)
        v.page.get_by_role("link", name="back in").click()
        self.assertEqual(v.headline, before)
        v.page.get_by_role("link", name="Leave out Mooring lease").click()
        self.assertIn("Without Mooring lease", v.text)

    def test_food_over_a_year_is_stacked_in_one_act(self):
        v = self.visitor
        v.goes_to("/answers/grew")
        v.page.get_by_role("link", name="Living", exact=True).first.click()
        self.assertIn("Living grew by", v.headline)
        picture = v.page.locator("[data-picture]")
        expect(picture).to_contain_text("Groceries")
        picture.focus()
        v.presses("Home")
        expect(picture.locator(".readout")).to_contain_text("June 2025")

    def test_two_vehicles_are_compared_by_tag_both_ways(self):
        v = self.visitor
        v.goes_to("/answers/tags")
        v.page.get_by_role("link", name="bike", exact=True).click()
        v.page.get_by_role("link", name="van", exact=True).click()
        self.assertIn("Van cost most of two tags", v.headline)
        heads = v.page.locator("table.grid-table > thead th").all_inner_texts()
        self.assertIn("bike", heads)
        self.assertNotIn("mooring", heads)
        v.page.get_by_role("link", name="Tags as rows").click()
        expect(v.page.locator(".year-scroll tbody tr")).to_have_count(2)
        figure = v.page.locator(".year-scroll a.fig").first
        figure.click()
        expect(v.page.locator("#slip")).to_contain_text("Spent on")

    def test_what_changed_says_what_made_it_and_bad_days_are_answered(self):
        v = self.visitor
        v.goes_to("/answers/changed")
        self.assertIn("Barge loan first of all", v.headline)
        v.page.get_by_role("link", name="Beside the year before").click()
        self.assertIn("than April 2025", v.headline)
        v.goes_to("/answers/where?from=2026-05-20&to=2026-05-01")
        self.assertIn("The first day is after the last.", v.text)
        self.visitor.problems.clear()
