"""What goes wrong at a bank, switched on at the stand-in's own page, and how each is survived with a clear message."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class WhatGoesWrongAtABank(Story):
    bank = True

    def switches(self, *words: str, institution: str = "Halden Mutual") -> None:
        """Switches these faults on at the stand-in, and all others off."""
        page = self.visitor.page
        page.goto(self.bank_url)
        form = page.locator("form", has=page.get_by_role("heading", name=institution))
        for box in form.get_by_role("checkbox").all():
            box.set_checked(False)
        for one in words:
            form.get_by_label(one).check()
        form.get_by_role("button", name="Switch").click()
        expect(page.get_by_role("status")).to_contain_text(institution)

    def asks(self, institution: str = "Halden Mutual") -> None:
        v = self.visitor
        v.goes_to("/books/bring-in")
        v.page.locator("li", has_text=institution).get_by_role("button", name="Ask").click()
        v.page.wait_for_url(lambda url: "/refresh" not in url and "/progress" not in url, timeout=20_000)
        v.settles()

    def brings_in(self) -> None:
        self.visitor.page.get_by_role("button", name="Bring in").first.click()
        self.visitor.settles()

    def test_an_account_missing_for_weeks_is_a_hole_and_not_a_zero(self):
        v = self.visitor
        self.switches("The first account is missing")
        self.asks()
        self.assertIn("Household current is missing at Halden Mutual since 14 May 2026", v.text)
        v.goes_to("/books")
        row = v.page.locator("tr", has_text="Household current").first
        expect(row).to_contain_text("not known since 14 May")
        expect(row).to_contain_text("10,289.64")
        v.goes_to("/worth")
        self.assertIn("Household current is missing at its institution since 14 May 2026", v.text)
        self.switches()
        self.asks()
        self.assertIn("Household current", v.text)  # what still waited is renewed in place
        self.brings_in()
        v.goes_to("/books")
        self.assertNotIn("not known since", v.text)

    def test_a_consent_that_ended_is_renewed_and_nothing_is_lost(self):
        v = self.visitor
        self.switches("The password was changed")
        self.asks()
        self.assertIn("The consent has ended. Renew it to go on; nothing that is here is lost", v.text)
        v.page.get_by_role("link", name="Halden Mutual").first.click()
        v.settles()
        self.assertIn("Halden Mutual could not be asked", v.headline)
        v.clicks("Renew the consent", role="link")
        v.page.get_by_label("User").fill("noor")
        v.page.get_by_label("Password").fill("ferry")
        v.page.get_by_role("button", name="Sign in").click()
        expect(v.page.get_by_role("alert")).to_contain_text("User and password do not fit together")
        self.assertRegex(v.problems.pop(), "401")
        v.page.get_by_label("User").fill("noor")
        v.page.get_by_label("Password").fill("bollard-7")
        v.page.get_by_role("button", name="Sign in").click()
        v.page.get_by_role("button", name="Allow reading").click()
        v.page.get_by_role("button").first.wait_for()
        v.presses_and_waits("Enter")
        self.assertIn("Halden Mutual works", v.headline)
        self.assertEqual(
            v.page.get_by_role("combobox", name="Account here for Household current").input_value(), "Household current"
        )
        self.asks()
        self.assertRegex(v.headline, "Halden Mutual would bring")

    def test_a_repeated_entry_is_doubted_and_can_be_left_out(self):
        v = self.visitor
        self.switches("The latest entry is sent twice", institution="Corvane Card")
        self.asks("Corvane Card")
        row = v.page.locator("tr", has_text="the bank sent it twice, but its balance counts it once")
        expect(row).to_contain_text("suspicious")
        row.get_by_role("button", name="Leave out").click()
        v.settles()
        self.assertIn("1 left out", v.headline)
        self.brings_in()
        v.goes_to("/books")
        expect(v.page.locator("tr", has_text="Corvane card").first).to_contain_text("76.31")  # the double typed before, no more

    def test_a_wrong_sign_is_doubted_and_the_mismatch_is_offered_to_check(self):
        v = self.visitor
        self.switches("The latest entry is sent with the wrong sign", institution="Corvane Card")
        self.asks("Corvane Card")
        expect(v.page.locator("tr", has_text="its sign may be wrong")).to_contain_text("suspicious")
        self.brings_in()
        self.assertIn("Corvane card differs from what its bank declares by", v.text)
        v.page.get_by_role("link", name="Check it").first.click()
        v.settles()
        self.assertIn("Corvane card is checked until", v.headline)

    def test_pending_is_announced_changes_and_is_booked_once_or_vanishes(self):
        v = self.visitor
        self.switches("Entries of the next days", "a tenth too low", "never be booked", institution="Corvane Card")
        self.asks("Corvane Card")
        self.assertGreater(v.page.locator("tr", has_text="announced by the bank, not booked yet").count(), 1)
        self.brings_in()
        v.goes_to("/books/5?state=pending")
        expect(v.page.locator("#work tbody")).to_contain_text("Quayside Diesel Reservation")
        announced = v.page.locator("#work tbody tr[data-row]").count()
        for _ in range(3):
            v.clicks("Let the next day come")
        self.switches("Entries of the next days", institution="Corvane Card")
        self.asks("Corvane Card")
        expect(v.page.locator("#work tbody")).to_contain_text("announced before as pending")
        expect(v.page.locator("#work tbody")).to_contain_text("no longer announced")
        self.brings_in()
        v.goes_to("/books/5?state=pending")
        self.assertNotIn("Reservation", v.page.locator("#work tbody").inner_text())
        self.assertLess(v.page.locator("tr", has_text="announced").count(), announced)

    def test_slow_half_and_broken_answers(self):
        v = self.visitor
        self.switches("The last account answers with an error")
        self.asks()
        self.assertIn("Reserve: The institution answered with an error (500)", v.text)
        self.assertRegex(v.headline, "Halden Mutual would bring")
        v.page.get_by_role("button", name="Put it aside").click()
        self.switches("Answers break off in the middle")
        self.asks()
        self.assertIn("Household current: ", v.text)
        v.goes_to("/books/bring-in")
        expect(v.page.locator("li", has_text="Halden Mutual")).to_contain_text("broken")
        self.switches("Every answer takes")
        v.goes_to("/books/bring-in")
        v.page.locator("li", has_text="Halden Mutual").get_by_role("button", name="Ask").click()
        expect(v.page.locator("h1")).to_contain_text("Asking Halden Mutual: ", timeout=6000)
        expect(v.page.locator("h1")).to_contain_text("would bring", timeout=20_000)
