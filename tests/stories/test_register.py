"""The register and its entries: the quick line, a pile of receipts, filters, many at once, find, attachments, history."""

import re

from PIL import Image
from playwright.sync_api import expect

from tests.stories.visitor import NARROW, Story


class Registers(Story):
    def test_the_quick_line_shows_what_it_understood_before_it_saves(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.presses("n")
        v.page.keyboard.type("mill 3.80 yesterday // two rolls")
        expect(v.page.locator("#understood")).to_contain_text("two rolls")
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
        v.picks(v.page.locator(".split-row").get_by_role("combobox", name="Category").first, "Presents")
        v.clicks("Split further")
        v.page.get_by_label("Part").first.fill("12.50")
        expect(v.page.locator("#remains")).to_contain_text("€17.50 remains")
        v.clicks("Enter it")
        self.assertIn("The parts do not meet the amount: €17.50 remains.", v.text)
        v.problems.clear()  # the browser notes the 400
        v.clicks("Split further")
        v.picks(v.page.locator(".split-row").get_by_role("combobox", name="Category").last, "Eating out")
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
        v.clicks("Harbour Choir", role="link", within="tr[data-row]")
        v.fills("Amount in EUR", "1.00")
        v.clicks("Keep the changes")
        self.assertIn("reconciled with the statement of Household current of 30 April 2026", v.text)
        v.problems.clear()  # the browser notes the refusal

    def test_trash_keeps_what_is_deleted_until_it_is_put_back(self):
        v = self.visitor
        v.goes_to("/books/1")
        before = v.headline
        v.presses("j", "x")
        v.chooses("What to do", "Delete")
        v.clicks("Do it")
        self.assertIn("Deleted one entry", v.text)
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
        v.presses("f")
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


class ManyAtOnce(Story):
    def chosen(self, what: str, **fields: str) -> None:
        v = self.visitor
        v.chooses("What to do", what)
        for label, words in fields.items():
            v.page.locator(".foot").get_by_label(label, exact=True).fill(words)
        v.clicks("Do it")

    def test_filters_combine_live_in_the_address_and_are_saved(self):
        v = self.visitor
        v.goes_to("/books/5?category=&payee=grebe+street+grocer&least=50&from=2026-01-01&to=2026-04-30&state=reconciled")
        self.assertIn("Only payee grebe street grocer, amounts from 50, from 1 January 2026, until 30 April 2026.", v.text)
        amounts = [
            float(t.replace("−", "").replace(",", "")) for t in v.page.locator("tr[data-row] td.n:nth-child(6)").all_inner_texts()
        ]
        self.assertTrue(amounts and min(amounts) >= 50)
        v.fills("Name of the filter", "Large shops")
        v.clicks("Save it")
        v.goes_to("/books/1")
        v.clicks("Large shops", role="link")
        self.assertIn("least=50", v.page.url)
        v.goes_to("/books/1?least=lots")
        self.assertIn("“lots” is not an amount", v.text)
        v.problems.clear()  # the browser notes the 400
        v.goes_to("/books/1?series=yes")
        self.assertGreater(v.page.get_by_role("img", name="comes again and again").count(), 3)

    def test_bulk_changes_from_the_foot_bar_and_their_undo(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.presses("j", "x", "j", "x")
        expect(v.page.locator(".foot")).to_contain_text("2 chosen, €9.87")
        self.chosen("Tag with", Words="harbour-fair")
        expect(v.page.locator("[role=status]")).to_contain_text("Tagged 2 entries with harbour-fair")
        self.assertEqual(v.page.get_by_role("link", name="#harbour-fair").count(), 2)
        v.clicks("#harbour-fair", role="link")
        self.assertEqual(v.page.locator("tr[data-row]").count(), 2)
        v.goes_to("/books/4")
        v.presses("j", "x")
        self.chosen("Rename the payee to", Words="Fish on the pier")
        expect(v.page.locator("tr[data-row]").first).to_contain_text("Fish on the pier")
        v.presses("x")
        self.chosen("Move by days", Days="-1")
        expect(v.page.locator("[role=status]")).to_contain_text("Moved one entry one day back")
        v.presses("Escape", "u")
        expect(v.page.locator("[role=status]")).to_contain_text("Undone: Moved")
        v.page.get_by_label("Choose all shown").check()
        v.chooses("What to do", "Mark pending")
        v.clicks("Do it")
        self.assertIn("is reconciled with the statement", v.text)

    def test_paper_and_the_clipboard_get_every_row_that_fits(self):
        v = self.visitor
        v.page.add_init_script("window.print = () => { document.body.dataset.printed = '1'; }")
        v.goes_to("/books/5?text=millstone")
        v.clicks("Print", role="link")
        self.assertEqual(v.page.evaluate("document.body.dataset.printed"), "1")
        rows = v.page.locator("tr[data-row]").count()
        self.assertGreater(rows, 200)
        v.page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        v.clicks("Copy as CSV")
        expect(v.page.get_by_role("button", name="Copied")).to_be_visible()
        copied = v.page.evaluate("navigator.clipboard.readText()")
        self.assertEqual(len(copied.strip().splitlines()), rows + 1)
        self.assertIn("Millstone Bakery,Market and bakery", copied)

    def test_the_columns_are_the_users_choice(self):
        v = self.visitor
        v.goes_to("/books/5")
        v.page.locator("summary:has-text('Columns')").click()
        v.page.get_by_label("As the bank sent it").check()
        v.page.get_by_label("Balance", exact=True).uncheck()
        v.clicks("Show these")
        heads = v.page.locator("thead").first.inner_text()
        self.assertIn("As the bank sent it", heads)
        self.assertNotIn("Balance", heads)


class OneEntry(Story):
    def test_its_history_says_who_and_what_and_every_step_can_be_undone(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.clicks("Saturday Market", role="link", within="tr[data-row]")
        v.presses("F2")
        v.page.locator("tr.opened").get_by_label("Note to yourselves").fill("for the soup")
        v.page.locator("tr.opened [name=tags]").fill("soup, market")
        v.clicks("Keep the changes")
        v.clicks("Saturday Market", role="link", within="tr[data-row]")
        opened = v.page.locator("tr.opened")
        opened.get_by_text("What was done to it").click()
        expect(opened).to_contain_text("note: nothing → for the soup")
        expect(opened).to_contain_text("Noor")
        opened.get_by_role("button", name="Undo this").first.click()
        v.settles()
        expect(v.page.locator("[role=status]")).to_contain_text("Undone")
        v.clicks("Saturday Market", role="link", within="tr[data-row]")
        expect(v.page.locator("tr.opened [name=note]")).to_have_value("")

    def test_enter_keeps_it_where_the_register_was_and_leads_to_the_row_after_it(self):
        v = self.visitor
        v.goes_to("/books/4?text=mika")
        v.presses("j", "j", "Enter")
        expect(v.page.locator("tr.opened [name=payee]")).to_be_focused()
        v.page.locator("tr.opened [name=payee]").fill("Mika Ltd")
        v.presses("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("Changed Mika Ltd")
        self.assertIn("text=mika", v.page.url)
        rows = v.page.locator("tr[data-row]")
        expect(rows.nth(1)).to_contain_text("Mika Ltd")
        self.assertEqual(rows.nth(2).get_attribute("data-here"), "")

    def test_what_is_said_of_an_unsorted_entry_stays_with_it(self):
        v = self.visitor
        v.goes_to("/books/1?text=kittiwake&state=cleared")
        v.page.locator("tr[data-row] td").nth(1).click()  # a row opens wherever it is clicked
        v.settles()
        v.presses("F2")
        v.page.locator("tr.opened [name=tags]").fill("harbourside")
        v.picks(v.page.locator("tr.opened [role=combobox][aria-label=For]").first, "Itziar")
        v.clicks("Keep the changes")
        v.goes_to("/books/1?tag=harbourside")
        expect(v.page.locator("tr[data-row]")).to_contain_text("not sorted")
        v.page.get_by_label("Choose Kittiwake Mooring").check()
        v.picks(v.page.locator(".foot").get_by_role("combobox", name="Category"), "Mooring sublet")
        v.clicks("Do it")
        expect(v.page.locator("tr[data-row]")).to_contain_text("Mooring")
        self.assertEqual(v.page.get_by_role("link", name="#harbourside").count(), 1)

    def test_a_receipt_is_attached_by_its_content_with_a_small_picture(self):
        v = self.visitor
        picture, pdf, fake = self.folder / "till.txt", self.folder / "bill.pdf", self.folder / "cat.png"
        Image.new("RGB", (900, 600), "white").save(picture, "PNG")
        Image.new("RGB", (300, 400), "white").save(pdf, "PDF")
        fake.write_text("<script>alert(1)</script>")
        v.goes_to("/entries/100")
        v.page.get_by_label("Image or PDF").set_input_files([picture, pdf])
        v.page.get_by_role("button", name="Attach").click()
        v.settles()
        self.assertIn("till.txt, ", v.text)
        sizes = v.page.locator("img").evaluate_all("all => all.map(i => i.naturalWidth)")
        self.assertEqual([0 < size <= 240 for size in sizes], [True, True])
        v.page.get_by_label("Image or PDF").set_input_files(fake)
        v.page.get_by_role("button", name="Attach").click()
        v.settles()
        self.assertIn("This is no image (JPEG, PNG, WebP, GIF) and no PDF", v.text)
        v.page.get_by_role("button", name="Take it off").first.click()
        v.settles()
        self.assertEqual(v.page.locator("img").count(), 1)


class Receipts(Story):
    def test_a_pile_of_receipts_by_keys_alone(self):
        v = self.visitor
        v.goes_to("/books/4")
        before = v.page.locator("tr[data-row]").count()
        v.presses("n")
        lines = {
            "saturday 12.40 mar yesterday": "Saturday Market", "mill 4.10": "Millstone Bakery",
            "ferry kiosk 3.60 ferry 2026-05-10 #harbour": "Ferry kiosk", "thrift 9 @mika": "Thrift on the Quay",
            "pier fish 14.20 groceries 9.20 house": "Pier fish", "20 to res": "Reserve", "mika 6.00 pocket @mika": "Mika",
            "tide cafe 5.50 eating monday // with Ida": "Tide cafe", "+2.40 bottle deposit": "Bottle deposit",
            "lantern 7.95 house from card": "Lantern Hardware",
        }  # fmt: skip
        for typed, payee in lines.items():
            v.page.keyboard.type(typed)
            v.presses("Enter")
            expect(v.page.locator("[role=status]")).to_contain_text(f"Entered {payee},")
            expect(v.page.get_by_label("Quick line")).to_be_focused()
            expect(v.page.get_by_label("Quick line")).to_have_value("")
        self.assertEqual(v.page.locator("tr[data-row]").count(), min(80, before + 9))
        self.assertIn("split: Groceries, Household", v.text)
        v.page.keyboard.type("saturday")
        expect(v.page.locator("#understood")).to_contain_text("as last time")
        v.presses("Escape")
        v.goes_to("/books/4?tag=harbour")
        self.assertEqual(v.page.locator("tr[data-row]").count(), 1)
        v.goes_to("/books/5?text=lantern&from=2026-05-14")
        self.assertEqual(v.page.locator("tr[data-row]").count(), 1)

    def test_tab_completes_payee_category_and_tag(self):
        v = self.visitor
        v.goes_to("/books/4")
        v.presses("n")
        v.page.keyboard.type("grebe str")
        expect(v.page.locator("#understood")).to_contain_text("Tab")
        v.presses("Tab")
        expect(v.page.get_by_label("Quick line")).to_have_value("Grebe Street Grocer ")
        v.page.keyboard.type("8.20 groc")
        expect(v.page.locator("[data-completed]")).to_have_text("Grebe Street Grocer 8.20 Groceries")
        v.presses("Tab", "Enter")
        expect(v.page.locator("tr[data-row]").first).to_contain_text("Groceries")


class Finding(Story):
    def test_find_leads_everywhere_as_one_types(self):
        v = self.visitor
        v.goes_to("/budget")
        for typed, words, leads in (
            ("otter", "all entries", "/books/5?payee=Otter"),
            ("kiln la", "all entries", "/books/3?payee=Kiln"),
            ("groceries", "Categories", "/budget?open="),
            ("reserve", "Halden Mutual", "/books/2"),
            ("backup", "Make a backup", None),
        ):
            with self.subTest(typed):
                v.presses("/")
                v.page.keyboard.type(typed)
                expect(v.page.locator("#found")).to_contain_text(words)
                if leads:
                    v.presses("Enter")  # which waits for the answer to all that is typed
                    expect(v.page).to_have_url(re.compile(re.escape(leads)))
                    v.settles()
        v.goes_to("/find?q=133.86")
        self.assertIn("Heron School", v.text)
        v.goes_to("/find?q=zzzz")
        self.assertEqual(v.headline, "Nothing begins with “zzzz”.")


class OnAPhone(Story):
    viewport = NARROW

    def test_every_main_page_fits_the_narrow_screen(self):
        v = self.visitor
        for path in ("/", "/books", "/books/1", "/sort", "/budget", "/worth", "/books/1/check", "/house", "/books/1/new"):
            v.goes_to(path)
            width = v.page.evaluate("() => document.documentElement.scrollWidth")
            self.assertLessEqual(width, 380, path)
