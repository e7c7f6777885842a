"""What comes again: proposals kept by one key, a floor that would be crossed, a lost card, a series by hand."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class DueStories(Story):
    def test_proposals_are_kept_by_one_key_and_taken_back(self):
        v = self.visitor
        v.goes_to("/")
        v.goes_by_keys("d")
        self.assertIn("Next is Northshore Van Part, −€47.05", v.headline)
        self.assertIn("Saltline Telecom", v.text)
        v.presses_and_waits("a")
        self.assertIn("Kept 2 series", v.text)
        self.assertNotIn("Seem to come again", v.text)
        self.assertIn("Next is Saltline Telecom", v.headline)
        v.presses_and_waits("u")
        self.assertIn("Seem to come again", v.text)

    def test_a_balance_that_would_cross_its_floor_is_seen_with_what_mends_it(self):
        v = self.visitor
        v.goes_to("/books/accounts/1/edit")
        v.fills("Should not go below", "11,500")
        v.clicks("Change it")
        v.goes_to("/due")
        self.assertIn("Household current falls to €11,310.82 on 20 May, below its floor of €11,500.00", v.headline)
        self.assertIn("Moving €189.18 there from Reserve by 14 May would mend it", v.text)
        slip = v.opens_slip("€11,310.82")
        for part in ("It holds today", "Tidewater Power", "Northshore Van Part"):
            self.assertIn(part, slip)

    def test_a_lost_card_says_what_must_be_moved(self):
        v = self.visitor
        v.goes_to("/due")
        v.clicks("Corvane card", role="link")
        rows = v.page.locator("table:has(caption:text('Every series')) tr[data-row]")
        expect(rows).to_have_count(1)
        expect(rows.first).to_contain_text("Halden Chronicle")

    def test_a_series_by_hand_shows_its_days_before_it_is_kept(self):
        v = self.visitor
        v.goes_to("/due/new")
        v.fills("Payee", "Skerry Sailing School")
        v.fills("Each time", "1290")
        v.fills("First day (empty: the day it last came)", "31/05/2026")
        v.page.get_by_label("and comes").select_option(label="every six months on that day")
        v.page.get_by_label("On a weekend or holiday").select_option(label="the working day before")
        expect(v.page.locator("#dates")).to_contain_text(
            "Every six months on the 31st: 29 May 2026, 30 November 2026, 31 May 2027"
        )
        v.clicks("Keep it")
        self.assertIn("Skerry Sailing School is kept as coming again", v.text)
        v.clicks("Skerry Sailing School", role="link")
        self.assertIn("next on 29 May", v.headline)
        v.page.locator("tr[data-row]").first.hover()
        v.clicks("Leave it out")
        self.assertIn("Left out Skerry Sailing School of 29 May 2026", v.text)
        v.presses_and_waits("u")
        self.assertIn("next on 29 May", v.headline)
        v.clicks("Forget the series")
        self.assertNotIn("Skerry Sailing School comes", v.headline)


if __name__ == "__main__":
    import unittest

    unittest.main()
