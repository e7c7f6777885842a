"""Out and in again: what is exported whole makes the same household, and what does not hold is refused and leaves no file."""

import json
import random
import shutil
from contextlib import closing
from pathlib import Path

import jsonschema

from bolsa.bench.soak.person import OFTEN, SELDOM, Person
from bolsa.errors import BolsaError, Conflict, UnreadableFile
from bolsa.services import changes
from bolsa.services.bringing import bringing_in
from bolsa.services.bringing.questions import Answers
from bolsa.services.house import exports, files, preferences, whole
from bolsa.services.ledger import attaching, entries, listing
from bolsa.store.bringing import batches
from docs import write_schema
from tests.services.household import BY, HouseholdCase, picture

FILE = b"Date,Payee,Amount\n2026-05-02,Quay Books,-7.00\n2026-05-03,Grebe,-2.00\n"


def contents(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


class OutAndIn(HouseholdCase):
    def setUp(self):
        super().setUp()
        self.out = self.folder / "out"
        self.again = self.folder / "again.bolsa"

    def lives(self, seed):
        """A household in which much happened, with an account of each kind, a file, a picture, ticks and a full trash."""
        for name, kind, more in (("Van", "vehicle", {}), ("Kronor", "savings", {"currency": "SEK"}), ("Loan", "loan", {})):
            self.an_account(f"{name} {seed}", kind, **more)
        person = Person(self.db, random.Random(seed))
        for _ in range(60):
            try:
                person.dice.choice(OFTEN + SELDOM)(person)
            except BolsaError:
                continue
        purse = self.an_account(f"Purse {seed}")
        attaching.attach(self.db, BY, self.spends(500, account=purse, category="Bank charges"), "bill.png", picture())
        gone = self.spends(700, account=purse, category="Bank charges")
        attaching.attach(self.db, BY, gone, "gone.png", picture((9, 9)))
        entries.delete_entry(self.db, BY, gone)
        preferences.choose_reader(self.db, "de_DE", is_dense=True)

    def bring(self):
        whole.bring_whole(self.out, self.again)
        return closing(files.open_household(self.again))

    def test_out_and_in_and_out_gives_the_same_bytes(self):
        for seed in (3, 4):
            with self.subTest(seed):
                self.lives(seed)
                shutil.rmtree(self.out, ignore_errors=True)
                self.again.unlink(missing_ok=True)
                exports.export_all(self.db, self.out)
                with self.bring() as db:
                    exports.export_all(db, self.folder / f"out{seed}")
                    self.assertEqual(listing.check(db), [])
                self.assertEqual(contents(self.out), contents(self.folder / f"out{seed}"))

    def test_it_is_what_the_schema_in_the_docs_describes(self):
        self.assertEqual(write_schema.PATH.read_text(encoding="utf-8"), write_schema.schema_text(), "run “make schema”")
        self.lives(5)
        exports.export_all(self.db, self.out)
        schema = json.loads(write_schema.PATH.read_text(encoding="utf-8"))
        validator = jsonschema.Draft202012Validator(schema)
        told = json.loads((self.out / whole.NAME).read_text(encoding="utf-8"))
        self.assertEqual([error.message for error in validator.iter_errors(told)], [])
        told["tables"]["line"][0]["amount_minor"] = "1"
        self.assertTrue(list(validator.iter_errors(told)))

    def test_what_was_known_is_known_and_what_lay_in_the_trash_comes_back(self):
        self.lives(6)
        late = self.an_account("Late")
        bringing_in.import_file(self.db, BY, "a.csv", FILE, Answers(late))
        trashed = changes.list_trash(self.db)[0]
        sentences = [step.sentence for step in changes.list_steps(self.db)]
        exports.export_all(self.db, self.out)
        with self.bring() as db:
            self.assertEqual(bringing_in.import_file(db, BY, "a.csv", FILE, Answers(late)).known, 2)
            restored = changes.restore_entry(db, BY, trashed.id).made
            (attached,) = attaching.list_attachments(db, restored)
            self.assertEqual(attaching.get_file(db, attached.id)[1], picture((9, 9)))
            self.assertEqual([step.sentence for step in changes.list_steps(db)][2:][:20], sentences[:20])
            self.assertTrue(preferences.reader_of(db).is_dense)
            self.assertEqual(batches.list_batches(db, "brought")[0].name, "a.csv")

    def test_what_does_not_hold_is_named_and_leaves_no_file(self):
        self.lives(7)
        exports.export_all(self.db, self.out)
        path = self.out / whole.NAME
        told = json.loads(path.read_text(encoding="utf-8"))
        attached = next((self.out / whole.FILES).iterdir())

        def change_line(tables):
            tables["line"][0]["amount_minor"] += 1

        def drop_payee(tables):
            tables["payee"] = [row for row in tables["payee"] if row["id"] != tables["entry"][0]["payee_id"]]

        def other_columns(tables):
            tables["entry"][0].pop("memo")

        def odd_kind(tables):
            tables["account"][0]["kind"] = "purse"

        def unknown_table(tables):
            tables["sqlite_master"] = []

        cases = (
            (change_line, "every entry sums to zero"), (drop_payee, "refers to payee that is not there"),
            (other_columns, "Row 1 of entry has not the columns"), (odd_kind, "Row 1 of account cannot be kept"),
            (unknown_table, "no table “sqlite_master”"),
        )  # fmt: skip
        for damage, sentence in cases:
            with self.subTest(damage.__name__):
                damaged = json.loads(json.dumps(told))
                damage(damaged["tables"])
                self.refuses(json.dumps(damaged), sentence)
        newer = told | {"bolsa": {"schema": 9_999}}
        for text, sentence in (
            (json.dumps(newer), "a newer Bolsa"),
            ("{", "no JSON"),
            ("[]", "is not what"),
            ("[" * 99_999, "no JSON"),
        ):
            with self.subTest(sentence):
                self.refuses(text, sentence)
        path.write_text(json.dumps(told), encoding="utf-8")
        attached.write_bytes(picture((7, 7)))
        with self.assertRaisesRegex(UnreadableFile, "is not the one that was exported"):
            whole.bring_whole(self.out, self.again)
        attached.unlink()
        with self.assertRaisesRegex(UnreadableFile, "refers to an attached file that is not there"):
            whole.bring_whole(self.out, self.again)
        with self.assertRaisesRegex(Conflict, "is there already"):
            whole.bring_whole(self.out, self.path)
        with self.assertRaisesRegex(UnreadableFile, "is not there. Name the folder"):
            whole.bring_whole(self.folder / "nowhere", self.again)
        self.assertEqual([one.name for one in self.folder.glob("again*")], [])

    def refuses(self, text, sentence):
        (self.out / whole.NAME).write_text(text, encoding="utf-8")
        with self.assertRaisesRegex(UnreadableFile, sentence):
            whole.bring_whole(self.out, self.again)
