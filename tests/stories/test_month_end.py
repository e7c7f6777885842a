"""The end of a month: looked through, closed with a knot on the ribbon, and what changed in it since."""

import unittest

from playwright.sync_api import expect

from tests.stories.visitor import Story


class MonthEnd(Story):
    def test_a_month_is_closed_gets_its_knot_and_tells_what_changed_since(self):
        v = self.visitor
        v.goes_to("/budget?month=2026-04")
        knot = v.page.locator(".ribbon a", has_text="Apr").last.locator(".knot-tied")
        expect(knot).to_have_count(0)
        v.clicks("End of the month", role="link")
        self.assertIn("April 2026 has three things open", v.headline)
        self.assertIn("Studio current, Corvane card", v.text)
        v.presses_and_waits("a")
        self.assertIn("April 2026 is closed, since", v.headline)
        expect(knot).to_have_count(1)
        v.goes_to("/books/1?month=2026-04")
        v.page.locator("[data-quick]").fill("2026-04-11 Lantern Hardware 12.40 household")
        v.presses("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("April 2026 is closed: what is left since changes with it")
        v.goes_to("/budget/end?month=2026-04")
        self.assertRegex(v.headline, r"April 2026 was closed on .*figures? (is|are) another since")
        self.assertRegex(v.text, r"Household spent")
        self.assert_accessible()
        v.clicks("Close it as it stands now")
        self.assertIn("nothing has changed in it", v.headline)
        v.clicks("Open it again")
        expect(knot).to_have_count(0)

    def test_a_month_that_is_not_over_says_so(self):
        v = self.visitor
        v.goes_to("/budget/end")
        v.clicks("Close it all the same")
        expect(v.page.locator("[role=alert], [role=status]").first).to_contain_text("is not over")


if __name__ == "__main__":
    unittest.main()
