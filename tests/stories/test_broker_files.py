"""A broker's table whose words are asked about, and brokers' letters from the mail folder; an advice that lies with its trade."""

from playwright.sync_api import expect

from tests.services.household import picture
from tests.stories.visitor import NARROW, Story

TABLE = (
    b"Halcyon depot HD20881\nTrade date;Type;Security;Quantity;Price;Fee;Net amount;Currency\n"
    b"04.05.2026;Buy;Tern Robotics;12;32,20;1,50;-387,90;USD\n05.05.2026;Sell;Petrel Instruments;-3,5;49,00;0,50;171,00;USD\n"
    b"06.05.2026;Dividend;Wherry Freight;;;;12,34;USD\n07.05.2026;Deposit;;;;;500,00;USD\n"
    b"08.05.2026;Corporate action;Tern Robotics;5;;;;USD\n"
)


class BrokerFiles(Story):
    mail = True

    def test_a_table_asks_what_a_word_means_once_and_is_taken_out_again(self):
        v = self.visitor
        path = self.folder / "halcyon.csv"
        path.write_bytes(TABLE)
        v.goes_to("/books/bring-in")
        v.page.get_by_label("From a bank or a broker").set_input_files(path)
        v.page.locator("form", has_text="From a bank").get_by_role("button", name="Look at it").click()
        expect(v.page.locator("main .said.problem")).to_contain_text("Say what “corporate action” means")
        v.page.get_by_label("corporate action").select_option("left out")
        expect(v.page.locator("h1")).to_contain_text("would bring three trades and one new entry")
        self.assertIn("Line 7: left out", v.text)
        sold = v.page.locator("tr[data-row]", has_text="Petrel Instruments")
        sold.hover()
        sold.get_by_role("button", name="Leave out").click()
        expect(v.page.locator("h1")).to_contain_text("would bring two trades")
        v.page.reload()
        expect(v.page.locator("tr[data-row]", has_text="Petrel Instruments")).to_contain_text("left out by you")
        self.assert_accessible()
        v.page.set_viewport_size(NARROW)
        self.assertFalse(v.page.evaluate("document.documentElement.scrollWidth > innerWidth"))
        v.page.set_viewport_size(self.viewport)
        v.clicks("Bring in 3")
        expect(v.page.locator("[role=status]")).to_contain_text("2 trades")
        v.goes_to("/books/bring-in")
        v.page.locator("tr[data-row]", has_text="halcyon.csv").get_by_role("button", name="Take it out again").click()
        v.settles()
        expect(v.page.locator("tr[data-row]", has_text="halcyon.csv")).to_contain_text("taken out again")

    def test_letters_become_trades_and_the_advice_lies_with_its_trade(self):
        v = self.visitor
        v.goes_to("/books/bring-in")
        expect(v.page.locator("li", has_text="Our opening hours in June")).to_contain_text("It tells of no trade")
        v.clicks("Look at two letters")
        v.settles()
        headlines = []
        for _ in range(2):
            headlines.append(v.headline)
            v.presses("Enter")
            v.settles()
            v.presses("w")
            v.settles()
        self.assertEqual(
            sorted(one.split(" would")[0] for one in headlines), ["Confirmation of your purchase", "Dividend advice"]
        )
        v.goes_to("/books/bring-in")
        expect(v.page.locator("li", has_text="Dividend advice")).to_contain_text("brought in")
        v.goes_to("/holdings")
        v.page.get_by_role("link", name="Tern Robotics").first.click()
        v.settles()
        v.page.locator("tr[data-row]", has_text="13 May").get_by_role("link").first.click()
        v.settles()
        v.page.locator("input[type=file]").set_input_files({"name": "advice.png", "mimeType": "image/png", "buffer": picture()})
        v.clicks("Attach")
        expect(v.page.locator("[role=status]")).to_contain_text("advice.png is attached")
        self.assert_accessible()
        v.clicks("Take it off")
        expect(v.page.locator("[role=status]")).to_contain_text("advice.png is taken off")
        v.presses("u")
        expect(v.page.locator("main")).to_contain_text("advice.png, 0 KB")
