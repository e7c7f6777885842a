"""Checking the demo's messes: the nine cents, the double, and reopening a statement."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Checking(Story):
    def begins(self, account_id: int) -> None:
        self.visitor.goes_to(f"/books/{account_id}/check")
        self.visitor.clicks("Begin the check")

    def test_the_nine_cents_are_found_among_the_suspects_and_cured(self):
        v = self.visitor
        self.begins(1)
        self.assertIn("€0.09 of Household current is not explained yet", v.headline)
        self.assertIn("two digits may be swapped", v.text)
        v.clicks("Sluice Wholefoods", role="link", within="h3:has-text('Suspects') + ul")
        amount = v.page.get_by_label("Amount in EUR")
        right = f"{float(amount.input_value()) - 0.09:.2f}"
        amount.fill(right)
        v.clicks("Keep the changes")
        v.goes_to("/books/1/check")
        self.assertIn("agrees with the statement of 7 May 2026", v.headline)
        v.clicks("Reconcile and lock")
        self.assertIn("is checked until 7 May 2026", v.headline)

    def test_the_double_on_the_card_is_named(self):
        v = self.visitor
        self.begins(5)
        self.assertIn("Anchor Chandlery", v.page.locator("h3:has-text('Suspects') + ul").inner_text())
        slip = v.opens_slip(v.amount(r"(−?€[\d.,]+) of Corvane card"))
        self.assertIn("Closing balance", slip)

    def test_ticking_closes_the_gap_and_reopening_warns(self):
        v = self.visitor
        self.begins(2)
        self.assertIn("agrees", v.headline)
        v.clicks("Give up this check")
        v.goes_to("/books/2/check")
        v.page.locator("summary:has-text('Reopen')").nth(2).click()
        self.assertIn("Two later statements build on this one", v.text)
        v.clicks("Reopen it")
        self.assertIn("The statement is open again; 2 later ones build on it", v.text)
        v.page.locator("[id^=tick-]").last.click()
        expect(v.page.locator("h1")).to_contain_text("is not explained yet")
        v.clicks("Tick all")
        v.clicks("Reconcile and lock")
        self.assertIn("Reserve is checked until 30 April 2026", v.headline)
