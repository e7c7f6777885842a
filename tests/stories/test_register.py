"""The register and its entries: the quick line, editing, splits, transfers, trash and undo, sorting and finding."""

from playwright.sync_api import expect

from tests.stories.visitor import NARROW, Story


class Registers(Story):
    def test_the_quick_line_shows_what_it_understood_before_it_saves(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.presses("n")
        v.page.keyboard.type("mill 3.80 yesterday // two rolls")
        expect(v.page.locator("#understood")).to_contain_text("Millstone Bakery")
        understood = " ".join(v.page.locator("#understood").inner_text().split())
        for words in ("Wednesday 13 May", "−€3.80", "Market and bakery", "two rolls"):
            self.assertIn(words, understood)
        v.presses("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("Entered")
        first = " ".join(v.page.locator("tr[data-row]").first.inner_text().split())
        self.assertIn("13 May Millstone Bakery two rolls Market and bakery", first)
        v.presses("Escape")
        v.presses("u")
        expect(v.page.locator("[role=status]")).to_contain_text("Undone")
        self.assertNotIn("two rolls", v.text)
        v.fills("Quick line", "nothing at all")
        v.presses("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("still lacks an amount")
        self.assertEqual(v.page.get_by_label("Quick line").input_value(), "nothing at all")

    def test_a_split_shows_what_remains_and_is_refused_until_it_meets(self):
        v = self.visitor
        v.goes_to("/books/4/new")
        v.fills("Payee", "Harbour fair")
        v.fills("Amount in EUR", "30")
        v.page.locator(".split-row select").first.select_option(label="Presents")
        v.page.get_by_label("Part").first.fill("12.50")
        expect(v.page.locator("#remains")).to_contain_text("€17.50 remains")
        v.clicks("Enter it")
        self.assertIn("The parts do not meet the amount: 17.50 EUR remains.", v.text)
        v.problems.clear()  # the browser notes the 400
        v.clicks("Split further")
        v.page.locator(".split-row select").last.select_option(label="Eating out")
        v.clicks("Enter it")
        self.assertIn("split: Presents, Eating out", v.text)

    def test_a_transfer_shows_in_both_registers_and_never_as_spending(self):
        v = self.visitor
        v.goes_to("/books/1")
        v.fills("Quick line", "120 to reserve")
        v.clicks("Enter")
        self.assertIn("to Reserve", v.page.locator("tr[data-row]").first.inner_text())
        v.goes_to("/books/2")
        self.assertIn("from Household current", v.page.locator("tr[data-row]").first.inner_text())

    def test_a_reconciled_line_names_its_statement_and_refuses(self):
        v = self.visitor
        v.goes_to("/books/1?state=reconciled")
        v.clicks("Edit", role="link", within="tr:has-text('Harbour Choir')")
        v.fills("Amount in EUR", "1.00")
        v.clicks("Keep the changes")
        self.assertIn("reconciled with the statement of Household current of 30 April 2026", v.text)
        v.problems.clear()  # the browser notes the refusal

    def test_trash_keeps_what_is_deleted_until_it_is_put_back(self):
        v = self.visitor
        v.goes_to("/books/1")
        before = v.headline
        v.presses("j", "x")
        v.clicks("Delete")
        self.assertIn("Deleted 1 entry", v.text)
        self.assertNotEqual(v.headline, before)
        v.goes_to("/house")
        v.clicks("Put back")
        v.goes_to("/books/1")
        self.assertEqual(v.headline, before)

    def test_sorting_finding_and_older_rows(self):
        v = self.visitor
        v.goes_to("/books/5")
        v.clicks("Amount", role="link")
        self.assertEqual(v.page.locator("th[aria-sort]").inner_text().strip(), "Amount ↓")
        v.goes_to("/books/5")
        rows = v.page.locator("tr[data-row]").count()
        v.page.get_by_role("link", name="Earlier entries").scroll_into_view_if_needed()
        expect(v.page.locator("tr[data-row]")).not_to_have_count(rows)
        v.presses("/")
        v.page.keyboard.type("otter")
        v.presses_and_waits("Enter")
        self.assertIn("text=otter", v.page.url)
        payees = {" ".join(t.split()) for t in v.page.locator("tr[data-row] td:nth-child(3)").all_inner_texts()}
        self.assertEqual(payees, {"Otter Books"})
        v.page.go_back()
        self.assertNotIn("text=", v.page.url)

    def test_nonsense_in_the_address_is_answered_in_words(self):
        v = self.visitor
        for path in (
            "/books/1?after=zzz",
            "/books/1?order=moon",
            "/budget?month=2026-99",
            "/books/999",
            "/working/left/x",
            "/nowhere",
        ):
            v.goes_to(path)
            self.assertRegex(v.headline, r"\.$", path)
        v.problems.clear()  # the browser notes the 404s


class OnAPhone(Story):
    viewport = NARROW

    def test_every_main_page_fits_the_narrow_screen(self):
        v = self.visitor
        for path in ("/", "/books", "/books/1", "/sort", "/budget", "/worth", "/books/1/check", "/house", "/books/1/new"):
            v.goes_to(path)
            width = v.page.evaluate("() => document.documentElement.scrollWidth")
            self.assertLessEqual(width, 380, path)
