"""Payday: three cents off found on the payslip, confirmed, changed and undone; a pay taken apart from the first line on."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Payday(Story):
    def line(self, name):
        return self.visitor.page.locator(".payslip tr", has_text=name).locator("input.cell")

    def test_three_cents_off_are_found_and_the_payday_is_confirmed_by_keys(self):
        v = self.visitor
        v.goes_to("/")
        v.goes_by_keys("d")
        v.clicks("Pay", role="link", within=".sub")
        self.assertIn("Friday 24 April: the payslip says €1,160.13, the bank brought €1,160.10.", v.headline)
        self.assertIn("0.03 less than told", v.text)
        self.assertIn("23.72 from pay a payday reaches it exactly, 23.86 on the last", v.text)
        v.presses("a")  # too early: nothing is done, and it is said where it differs
        expect(v.page.get_by_role("alert")).to_contain_text("€0.03 is not told yet")
        self.line("Income tax").fill("412.33")
        v.presses("Tab")
        v.settles()
        expect(v.page.locator("h1")).to_contain_text("the payslip says €1,160.10, the bank brought €1,160.10.")
        self.assertIn("They agree.", v.text)
        v.presses("Escape", "a")
        expect(v.page.locator("[role=status]")).to_contain_text("Confirmed the pay of Port Halden Ferry Company of 24 April 2026")
        v.problems.clear()  # the browser notes the 400
        self.assertIn("confirmed, €1,160.10 net", v.headline)
        expect(v.page.locator(".payslip tr", has_text="Income tax")).to_contain_text("3,875.73")
        words = v.opens_slip("3,875.73")
        self.assertIn("Before the first payday kept 3,051.10", words)
        self.assertIn("412.33", words)
        v.presses("Escape")
        v.page.get_by_role("link", name="Its entry").click()
        self.assertIn("This entry is the payday of 24 April 2026", v.text)
        v.clicks("See the payslip", role="link")
        v.clicks("Take it back")
        expect(v.page.locator("h1")).to_contain_text("the payslip says €1,160.13, the bank brought €1,160.10.")
        v.page.locator("[role=status]").get_by_role("button", name="Undo").click()
        v.settles()
        v.goes_to("/pay/1?day=2026-04-24")
        self.assertIn("confirmed, €1,160.10 net", v.headline)

    def test_a_difference_becomes_a_line_of_its_own_and_a_reload_loses_nothing_that_was_kept(self):
        v = self.visitor
        v.goes_to("/pay")
        v.presses("r")
        v.settles()
        expect(v.page.locator("[name=new-name]")).to_have_value("Not told by the payslip")
        expect(v.page.locator("[name=new-amount]")).to_have_value("0.03")
        self.assertIn("They agree.", v.text)
        self.line("Base, 80 hours").fill("2,100.00 + nonsense")
        v.presses("Tab")
        v.settles()
        expect(v.page.locator("[name^=line-][aria-invalid]")).to_have_count(1)
        v.page.reload()
        v.presses("r")
        v.settles()
        v.clicks("Confirm this payday")
        expect(v.page.locator(".payslip")).to_contain_text("Not told by the payslip")
        v.page.get_by_role("link", name="10 April 2026").click()
        self.assertIn("of Friday 10 April: confirmed, €1,160.13 net.", v.headline)
        self.assertNotIn("Not told by the payslip", v.text)
        v.goes_to("/pay/1?month=2026-04")  # the month that is chosen chooses the payday
        self.assertIn("24 April", v.headline)
        v.page.go_back()
        v.page.go_back()
        self.assertIn("24 April", v.headline)
        v.problems.clear()

    def test_a_pay_is_taken_apart_from_what_comes_in(self):
        v = self.visitor
        v.goes_to("/pay")
        v.page.get_by_role("link", name="another pay").click()
        self.assertIn("Which of what comes in again and again has a payslip?", v.text)
        v.page.get_by_role("link", name="Kittiwake Mooring").click()
        rows = v.page.locator("tbody tr")
        rows.nth(2).locator("[name=amount]").fill("10.00")
        rows.nth(1).locator("[name=amount]").fill("120 %")
        v.clicks("Keep this pay")
        self.assertIn("“120 %” is no percentage", v.text)
        v.page.locator("tbody tr").nth(1).locator("[name=amount]").fill("2.5 %")
        v.clicks("Keep this pay")
        self.assertRegex(v.headline, "the payslip says €1[0-9]{2}.[0-9]{2}")
        expect(v.page.locator(".payslip")).to_contain_text("2.5 % of gross")
        v.page.get_by_role("link", name="Its lines").click()
        v.clicks("More rows")
        v.clicks("Forget this pay")
        expect(v.page.locator("[role=status]")).to_contain_text("Forgot the pay of Kittiwake Mooring")
        v.problems.clear()
