"""A rule written as a sentence, tried on the past, applied without two of its entries; order, off, out, taken out as a file."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Rules(Story):
    def test_a_rule_over_sixty_past_entries_in_five_acts_with_two_unticked(self):
        v = self.visitor
        v.goes_to("/sort/rules")
        self.assertIn("Six rules filed", v.headline)
        self.assertIn("rule 2 comes first each time", v.text)
        v.presses_and_waits("n")  # 1
        self.assertIn("Write the letters to look for", v.text)
        v.page.get_by_label("Letters of the payee").fill("kelp")  # 2
        v.chooses("Category to file under", "Presents")  # 3
        expect(v.page.locator("#met")).to_contain_text("Meets 61 entries")
        expect(v.page.locator("#met")).to_contain_text("61 of them would change")
        boxes = v.page.locator("#met [name=take]")
        boxes.nth(1).uncheck()  # 4
        expect(v.page.locator("#met")).to_contain_text("60 of them would change")
        v.page.locator("#met [name=take]").nth(4).uncheck()
        expect(v.page.locator("#met")).to_contain_text("taken out by hand")
        v.clicks("Keep the rule and change 59 entries")  # 5
        self.assertIn("Applied the rule to 59 entries", v.text)
        self.assertIn("Seven rules filed", v.headline)
        v.presses_and_waits("u")
        self.assertIn("Six rules filed", v.headline)
        v.goes_to("/payees?text=kelp")
        self.assertIn("Eating out", v.text)

    def test_parts_are_added_and_left_out_and_nonsense_is_said_beside_its_part(self):
        v = self.visitor
        v.goes_to("/sort/rules?new=1")
        v.page.get_by_label("Letters of the payee").fill("anchor")
        v.page.get_by_label("And when").select_option(label="the amount")
        v.settles()
        expect(v.page.locator("select.how")).to_have_count(2)
        v.page.locator("select.how").nth(1).select_option(label="is between")
        v.settles()
        expect(v.page.get_by_label("Amount at most")).to_be_visible()
        v.page.get_by_label("And do").select_option(label="split it")
        v.settles()
        v.clicks("Leave out: this", within=".says:nth-of-type(2)")
        v.chooses("Category of part 1", "Upkeep")
        v.page.get_by_label("Amount or per cent of part 1").fill("50 %")
        v.chooses("Category of part 2", "Van share")
        v.page.get_by_label("Amount", exact=True).fill("90")
        v.page.get_by_label("Amount at most").fill("5")
        expect(v.page.locator("#met")).to_contain_text("The first amount is the smaller one")
        v.page.get_by_label("Amount at most").fill("twelve")
        expect(v.page.locator("#met")).to_contain_text("twelve")
        v.page.get_by_label("Amount at most").fill("200")
        expect(v.page.locator("#met")).to_contain_text("split: Upkeep, Van share")
        self.assert_accessible()
        v.clicks("Keep it for what comes")
        self.assertIn("the amount is between 90.00 and 200.00, split it: 50 % to Upkeep and the rest to Van share.", v.text)

    def test_what_a_slow_machine_is_still_writing_is_not_lost_to_what_it_would_do(self):
        v = self.visitor
        v.goes_to("/sort/rules?new=1")
        v.page.route("**/rules/say", lambda route: (v.page.wait_for_timeout(500), route.continue_()))
        v.page.get_by_label("Letters of the payee").press_sequentially("anchor")
        v.page.get_by_label("And when").select_option(label="the amount")
        expect(v.page.locator("select.how")).to_have_count(2)
        expect(v.page.locator("#met")).to_contain_text("Write an amount")

    def test_order_by_keys_off_and_out(self):
        v = self.visitor
        v.goes_to("/sort/rules")
        v.presses("j")
        v.presses_and_waits("J")
        self.assertIn("heron", v.page.locator("tr[data-row]").first.inner_text())
        v.presses_and_waits("u")
        v.presses("j")
        v.presses_and_waits("Enter")
        v.clicks("Turn it off")
        self.assertIn("Off.", v.text)
        v.goes_to("/sort/rules?open=4")
        v.clicks("Take it out")
        self.assertIn("what it filed stays as it is", v.text)
        with v.page.expect_download() as saved:
            v.page.get_by_role("link", name="Take them out as a file").click()
        content = saved.value.path().read_text(encoding="utf-8")
        self.assertIn('"file": "Fuel and gas"', content)
        v.goes_to("/sort/rules/bring")
        path = self.folder / "rules.json"
        path.write_text(content.replace("Fuel and gas", "No such thing"), encoding="utf-8")
        v.page.get_by_label("File").set_input_files(path)
        v.clicks("Bring them in")
        self.assertIn("Rule 3: There is no category “No such thing” here", v.text)
        v.problems.clear()  # the browser notes the 400
