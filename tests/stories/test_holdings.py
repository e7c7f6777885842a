"""Holdings: one added from search, an opening position, a dividend against its advice, an impossible gain found and mended."""

from playwright.sync_api import expect

from tests.stories.visitor import NARROW, Story


class Holdings(Story):
    market = True

    def row(self, name):
        return self.visitor.page.locator("tr[data-row]", has_text=name).first

    def test_an_impossible_gain_is_found_and_mended_in_two_acts_and_undone(self):
        v = self.visitor
        v.goes_to("/")
        v.goes_by_keys("h")
        self.assertIn("Four costs or counts are doubtful", v.headline)
        self.assertIn("gain 1,471.70 → 284.21", v.text)
        expect(self.row("Petrel Instruments")).to_contain_text("1,471.70")
        v.presses_and_waits("2")
        expect(v.page.locator("[role=status]")).to_contain_text("Take it as the price of one share: US$1,368.00")
        expect(self.row("Petrel Instruments")).to_contain_text("284.21")
        words = v.opens_slip("1,228.44")
        self.assertIn("US$1,368.00", words)
        v.presses("Escape")
        v.presses("u")
        expect(v.page.locator("h1")).to_contain_text("Four costs or counts are doubtful")
        v.presses_and_waits("1")
        expect(self.row("Tern Robotics")).to_contain_text("120")
        expect(self.row("Tern Robotics")).to_contain_text("3,855.37")

    def test_a_holding_is_added_from_search_and_bought_at_the_close(self):
        v = self.visitor
        v.goes_to("/holdings")
        v.clicks("Securities and prices", role="link")
        v.fills("Find in the market, by name, code or market", "gannet")
        v.presses("Enter")
        v.settles()
        self.assertIn("Gannet Small Firms", v.text)
        v.clicks("Add", within="main")
        expect(v.page.locator("h1")).to_contain_text("Gannet Small Firms has no price yet")
        v.clicks("All securities", role="link")
        v.clicks("Fetch prices")
        expect(v.page.locator("[role=status]")).to_contain_text("prices are new", timeout=60_000)
        v.goes_to("/holdings/trades/new?kind=buy")
        v.chooses("In the account", "Halcyon depot")
        v.fills("Security", "Gannet Small Firms")
        v.presses("Tab")
        v.settles()
        expect(v.page.locator("#offer")).to_contain_text("The close of 14 May is 50.0955 EUR")
        v.fills("Shares", "4")
        v.clicks("Enter it")
        expect(v.page.locator("h1")).to_contain_text("4 Gannet Small Firms are worth €200.38")
        v.clicks("Sold", role="link")
        v.fills("Shares", "5")
        v.clicks("Enter it")
        self.assertIn("There are 4 shares on that day", v.text)
        v.problems.clear()  # the browser notes the 400
        expect(v.page.get_by_label("Shares", exact=True)).to_have_value("5")

    def test_an_opening_position_keeps_its_cost_and_its_day(self):
        v = self.visitor
        v.goes_to("/holdings/trades/new?kind=opening&account=13&security=1")
        v.fills("Shares", "10")
        v.fills("Day", "1 may")
        v.clicks("Enter it")
        expect(v.page.locator("#work")).to_contain_text("Say what they had cost, or why nobody knows")
        v.problems.clear()
        v.fills("Had cost in SEK", "1,900")
        v.fills("Held since, if longer", "3 march 2024")
        v.clicks("Enter it")
        expect(v.page.locator("tr[data-row]", has_text="3 March 2024")).to_contain_text("1,900.00")

    def test_a_distribution_is_entered_as_its_advice_says(self):
        v = self.visitor
        v.goes_to("/holdings")
        self.assertIn("Two distributions were paid and not entered", v.text)
        line = v.page.locator(".items li", has_text="Skerry Nordic Index")
        line.get_by_label("received").fill("1,067.40")
        line.get_by_label("withheld").fill("188.37")
        line.get_by_role("button", name="Enter it").click()
        v.settles()
        self.assertIn("One distribution was paid and not entered", v.text)
        v.clicks("Sold and distributed in 2026", role="link")
        expect(v.page.locator("tr[data-row]", has_text="Skerry Nordic Index")).to_contain_text("95.87")
        v.page.go_back()
        expect(v.page.locator("h1")).to_contain_text("Holdings are worth")
        v.settles()
        v.presses_and_waits("a")
        self.assertNotIn("paid and not entered", v.text)

    def test_the_order_of_lots_is_seen_before_it_is_chosen(self):
        v = self.visitor
        v.goes_to("/holdings/13/1")
        v.clicks("How the account counts", role="link")
        row = v.page.locator("tr[data-row]", has_text="Average cost")
        row.get_by_role("button", name="Take them so").click()
        v.settles()
        expect(v.page.locator("[role=status]")).to_contain_text("Skerry funds takes lots by: average cost")

    def test_it_is_sound_on_a_narrow_screen_and_without_anything(self):
        v = self.visitor
        v.page.set_viewport_size(NARROW)
        for path in ("/holdings", "/holdings/13/1", "/holdings/trades/new", "/holdings/securities"):
            v.goes_to(path)
            self.assertFalse(v.page.evaluate("document.documentElement.scrollWidth > innerWidth"), path)
