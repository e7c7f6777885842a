"""Fields of every page: a picker by letters, a category made in it, a day in words and in the small month, a sum in an amount."""

from playwright.sync_api import expect

from tests.stories.visitor import Story


class Parts(Story):
    def test_a_category_is_made_while_an_entry_is_typed_and_a_sum_is_worked_out(self):
        v = self.visitor
        v.goes_to("/books/1/new")
        v.fills("Payee", "Otter Books")
        v.fills("Amount in EUR", "120/2")
        field = v.page.locator(".split-row").get_by_role("combobox", name="Category").first
        field.fill("Bee keeping")
        field.press("Enter")  # make it
        field.press("Enter")  # in the first group
        expect(field).to_have_value("Bee keeping")
        v.clicks("Enter it")
        v.goes_to("/books/1?text=otter")
        row = v.page.locator("tr[data-row]").first
        expect(row).to_contain_text("Bee keeping")
        expect(row).to_contain_text("−60.00")

    def test_free_words_are_offered_by_what_is_known_and_taken_by_keys(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.fills("Quick line", "millstone 3 market yesterday #harbour")
        v.clicks("Enter")
        v.goes_to("/books/1/new")
        payee = v.page.get_by_role("combobox", name="Payee")
        payee.press_sequentially("otte")
        v.settles()
        expect(v.page.locator(".picker [role=option]:visible")).to_have_text(["Otter Books"])
        late = []

        def holds(route):
            late.append(route)

        v.page.route("**/*text=otter", holds)
        with v.page.expect_request("**/*text=otter"):
            payee.press_sequentially("r")
        v.presses("ArrowDown")
        late[0].continue_()  # the answer to the last letter comes after one has walked down
        v.settles()
        v.presses("Enter")
        expect(payee).to_have_value("Otter Books")
        v.fills("Amount in EUR", "9")
        v.presses("F2")
        v.page.locator("[name=tags]").press_sequentially("new, ha")
        expect(v.page.locator(".picker [role=option]:visible")).to_have_text(["harbour"])
        v.presses("ArrowDown", "Enter")
        expect(v.page.locator("[name=tags]")).to_have_value("new, harbour ")
        v.clicks("Enter it")
        expect(v.page.locator("tr[data-row]").first).to_contain_text("Otter Books #harbour #new")

    def test_a_day_is_read_in_words_and_clicked_in_a_small_month(self):
        v = self.visitor
        v.goes_to("/books/1/new")
        day = v.page.get_by_label("Day", exact=True)
        day.fill("yesterday")
        expect(v.page.locator(".understood").first).to_have_text("Wednesday 13 May 2026")
        v.page.get_by_label("Day: choose in a month").click()
        v.presses("ArrowUp", "Enter")
        expect(day).to_have_value("06/05/2026")
        expect(v.page.locator(".understood").first).to_have_text("Wednesday 6 May 2026")

    def test_what_a_day_is_understood_as_moves_nothing_while_a_button_is_pressed(self):
        v = self.visitor
        v.goes_to("/holdings/trades/new?kind=opening&account=13&security=1")
        button = v.page.get_by_role("button", name="Enter it")
        before = button.bounding_box()
        v.fills("Held since, if longer", "3 march 2024")
        expect(v.page.locator(".understood").nth(1)).to_have_text("Sunday 3 March 2024")
        self.assertEqual(button.bounding_box(), before)

    def test_a_picture_says_its_values_to_the_pointer_the_keys_and_as_a_table(self):
        v = self.visitor
        v.goes_to("/worth")
        picture, readout = v.page.locator("[data-picture]"), v.page.locator(".readout")
        expect(readout).to_contain_text("May 2026: net €184,444.04")
        picture.focus()
        v.presses("End", "ArrowLeft")
        expect(readout).to_contain_text("April 2026: net")
        v.page.locator(".mark .hit").first.hover()
        expect(readout).to_contain_text("June 2024: net")
        v.page.get_by_text("As a table").click()
        self.assertIn("May 2026 €28,300.15 €76,373.22 €122,545.55 −€42,774.88 €184,444.04", v.text)
        picture.focus()
        v.presses("End", "ArrowLeft", "Enter")
        v.page.wait_for_url("**/worth?month=2026-04")

    def test_numbers_are_written_and_read_as_chosen(self):
        v = self.visitor
        v.goes_to("/house/reading")
        v.page.get_by_label("German, Germany").check()
        v.clicks("Write them this way")
        v.goes_to("/books/1")
        v.page.locator("#quick").fill("Otter Books 1.234,50 household 7.5.2026")
        expect(v.page.locator("#understood")).to_contain_text("−1.234,50")
        v.page.locator("#quick").press("Enter")
        expect(v.page.get_by_role("status")).to_contain_text("−1.234,50")
