"""The year of the budget: laid out from a baseline or usual amounts, changed cell by cell with keys, tried without keeping, as
a file."""

import contextlib
import unittest
from datetime import date
from pathlib import Path

from playwright.sync_api import expect

from bolsa.core.ledger.entries import Part
from bolsa.services.clock import By
from bolsa.services.house import files
from bolsa.services.ledger import entries
from bolsa.services.ledger.entries import TypedEntry
from bolsa.store.sorting.categories import find_category_named
from tests.stories.visitor import Story


class TheYear(Story):
    def cell(self, name, month):
        return self.visitor.page.get_by_label(f"{name}, {month}, expected", exact=False).first

    def test_a_year_is_laid_out_from_usual_amounts_with_a_half_yearly_bill(self):
        v = self.visitor
        v.goes_to("/budget")
        v.clicks("Lay out the year", role="link")
        before = v.headline
        self.assertIn("Port Halden Ferry Company comes three times in", v.text)
        v.presses("a")
        expect(v.page.locator("[role=status]")).to_contain_text("Took the usual amounts of 2 categories")
        self.assertNotEqual(v.headline, before)
        expect(v.page.get_by_role("button", name="Take two usual amounts")).to_have_count(0)
        cell = v.page.get_by_label("New kiln, June 2026, expected")
        cell.click()
        cell.fill("1290 every 6")
        cell.press("Enter")
        expect(v.page.locator("[role=status]")).to_contain_text("The expected amount is set")
        expect(v.page.get_by_label("A winter in the south, June 2026, expected")).to_be_focused()
        expect(v.page.get_by_label("New kiln, June 2026, expected")).to_have_value("1,290")
        expect(v.page.get_by_label("New kiln, December 2026, expected")).to_have_attribute("placeholder", "1,290")
        expect(v.page.get_by_label("New kiln, November 2026, expected")).to_have_attribute("placeholder", "–")
        v.page.get_by_label("New kiln, June 2026, expected").focus()
        expect(v.page.get_by_label("New kiln, June 2026, expected")).to_have_value("1,290 every 6")
        v.presses("Escape")
        v.goes_to("/budget/year?first=2027-01")
        expect(v.page.get_by_label("New kiln, June 2027, expected")).to_have_attribute("placeholder", "1,290")

    def test_nonsense_is_answered_and_once_is_once(self):
        v = self.visitor
        v.goes_to("/budget/year")
        before = v.headline
        cell = v.page.get_by_label("Groceries, October 2026, expected")
        cell.fill("640 every soon")
        cell.press("Tab")
        expect(v.page.locator("[role=status]")).to_contain_text("“every soon” is no rhythm")
        self.assertEqual(v.headline, before)
        cell = v.page.get_by_label("Groceries, October 2026, expected")
        cell.fill("900 once")
        cell.press("Tab")
        expect(v.page.get_by_label("Groceries, October 2026, expected")).to_have_value("900")
        expect(v.page.get_by_label("Groceries, November 2026, expected")).to_have_attribute("placeholder", "640")
        v.clicks("Undo")
        expect(v.page.get_by_label("Groceries, October 2026, expected")).to_have_value("")

    def test_a_year_is_laid_out_from_the_baseline_and_undone_whole(self):
        v = self.visitor
        v.goes_to("/budget/year")
        before = v.headline
        v.clicks("Take a baseline", role="link")
        self.assertIn("Twelve full months would change what is expected of 33 categories", v.headline)
        v.page.get_by_label("Their median").check()
        v.fills("How many full months", "6")
        v.clicks("Show it")
        self.assertIn("Six full months would change", v.headline)
        v.page.get_by_label("Choose Noor’s pay").uncheck()
        v.presses_and_waits("a")
        expect(v.page.locator("[role=status]")).to_contain_text("Took the median of 6 full months as a baseline from May 2026")
        self.assertNotEqual(v.headline, before)
        expect(v.page.get_by_label("Noor’s pay, May 2026, expected")).to_have_attribute("placeholder", "2,480")
        v.presses_and_waits("u")
        self.assertEqual(v.headline, before)
        v.goes_to("/budget/baseline?months=lots")
        self.assertIn("“lots” is no number of months", v.headline)

    def test_per_cent_a_pasted_row_and_the_figure_above(self):
        v = self.visitor
        v.goes_to("/budget/year")
        cell = v.page.get_by_label("Groceries, June 2026, expected")
        cell.fill("+10 %")
        cell.press("Tab")
        expect(v.page.get_by_label("Groceries, June 2026, expected")).to_have_value("704")
        expect(v.page.get_by_label("Groceries, December 2026, expected")).to_have_attribute("placeholder", "704")
        v.page.get_by_label("Eating out, September 2026, expected").focus()
        v.page.evaluate("""() => {
            const data = new DataTransfer(); data.setData("text", "95\\t120\\t80");
            document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable:
            true }));
        }""")
        expect(v.page.get_by_label("Eating out, October 2026, expected")).to_have_value("120")
        expect(v.page.get_by_label("Eating out, December 2026, expected")).to_have_attribute("placeholder", "80")
        expect(v.page.get_by_label("Eating out, September 2026, expected")).to_have_value("")
        v.page.get_by_label("Health, November 2026, expected").focus()
        v.presses("Control+d", "Tab")
        expect(v.page.get_by_label("Health, November 2026, expected")).to_have_value("80")

    def test_a_dearer_mooring_and_no_van_are_tried_put_by_and_kept(self):
        v = self.visitor
        v.goes_to("/budget/year")
        kept = v.amount(r"leaves (€[\d,.]+)")
        v.presses_and_waits("t")
        self.assertIn("Nothing is changed yet", v.text)
        cell = v.page.get_by_label("Mooring lease, July 2026, expected").first
        cell.fill("1490 once")
        cell.press("Tab")
        expect(v.page.locator("[role=status]")).to_contain_text("Tried, not kept")
        self.assertIn(f"As kept, January 2026 to December 2026 leaves {kept}; with the trial it leaves", v.headline)
        health = v.page.get_by_label("Health, August 2026, expected").first
        health.fill("+3 %")
        health.press("Tab")
        expect(v.page.locator("[role=status]")).to_contain_text("Health expects from August 2026 by +3 %, not kept")
        expect(v.page.locator(".balance-kept")).to_have_count(1)
        v.clicks("Do without a category, another aim", role="link")
        v.chooses("Category", "Van share")
        v.fills("From the month", "2026-07")
        v.clicks("Do without it")
        self.assertIn("changes three categories", v.headline)
        v.clicks("To its year", role="link")
        self.assertIn("€", v.opens_slip(v.amount(r"with the trial it leaves (€[\d,]+\.\d\d)"), within="h1"))
        v.presses("Escape")
        v.fills("Put it by as", "No van")
        v.clicks("Put it by")
        v.clicks("Back to the year as kept", role="link")
        self.assertIn(f"leaves {kept}", v.headline)
        v.clicks("Trial “No van”", role="link")
        self.assert_accessible()
        v.clicks("Keep the trial")
        expect(v.page.locator("[role=status]")).to_contain_text("Kept what was tried of three categories")
        expect(v.page.get_by_label("Van share, August 2026, expected")).to_have_attribute("placeholder", "–")
        v.clicks("Undo")
        v.goes_to("/budget/year")
        expect(v.page.get_by_label("Van share, August 2026, expected")).to_have_attribute("placeholder", "60")
        expect(v.page.get_by_role("link", name="Trial “No van”")).to_have_count(1)

    def test_the_year_leaves_as_a_file_and_comes_back_changed(self):
        v = self.visitor
        v.goes_to("/budget/year")
        with v.page.expect_download() as saved:
            v.page.get_by_role("link", name="Save as CSV").click()
        text = Path(saved.value.path()).read_text("utf-8-sig")
        row = next(line for line in text.splitlines() if ",Groceries," in line and ",expected," in line)
        for content, words in (
            (text.replace(row, row.replace("Groceries", "Yachts")), "there is no category “Yachts”"),
            (text.replace(row, row[: row.rindex(",")] + ",700.00"), "one cell of one category is as in the file"),
            (text.replace(row, row[: row.rindex(",")] + ",700.00"), "Everything is as in the file already"),
        ):
            v.page.get_by_text("Bring in a CSV").click()
            v.page.get_by_label("The year as it was saved").set_input_files(
                {"name": "year.csv", "mimeType": "text/csv", "buffer": content.encode()}
            )
            v.clicks("Bring it in")
            expect(v.page.locator("[role=status], [role=alert]").first).to_contain_text(words)
            v.goes_to("/budget/year")
        expect(v.page.get_by_label("Groceries, December 2026, expected")).to_have_value("700")

    def test_uneven_income_with_a_poor_month_shows_where_it_dips(self):
        v = self.visitor
        by = By(date(2026, 5, 14), "2026-05-14T10:00:00Z", 1)
        with contextlib.closing(files.make_file(self.path)) as db:
            sales = find_category_named(db, "Studio sales").id
            entries.record_entry(db, by, 1, TypedEntry(date(2026, 5, 13), "Fair", 240_000, (Part(sales, -240_000),)))
        v.goes_to("/budget/year?first=2026-05")
        for month, amount in (("June 2026", "0 once"), ("July 2026", "0 once"), ("September 2026", "2600 once")):
            cell = v.page.get_by_label(f"Studio sales, {month}, expected")
            cell.fill(amount)
            cell.press("Tab")
            expect(v.page.locator("[role=status]")).to_contain_text("The expected amount is set")
            v.settles()
        expect(v.page.locator(".dip").first).to_be_attached()
        self.assertRegex(v.headline, r"it is lowest in (June|July|August) 2026, at −€")
        v.goes_to("/budget")
        self.assertIn("€2,400.00 is unplaced", v.headline)
        v.clicks("Fill all needs in order")
        v.goes_to("/budget?month=2026-06")
        v.clicks("Fill all needs in order")
        self.assertNotIn("promised", v.headline)


if __name__ == "__main__":
    unittest.main()
