"""Registers: what each bulk change does and undoes, find, an entry's history in words, attachments, and what is exported."""

import io
import json
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from PIL import Image

from bolsa.errors import InvalidInput, NotAllowed
from bolsa.services import changes
from bolsa.services.checking import checking
from bolsa.services.house import exports
from bolsa.services.ledger import attaching, correcting, entries, finding, registers
from bolsa.services.ledger.entry_history import list_history
from bolsa.services.ledger.registers import ManyChange, RegisterFilter
from tests.services.household import BY, TODAY, HouseholdCase, picture


class ManyAtOnce(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.ids = [self.spends(1_200, payee="Otter Books"), self.spends(900, "Household", payee="Lantern Hardware")]

    def rows(self, **wanted):
        return registers.list_page(self.db, BY, self.current, RegisterFilter(**wanted)).rows

    def test_each_change_does_what_it_says_and_is_undone_as_one(self):
        groceries, before = self.category("Groceries"), self.rows()
        for asked, holds in (
            (ManyChange("file", groceries), lambda row: row.others[0].category_id == groceries),
            (ManyChange("payee", text=" Quay  shop "), lambda row: row.payee == "Quay shop"),
            (ManyChange("tag", text="#winter trip"), lambda row: row.tags == ("winter-trip",)),
            (ManyChange("member", member_id=2), lambda row: row.members == ("Bo",)),
            (ManyChange("cleared"), lambda row: row.state == "cleared"),
            (ManyChange("shift", days=-3), lambda row: row.day == TODAY - timedelta(days=3)),
        ):
            with self.subTest(asked.what):
                step_id = registers.change_many(self.db, BY, self.current, self.ids, asked).step_id
                changed = [row for row in self.rows() if row.entry_id in self.ids]
                self.assertEqual([bool(holds(row)) for row in changed], [True, True])
                changes.undo_step(self.db, BY, step_id)
                self.assertEqual(self.rows(), before)

    def test_one_locked_entry_keeps_all_as_they_were(self):
        registers.change_many(self.db, BY, self.current, self.ids[:1], ManyChange("cleared"))
        checking.reconcile(self.db, BY, checking.begin_statement(self.db, BY, self.current, TODAY, 98_800).made)
        before = self.rows()
        for what in ("delete", "shift"):
            with self.subTest(what), self.assertRaisesRegex(NotAllowed, "reconciled with the statement"):
                registers.change_many(self.db, BY, self.current, self.ids[::-1], ManyChange(what, days=1))
            self.assertEqual(self.rows(), before)

    def test_what_is_asked_without_its_field_is_refused(self):
        wrong = [
            ManyChange("file"),
            ManyChange("tag", text="#"),
            ManyChange("shift"),
            ManyChange("shift", days=900),
            ManyChange("x"),
        ]
        for asked in wrong:
            with self.subTest(asked), self.assertRaises(InvalidInput):
                registers.change_many(self.db, BY, self.current, self.ids, asked)

    def test_find_by_words_names_tags_and_amounts(self):
        registers.change_many(self.db, BY, self.current, self.ids, ManyChange("tag", text="winter"))
        for typed, found in (
            ("otter boo", ["Otter Books"]), ("12.00", ["Otter Books"]), ("lantern zzz", []), ("LÁNTERN", ["Lantern Hardware"]),
        ):  # fmt: skip
            with self.subTest(typed):
                self.assertEqual([line.payee for line in finding.find_everything(self.db, typed).lines], found)
        self.assertEqual(finding.find_everything(self.db, "#wint").tags, ("winter",))
        self.assertEqual([a.name for a in finding.find_everything(self.db, "res").accounts], ["Reserve"])
        entries.delete_entry(self.db, BY, self.ids[0])
        self.assertEqual(finding.find_everything(self.db, "otter").lines, ())


class OneEntry(HouseholdCase):
    def test_its_history_tells_from_what_to_what(self):
        entry_id = self.spends(1_200)
        line = entries.get_entry(self.db, entry_id).account_lines[0]
        correcting.correct_amount(self.db, BY, line.id, -1_250)
        entries.set_category(self.db, BY, entry_id, self.category("Household"))
        said = [words for step in list_history(self.db, entry_id) for words in step.changes]
        for words in ("Current: -12.00 EUR → -12.50 EUR", "filed: Groceries → Household"):
            self.assertIn(words, said)

    def test_six_pdfs_at_once_and_a_hostile_one_leave_the_server_standing(self):
        document = io.BytesIO()
        Image.new("RGB", (40, 40), (9, 9, 9)).save(document, "PDF")
        with ThreadPoolExecutor(6) as pool:
            found = list(pool.map(attaching.look_at, [document.getvalue()] * 6))
        self.assertEqual({one[0] for one in found}, {"application/pdf"})
        with self.assertRaisesRegex(InvalidInput, "The PDF is damaged"):
            attaching.look_at(document.getvalue()[:300])

    def test_attachments_are_known_by_content_and_survive_the_trash(self):
        entry_id = self.spends(1_200)
        for name, content in (("a.txt", picture()), ("b.png", picture(kind="PDF"))):
            attaching.attach(self.db, BY, entry_id, name, content)
        kinds = [one.media_type for one in attaching.list_attachments(self.db, entry_id)]
        self.assertEqual(kinds, ["image/png", "application/pdf"])
        for content, words in (
            (b"", "Choose an image"), (b"<svg/>", "no image"), (b"%PDF-1.4 broken", "damaged"), (picture()[:60], "damaged"),
            (b"x" * (10 * 1024 * 1024 + 1), "larger than 10 MB"), (picture((8000, 7000), "GIF"), "50 million"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                attaching.attach(self.db, BY, entry_id, "x", content)
        entries.delete_entry(self.db, BY, entry_id)
        changes.restore_entry(self.db, BY, changes.list_trash(self.db)[0].id)
        self.assertEqual(len(attaching.list_attachments(self.db, entry_id)), 2)

    def test_everything_leaves_with_the_export(self):
        entry_id = self.spends(1_200)
        registers.change_many(self.db, BY, self.current, [entry_id], ManyChange("tag", text="winter"))
        attaching.attach(self.db, BY, entry_id, "till.png", picture())
        written = {path.name for path in exports.export_all(self.db, self.folder / "out")}
        everything = json.loads((self.folder / "out" / "bolsa.json").read_text())
        self.assertEqual([one["tag"] for one in everything["line_tags"]], ["winter"])
        self.assertIn(everything["attachments"][0]["sha256"] + ".png", written)
