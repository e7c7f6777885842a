"""Debts by rate against by balance: tried, kept, moved by hand and undone."""

from contextlib import closing
from datetime import date
from decimal import Decimal

from playwright.sync_api import expect

from bolsa.core.accounts.terms import Terms
from bolsa.services.accounts import accounts
from bolsa.services.accounts.accounts import NewAccount
from bolsa.services.clock import By
from bolsa.services.house import files
from tests.stories.visitor import NARROW, Story


class Debts(Story):
    def setUp(self):
        super().setUp()
        with closing(files.open_household(self.path)) as db:
            by = By(date(2026, 5, 14), "2026-05-14T09:00:00Z", 1)
            bike = Terms(rate=Decimal("0.02"), payment_minor=4_000)
            accounts.add_account(
                db, by, NewAccount("Bike loan", "loan", opening_minor=-90_000, opened_on=date(2026, 5, 1), terms=bike)
            )

    def test_debts_by_rate_against_by_balance(self):
        v = self.visitor
        v.goes_to("/books")
        v.clicks("Debts", role="link")
        self.assertIn("€43,674.88 is owed", v.headline)
        v.fills("Paid a month beyond the least payments, in EUR", "150")
        v.clicks("Try it")
        rows = v.page.locator("tr[data-row]")
        expect(rows.first).to_contain_text("Corvane card")
        self.assertIn("The smallest balance first: done in", v.text)
        self.assertIn("more interest", v.text)
        v.clicks("Try it", role="link")
        expect(rows.first).to_contain_text("Bike loan")
        v.presses("a")
        expect(v.page.locator("[role=status]")).to_contain_text("Debts are paid by the smallest balance first")
        v.page.get_by_role("button", name="Pay Bike loan off later").click()
        v.settles()
        expect(rows.first).to_contain_text("Corvane card")
        v.presses("u")
        expect(rows.first).to_contain_text("Bike loan")
        v.fills("In the month", "2026-13")
        v.fills("Amount in EUR", "500")
        v.clicks("Plan it")
        expect(v.page.get_by_role("alert").first).to_be_visible()
        v.problems.clear()  # the browser notes the 400
        v.fills("In the month", "2026-12")
        v.clicks("Plan it")
        self.assertIn("December 2026: €500.00", v.text)
        v.page.set_viewport_size(NARROW)
        v.goes_to("/debts")
        self.assertFalse(v.page.evaluate("document.documentElement.scrollWidth > innerWidth"))
