"""Payees renamed, merged and the merge undone; categories merged and many written at once."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Payees(Story):
    def test_what_a_payee_comes_to_opens_to_its_years_and_the_latest_month_is_in_sight(self):
        v = self.visitor
        v.page.set_viewport_size({"width": 380, "height": 800})
        v.goes_to("/payees/2")
        expect(v.page.locator("[data-picture] .mark").last).to_be_in_viewport()
        in_all = v.amount(r"(−€[\d.,]+) in all")
        slip = v.opens_slip(in_all)
        self.assertIn("In 2024", slip)
        self.assertTrue(slip.endswith(in_all), slip)
        v.page.locator("#slip").get_by_role("link", name="In 2024").click()
        v.settles()
        self.assertIn("In January 2024", v.text)

    def test_a_merge_is_one_step_and_undone_whole(self):
        v = self.visitor
        v.goes_to("/payees?text=halden")
        v.clicks("Halden Ferries", role="link", within="tbody")
        before = v.headline
        self.assertIn("195 entries with Halden Ferries", before)
        v.chooses("Merge another into it", "Halden Fish Quay")
        v.clicks("Merge", within="aside")
        self.assertIn("319 entries", v.headline)
        v.presses_and_waits("u")
        self.assertIn("Undone", v.text)
        v.goes_to("/payees?text=halden fish")
        self.assertIn("124", v.text)

    def test_renamed_with_its_history_and_a_usual_category(self):
        v = self.visitor
        v.goes_to("/payees?text=kelp")
        v.presses("j")
        v.presses_and_waits("Enter")
        v.fills("Name", "Kelp & Barley")
        v.clicks("Rename it")
        self.assertIn("Was Kelp and Barley until", v.text)
        v.fills("Name", "Grebe Street Grocer")
        v.clicks("Rename it")
        self.assertIn("There is a payee “Grebe Street Grocer” already", v.text)
        v.problems.clear()  # the browser notes the 409
        v.chooses("Usually goes to", "Presents")
        v.clicks("Keep it so")
        v.goes_to("/sort?pile=x")
        expect(v.page.locator("aside")).to_contain_text("Presents, its usual category, as you said")


class Categories(Story):
    def test_merging_says_what_goes_along_and_is_undone_whole(self):
        v = self.visitor
        v.goes_to("/house/categories")
        self.assertIn("were never used", v.headline)
        v.clicks("Market and bakery", role="link")
        self.assertIn("396 entries", v.text)
        self.assertIn("expected amounts set in", v.text)
        v.chooses("All of it goes to", "Groceries")
        v.clicks("Merge it")
        self.assertIn("Merged the category Market and bakery into Groceries", v.text)
        self.assertIn("1,130", v.page.locator("tr", has_text="Groceries").first.inner_text())
        v.presses_and_waits("u")
        self.assertIn("396", v.page.locator("tr", has_text="Market and bakery").first.inner_text())

    def test_forty_lines_become_categories_in_their_groups(self):
        v = self.visitor
        v.goes_to("/house/categories/lines")
        lines = [
            "Quay:",
            *(f"  Rope {i}" for i in range(20)),
            "Yard (income)",
            *(f"  Sale {i}" for i in range(20)),
            "  Groceries",
        ]
        v.fills("Groups and categories", "\n".join(lines))
        v.clicks("See what it says")
        self.assertIn("40 categories would be added; one is here already", v.headline)
        v.clicks("Add 40 categories")
        self.assertIn("Added 40 categories", v.text)
        self.assertIn("77 categories in eleven groups", v.headline)
        v.goes_to("/house/tags")
        v.page.get_by_label("Line of the tax form for van").fill("Vehicles, line 9")
        v.page.locator("tr", has=v.page.get_by_label("Name of the tag van")).get_by_role("button", name="Keep").click()
        v.settles()
        expect(v.page.get_by_label("Line of the tax form for van")).to_have_value("Vehicles, line 9")
