"""Accounts in the first hour and over the years: several at once, terms by kind, values, rates, order, closing, deleting."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Accounts(Story):
    market = True

    def test_a_card_asks_for_what_a_card_has_and_shows_its_use(self):
        v = self.visitor
        v.goes_to("/books/accounts/new")
        expect(v.page.get_by_label("Limit", exact=True)).to_be_hidden()
        v.chooses("Kind", "Card")
        v.fills("Name", "Second card")
        v.fills("It held (a debt with a minus)", "-450")
        v.fills("Limit", "1000")
        v.fills("Statement on day of month", "45")
        v.clicks("Add the account")
        self.assertIn("Write a whole number from 1 to 31", v.text)
        v.problems.clear()  # the browser notes the 400
        v.fills("Statement on day of month", "20")
        v.fills("Payment due on day", "5")
        v.clicks("Add the account")
        v.clicks("Second card", role="link")
        self.assertIn("€450.00 of the limit of €1,000.00 is used, 45 %. The next statement closes on 20 May", v.text)

    def test_several_at_once_say_which_row_is_wrong(self):
        v = self.visitor
        v.goes_to("/books/accounts/several")
        for row, (name, kind, held) in enumerate((("Holiday tin", "Cash", "20"), ("Ferry shares", "Brokerage", "lots")), 1):
            v.page.get_by_label(f"Name, row {row}").fill(name)
            v.page.get_by_label(f"Kind, row {row}").select_option(label=kind)
            v.page.get_by_label(f"It held, row {row}").fill(held)
        v.clicks("Add them")
        expect(v.page.locator("tr", has=v.page.get_by_label("Name, row 2"))).to_contain_text("“lots” is not an amount")
        v.problems.clear()
        v.page.get_by_label("It held, row 2").fill("1,250")
        v.clicks("Add them")
        self.assertIn("2 accounts are added", v.text)
        v.presses("u")
        expect(v.page.locator("[role=status]")).to_contain_text("Undone")
        self.assertNotIn("Ferry shares", v.text)

    def test_values_are_noted_pasted_filled_and_carried(self):
        v = self.visitor
        v.goes_to("/books")
        v.clicks("Carry them")
        self.assertIn("2 values are carried to month ends", v.text)
        v.goes_to("/books/7/values")
        self.assertIn("two holes in its course", v.headline)
        v.page.locator("summary:has-text('One by one')").click()
        v.clicks("Draw a line between")
        self.assertIn("one hole in its course", v.headline)
        v.clicks("Carry the value before")
        self.assertNotIn("hole", v.headline)
        v.fills("it was worth, in EUR", "115000")
        v.clicks("Note it")
        self.assertIn("The Alkyon was worth €115,000.00 on 14 May 2026", v.headline)
        expect(v.page.locator("tr[data-row]").first).to_contain_text("−2,000.00")
        v.page.get_by_label("Paste a day and a value a line").fill("2022-12-31; 120000\n2022-13-31; 5")
        v.clicks("Note them all")
        self.assertIn("Line 2 has no day that can be read", v.text)
        v.problems.clear()
        v.goes_to("/worth")
        self.assertNotIn("The Alkyon is not known", v.text)

    def test_daily_rates_come_from_the_feed_or_by_hand(self):
        v = self.visitor
        v.goes_to("/books")
        v.clicks("Rates", role="link")
        v.clicks("Fetch the daily rates")
        self.assertRegex(v.text, r"\d+ rates are new")
        v.fills("One unit was, in EUR", "0.0999")
        v.clicks("Note it")
        self.assertIn("1 SEK was 0.099900 EUR on 14 May 2026", v.headline)

    def test_order_by_keys_closing_and_deleting_exactly_as_said(self):
        v = self.visitor
        v.goes_to("/books")
        v.presses("j", "j")
        v.presses_and_waits("J")
        names = [name.strip() for name in v.page.locator("tr[data-row] td.grow").all_inner_texts()]
        self.assertEqual(names[:3], ["Household current", "Studio current", "Reserve"])
        v.goes_to("/books/accounts/8/end")
        v.clicks("Close it")
        self.assertIn("Say where that goes", v.text)
        v.problems.clear()
        v.goes_to("/books/accounts/9/end")
        v.chooses("It still holds", "nowhere: its value is noted as zero")
        v.clicks("Close it")
        self.assertIn("Delivery van, our half is closed; its history stays", v.text)
        self.assertNotIn("Vehicle", v.text)
        v.clicks("1 closed account", role="link")
        self.assertIn("closed 14 May 2026", v.text)
        v.goes_to("/books/accounts/12/end")
        self.assertIn("two noted values", v.text)
        v.fills("Type Two-year deposit to delete it", "two-year deposit")
        v.clicks("Delete it")
        self.assertIn("Two-year deposit is deleted", v.text)
        v.presses("u")
        expect(v.page.locator("[role=status]")).to_contain_text("Undone: Deleted the account Two-year deposit")
        self.assertIn("6,169.00", v.text)

    def test_an_account_is_dragged_into_anothers_place(self):
        v = self.visitor
        v.goes_to("/books")
        row = "tr[data-account='{}'] td.grow"
        v.page.drag_and_drop(row.format(5), row.format(1))
        expect(v.page.locator("[role=status]")).to_contain_text("Corvane card is moved")
        self.assertEqual(v.page.locator("tr[data-row] td.grow").first.inner_text().strip(), "Corvane card")

    def test_a_loan_payment_splits_itself(self):
        v = self.visitor
        v.goes_to("/books/1")
        v.fills("Quick line", "612 to barge")
        v.clicks("Enter")
        expect(v.page.locator("tr[data-row]").first).to_contain_text("Loan interest")
        v.goes_to("/books/6")
        # That of 28 April paid most of the month's interest already, so nearly all of it pays back.
        self.assertIn("75 payments remain, the last on", v.text)
