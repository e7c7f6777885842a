"""Checking the demo's messes: 5.85 for 5.58, swapped digits, a double, a wrong sign; writing off; reopening."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Checking(Story):
    def begins(self, account_id: int) -> None:
        self.visitor.goes_to(f"/books/{account_id}/check")
        self.visitor.clicks("Begin the check")

    def cures(self, account_id: int, payee: str, reason: str) -> None:
        """Begins the check, presses the first suspect's key, undoes it, presses again, and reconciles by key."""
        v = self.visitor
        self.begins(account_id)
        first = " ".join(v.page.locator(".suspect").first.inner_text().split())
        self.assertIn(payee, first)
        self.assertIn(reason, first)
        self.assertIn("explains all", first)
        v.presses_and_waits("1")
        expect(v.page.locator("h1")).to_contain_text("agrees with the statement")
        v.presses_and_waits("u")
        expect(v.page.locator("h1")).to_contain_text("is not explained yet")
        v.presses_and_waits("1")
        v.presses_and_waits("r")
        expect(v.page.locator("h1")).to_contain_text("is checked until")

    def test_5_85_for_5_58_is_found_and_cured_by_one_key(self):
        self.cures(1, "Sluice Wholefoods", "Two digits are swapped: −€5.85 here, −€5.58 at the bank")

    def test_the_swapped_digits_of_an_account_no_bank_speaks_of(self):
        self.cures(3, "Clayworks Depot", "Two digits may be swapped")

    def test_the_double_on_the_card_goes_to_the_trash(self):
        self.cures(5, "Anchor Chandlery", "the bank sent one")
        self.visitor.goes_to("/house")
        self.assertIn("Anchor Chandlery", self.visitor.text)

    def test_the_wrong_sign_in_the_counted_tin(self):
        self.cures(4, "Saturday Market", "perhaps its sign is wrong")

    def test_a_difference_without_a_cause_is_written_off_and_counted_for_the_year(self):
        v = self.visitor
        v.goes_to("/books/2/check")
        v.fills("with a balance of", "1.23")
        v.clicks("Begin the check")
        slip = v.opens_slip(v.amount(r"(−?€[\d.,]+) of Reserve"))
        self.assertIn("Closing balance", slip)
        v.presses("Escape")
        v.chooses("Cannot be found? Enter the difference under", "Unexplained")
        v.clicks("Write it off")
        expect(v.page.locator("h1")).to_contain_text("agrees")
        self.assertRegex(v.text, r"Written off at checks, in all accounts.*2026 Unexplained 1 −")

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
