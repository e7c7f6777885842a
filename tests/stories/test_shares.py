"""Shares here against shares there: a split and a double are found and cured by key; a list and a file are compared."""

from playwright.sync_api import expect

from tests.formats.test_ofx_shares import investments, position, security, trade
from tests.stories.visitor import Story


class ShareStories(Story):
    def test_two_differences_are_cured_by_key_and_taken_back(self):
        v = self.visitor
        v.goes_to("/books")
        v.clicks("shares differ", role="link")
        self.assertIn("Tern Robotics differs by 80, Wherry Freight by 0.8124", v.headline)
        self.assertIn("Held before", v.opens_slip("40"))
        v.presses("Escape")
        v.presses_and_waits("1")
        self.assertIn("Wherry Freight differs by 0.8124", v.headline)
        v.presses_and_waits("1")
        self.assertIn("Every share in Halcyon depot agrees", v.headline)
        v.presses("u")
        expect(v.page.locator("h1")).to_contain_text("Wherry Freight differs")
        v.goes_to("/books")
        self.assertIn("shares differ", v.text)

    def test_a_list_is_typed_and_what_is_missing_entered_with_its_cost(self):
        v = self.visitor
        v.goes_to("/books/13/shares")
        self.assertIn("Every share in Skerry funds agrees", v.headline)
        v.fills("Skerry Nordic Index", "many")
        v.clicks("Compare")
        self.assertIn("“many” isn’t a number of shares", v.text)
        v.problems.clear()  # the browser notes the 400
        v.fills("Skerry Nordic Index", "210.066")
        v.fills("Another security", "Gannet Small Firms")
        v.fills("its shares", "30")
        v.clicks("Compare")
        self.assertIn("Gannet Small Firms differs by 30, Skerry Nordic Index by 7.5", v.headline)
        v.clicks("Enter a trade", role="link")
        v.clicks("came in", role="link")
        v.fills("Security", "Gannet Small Firms")
        v.fills("Shares", "30")
        v.clicks("Enter it")
        self.assertIn("Say what they had cost, or why nobody knows", v.text)
        v.problems.clear()
        v.fills("If nobody knows what they cost: why", "a present from Itziar")
        v.clicks("Enter it")
        v.goes_to("/holdings/trades/new?kind=buy&account=13")
        v.fills("Security", "Skerry Nordic Index")
        v.fills("Shares", "7.5")
        v.fills("In all, in SEK", "1990")
        v.clicks("Enter it")
        v.goes_to("/books/13/shares")
        self.assertIn("Every share in Skerry funds agrees", v.headline)
        self.assertIn("−1,990.00", v.text)

    def test_an_investment_statement_is_seen_before_it_is_kept(self):
        v = self.visitor
        text = investments(
            trade("BUYSTOCK", "6", "-410.00", code="ZZ00LODE0004"),
            position("18", code="ZZ00LODE0004"),
            securities=security("ZZ00LODE0004", "Lodestar Water"),
        )
        path = self.folder / "halcyon.ofx"
        path.write_text(text)
        v.goes_to("/books/bring-in")
        v.page.get_by_label("From a bank").set_input_files(str(path))
        v.clicks("Look at it")
        self.assertIn("Shares for Halcyon depot", v.text)
        self.assertIn("listed there", v.text)
        v.clicks("Bring in")
        self.assertIn("1 trade, 1 listed", v.text)
        expect(v.page.locator("tr", has_text="Lodestar Water").first).to_contain_text("18")
        self.assertIn("Tern Robotics by 40", v.headline, "the list leaves it out, so it is not there any more")
        self.assertIn("Enter what took 40 of Tern Robotics out", v.text)
        v.goes_to("/books/bring-in")
        expect(v.page.locator("tr", has_text="halcyon.ofx")).to_contain_text("one trade")
