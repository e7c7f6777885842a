"""Noor's sitting on the demo household, by keyboard: bring in, sort, check, place, look ahead."""

import re

from playwright.sync_api import expect

from tests.stories.visitor import Story


class ASittingByKeyboard(Story):
    bank = True

    def test_the_whole_sitting(self):
        v = self.visitor
        v.goes_to("/")
        self.assertIn("to sort", v.headline)
        self.assertIn("Thursday 14 May 2026", v.page.locator(".demo-day").inner_text())

        # Bring in: Enter asks both institutions; each preview is brought in by Enter.
        v.presses_and_waits("Enter")
        self.assertRegex(v.headline, r"Halden Mutual would bring .* new entr")
        v.presses_and_waits("Enter")
        self.assertIn("“Corvane Card” still waits to be brought in", v.text)
        v.presses_and_waits("w")
        self.assertRegex(v.headline, r"Corvane Card would bring .* new entr")
        v.presses_and_waits("Enter")
        self.assertIn("piles wait for a category", v.headline)

        # Sort: the transfer both banks speak of comes first, then the sure piles by one key, then the rest one by one.
        self.assertIn("Likely one transfer", v.text)
        v.presses_and_waits("Enter")
        self.assertIn("Made one transfer", v.text)
        v.presses_and_waits("a")
        self.assertIn("as suggested", v.text)
        v.presses_and_waits("u")
        self.assertIn("Undone: Filed", v.text)
        v.presses_and_waits("a")
        for _ in range(30):
            if v.headline == "Every entry has its category.":
                break
            v.presses_and_waits("1" if v.page.locator("[data-key='1']").count() else "o")
        self.assertEqual(v.headline, "Every entry has its category.")

        # Check: the reserve agrees with the bank and is locked with one key.
        v.goes_to("/books/2/check")
        v.page.get_by_label("with a balance of").press("Enter")
        v.settles()
        self.assertIn("agrees with the statement", v.headline)
        v.presses("Escape")
        v.presses_and_waits("r")
        self.assertIn("is checked until 14 May 2026", v.headline)

        # Place: fill every need in order, then put the rest into a goal, down to zero.
        v.goes_by_keys("u")
        self.assertIn("is unplaced", v.headline)
        v.presses_and_waits("a")
        self.assertIn("Placed €", v.text)
        unplaced = v.amount(r"= (€[\d,.]+) unplaced").removeprefix("€")
        goal = v.page.get_by_label("Placed for New kiln")
        goal.fill("+" + unplaced)
        goal.press("Enter")
        expect(v.page.locator("h1")).to_contain_text("All is placed")
        slip = v.opens_slip("€0.00")
        self.assertIn("In everyday accounts", slip)
        self.assertIn("Left in categories", slip)
        v.presses("Escape")
        self.assertTrue(v.page.locator("#slip").is_hidden())

        # Look ahead: the thread's knots show what is done, and the late bill.
        v.goes_by_keys("t")
        self.assertEqual(v.page.locator(".knot.tied h2").all_inner_texts(), ["Bring in", "Sort"])
        self.assertIn("Over: Household by", v.text)
        self.assertIn("Tidewater Power, six days", v.text)

    def test_the_same_by_mouse_with_a_reload_and_back(self):
        v = self.visitor
        v.goes_to("/")
        v.clicks("Ask Halden Mutual and Corvane Card")
        v.page.reload()
        self.assertRegex(v.headline, r"Halden Mutual would bring .* new entr")
        v.clicks("Bring in")
        v.clicks("Look at it", role="link")
        v.clicks("Put it aside")
        self.assertIn("nothing was brought in", v.text)
        v.clicks("Sort", role="link", within=".bar")
        v.clicks("Make it one transfer")
        v.page.locator("aside").get_by_role("link", name="Paper Heron").click()
        v.clicks("Presents", within="#decide")
        self.assertIn("under Presents", v.text)
        v.page.go_back()
        v.page.go_forward()
        v.page.locator("aside").get_by_role("link", name="Grebe Street Grocer").click()
        v.clicks("Decide each by itself", role="link")
        rows = v.page.locator(".stack tr[data-row]").count()
        v.clicks("File", within=".stack tr[data-row]")
        self.assertIn("Filed one entry under Groceries", v.text)
        v.clicks("Undo")
        v.page.locator("aside").get_by_role("link", name="Grebe Street Grocer").click()
        v.clicks("Decide each by itself", role="link")
        self.assertEqual(v.page.locator(".stack tr[data-row]").count(), rows)
        v.clicks("Budget", role="link", within=".bar")
        v.page.get_by_label("Choose Fuel and gas").check()
        v.page.get_by_label("Choose Studio rent").check()
        expect(v.page.locator(".foot")).to_contain_text("They still need €380.00")
        v.clicks("Fill these needs")
        self.assertIn("Placed €380.00 into 2 categories", v.text)
        v.page.locator(".ribbon a", has_text="Jun").last.click()
        expect(v.page).to_have_title(re.compile("June 2026"))  # the page is another: it is waited for
        self.assertIn("month=2026-06", v.page.url)

    def test_left_and_resumed(self):
        v = self.visitor
        v.goes_to("/")
        v.clicks("Begin a sitting")
        v.goes_to("/sort")
        v.presses_and_waits("Enter")
        v.goes_to("/")
        self.assertIn("left at Sort", v.text)
        v.page.reload()
        v.clicks("Finish the sitting")
        self.assertIn("Last sitting: Thursday 14 May", v.text)

    def test_the_next_day_brings_new_entries(self):
        v = self.visitor
        v.goes_to("/books/bring-in")
        v.clicks("Ask", within=".items")
        v.clicks("Bring in")
        v.clicks("Let the next day come")
        v.clicks("Let the next day come")
        self.assertIn("Saturday 16 May 2026", v.page.locator(".demo-day").inner_text())
        v.goes_to("/books/bring-in")
        v.clicks("Ask", within=".items")
        self.assertRegex(v.headline, r"Halden Mutual would bring .* new entr")


class ConnectingAnInstitution(Story):
    bank = True

    def test_consent_choice_of_accounts_and_cutting_off(self):
        v = self.visitor
        v.goes_to("/books/bring-in")
        v.clicks("Connect an institution", role="link")
        v.clicks("Go to its sign-in page", role="link")
        v.page.get_by_label("User").fill("noor")
        v.page.get_by_label("Password").fill("wrong")
        v.page.get_by_role("button", name="Sign in").click()
        self.assertIn("do not fit together", v.page.locator("main").inner_text())
        v.problems.clear()  # the browser notes the refused sign-in
        v.page.get_by_label("User").fill("noor")
        v.page.get_by_label("Password").fill("ferry")
        v.clicks("Sign in")
        v.page.get_by_label("Reserve, HM44100777").uncheck()
        v.clicks("Allow reading")
        self.assertEqual(v.headline, "Halden Mutual has agreed.")
        v.clicks("See the accounts")
        self.assertEqual(v.headline, "Halden Mutual works.")
        v.clicks("Cut it off")
        self.assertIn("what it brought stays", v.text)

    def test_a_bank_that_does_not_answer_is_said_so(self):
        v = self.visitor
        from bolsa.demo.run import point_connections

        point_connections(self.path, "http://127.0.0.1:9")
        v.goes_to("/")
        v.presses_and_waits("Enter")
        self.assertIn("The institution does not answer. Nothing was changed", v.text)
