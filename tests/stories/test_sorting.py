"""Sorting: the first hour, the weekly five minutes, a correction that becomes a rule, a question asked and answered."""

import contextlib
import sqlite3

from playwright.sync_api import expect

from tests.stories.visitor import Story

MANY = 500
FILED = """
    SELECT e.id AS entry_id, p.name AS payee, k.name AS category, c.id AS line_id FROM entry e JOIN payee p ON p.id = e.payee_id
    JOIN line c ON c.entry_id = e.id AND c.account_id IS NULL JOIN category k ON k.id = c.category_id AND k.role IS NULL
    WHERE (SELECT count(*) FROM line x WHERE x.entry_id = e.id) = 2 AND e.origin = ''
        AND NOT EXISTS (SELECT 1 FROM payday y WHERE y.entry_id = e.id)
        AND NOT EXISTS (SELECT 1 FROM trade t WHERE t.entry_id = e.id)
    ORDER BY e.day DESC, e.id DESC"""


class Sorting(Story):
    def opens_the_field(self) -> None:
        expect(self.visitor.page.locator("input[data-other]")).to_be_attached()  # the picker took the select's place
        self.visitor.presses("c")


class TheFirstHour(Sorting):
    """An unsorted copy of the demo: the newest 500 wait, and of what was before nothing is known."""

    def setUp(self):
        super().setUp()
        self.usual: dict[str, str] = {}
        with contextlib.closing(sqlite3.connect(self.path)) as db:
            db.row_factory = sqlite3.Row
            db.execute("PRAGMA foreign_keys = ON")
            rows = db.execute(FILED).fetchall()
            for row in reversed(rows):
                self.usual[row["payee"]] = row["category"]
            db.executemany("UPDATE line SET category_id = 3 WHERE id = ?", [(row["line_id"],) for row in rows[MANY:]])
            db.execute("DELETE FROM rule")
            db.execute("DELETE FROM question")
            waiting = db.execute("SELECT count(*) FROM line WHERE category_id = 1").fetchone()[0]
            new = MANY - waiting
            db.executemany("UPDATE line SET category_id = 1 WHERE id = ?", [(row["line_id"],) for row in rows[:new]])
            db.executemany("UPDATE line SET category_id = 3 WHERE id = ?", [(row["line_id"],) for row in rows[new:MANY]])
            db.commit()

    def test_five_hundred_entries_to_none_in_at_most_fifty_acts(self):
        v = self.visitor
        v.goes_to("/sort")
        self.assertIn("500 entries", v.headline)
        acts = keys = 0
        while v.headline.startswith("Every entry") is False:
            self.assertLess(acts, 60, v.headline)
            before = v.headline
            if v.page.locator("input[name=pair]").count():
                v.presses_and_waits("Enter")
                keys += 1
            else:
                keys += self.decides()
            acts += 1
            expect(v.page.locator("h1")).not_to_have_text(before)
        print(f"first hour: 500 entries in {acts} acts, {keys} keys")
        self.assertLessEqual(acts, 50)

    def decides(self) -> int:
        """Files the open pile where it belongs: by a number if that is offered, else by a few letters; gives how many keys."""
        v = self.visitor
        payee = v.page.locator("section.stack h2 a").inner_text()
        wanted = self.usual.get(payee, "Household")
        offered = v.page.locator("#decide .choice").all_inner_texts()
        at = next((i for i, words in enumerate(offered, 1) if f" {wanted}" in words.replace("\n", " ")), None)
        if at:
            v.presses_and_waits(str(at))
            return 1
        letters = wanted[:8]
        self.opens_the_field()
        v.page.keyboard.type(letters)
        v.presses_and_waits("Enter")
        return len(letters) + 2


class TheWeeklyFiveMinutes(Sorting):
    bank = True

    def test_a_dozen_entries_two_of_them_odd(self):
        v = self.visitor
        v.goes_to("/")
        v.presses_and_waits("Enter")
        v.presses_and_waits("Enter")
        said = v.text
        v.presses_and_waits("w")
        v.presses_and_waits("Enter")
        self.assertRegex(f"{said} {v.text}", "rules filed [1-9]")  # said where it was brought in
        v.presses_and_waits("p")
        self.assertIn("would be filed under", v.headline)
        v.presses_and_waits("Enter")
        self.assertIn("as suggested", v.text)

        # All but the transfer was certain; taken back, a pile is filed elsewhere by a few letters.
        v.presses_and_waits("u")
        v.goes_to("/sort?pile=x")
        left = v.headline
        self.opens_the_field()
        v.page.keyboard.type("zzz")
        v.presses("Enter")
        self.assertEqual(v.headline, left)  # no category has these letters, so nothing is filed
        v.presses("Escape", "Escape")
        self.opens_the_field()
        v.page.keyboard.type("househ")
        v.presses_and_waits("Enter")
        self.assertIn("under Household", v.text)
        v.presses_and_waits("u")
        self.assertIn("Undone", v.text)

    def test_a_new_category_in_the_same_field(self):
        v = self.visitor
        v.goes_to("/sort?pile=x")
        self.opens_the_field()
        v.page.keyboard.type("Ropes")
        expect(v.page.get_by_role("option", name="Make “Ropes”…")).to_be_visible()
        v.presses("Enter")
        expect(v.page.get_by_role("option", name="Living")).to_be_visible()
        v.presses_and_waits("Enter")
        self.assertIn("under Ropes", v.text)

        # Undone, it is divided between two.
        v.presses_and_waits("u")
        left = v.headline
        v.presses("d")
        v.page.keyboard.type("900000")
        v.picks(v.page.get_by_role("combobox", name="Category of part 1"), "Household")
        v.picks(v.page.get_by_role("combobox", name="Category of part 2"), "Groceries")
        v.clicks("Split what is ticked")
        self.assertIn("The parts are more than the €", v.text)
        self.assertEqual(v.headline, left)
        v.fills("Amount or per cent of part 1", "40 %")
        v.clicks("Split what is ticked")
        self.assertRegex(v.text, r"Split .* between Household and Groceries")


class Correcting(Sorting):
    def test_a_correction_becomes_a_rule_and_why_says_so(self):
        v = self.visitor
        v.goes_to("/sort?pile=x")
        v.clicks("Sluice Wholefoods", role="link", within="aside")
        self.opens_the_field()
        v.page.keyboard.type("Household")
        v.presses_and_waits("Enter")
        self.assertIn("Filed 2 entries under Household", v.text)
        self.assertRegex(v.text, r"Make it a rule, \d+ past would follow")
        v.presses_and_waits("w")
        self.assertIn("the payee", v.text)
        met = v.page.locator("#met")
        self.assertRegex(" ".join(met.inner_text().split()), r"Meets 124 entries since .* 122 of them would change")
        v.clicks("Keep it for what comes")
        self.assertIn("kept for what comes", v.text)
        v.goes_to("/books/1")
        v.page.locator("tr[data-row]", has_text="Sluice Wholefoods").first.get_by_role("link").first.click()
        expect(v.page.locator(".known")).to_contain_text("Noor put it there")

    def test_in_a_register_the_offer_stands_beside_the_row_until_the_next_act(self):
        v = self.visitor
        v.goes_to("/books/5?text=kelp")
        v.page.locator("tr[data-row]").nth(1).get_by_role("link").first.click()
        v.settles()
        v.picks(v.page.locator("tr.opened input[role=combobox]").nth(1), "Presents")
        v.clicks("Keep the changes")
        row = v.page.locator("tr[data-row]").nth(1)
        expect(row).to_contain_text("Make it a rule, 60 past would follow")
        v.page.reload()
        expect(row).not_to_contain_text("Make it a rule")

    def test_a_question_asked_and_answered(self):
        v = self.visitor
        v.goes_to("/sort?pile=x")
        payee = v.page.locator("section.stack h2 a").inner_text()
        v.page.get_by_text("Tag it, note something").click()
        v.page.locator("#decide [name=note]").fill("was this for the studio?")
        v.page.locator("#decide [name=ask]").select_option(label="Itziar")
        v.clicks("Ask about it")
        self.assertIn("to Itziar", v.text)
        self.assertIn("with Itziar", v.text)
        v.page.get_by_label("Who sits here").select_option(label="Itziar")
        v.settles()
        v.goes_to("/")
        self.assertIn("was this for the studio?", v.text)
        v.clicks("Answer seven questions", role="link")
        section = v.page.locator("section.stack", has_text=payee).first
        v.picks(section.locator("input[role=combobox]").first, "Clay and glazes")
        section.get_by_label("Answer").fill("two bags")
        section.get_by_role("button", name="Answer").click()
        v.settles()
        self.assertIn("Answered about", v.text)
        self.assertIn("Clay and glazes: two bags", v.text)
